/** What a dab gives at one place: rounded to float32 as the kernels do, for places that are asked one by one. */
import {
  FACING_FULL,
  FACING_NONE,
  FALLOFF_STEPS,
  PLANES_FULL,
  PLANES_NONE,
  type PictureLevel,
  type SurfaceDabShape,
  type TextureShape,
  type TipShape,
} from './dabs';

const f = Math.fround;

/** Pictures on the model fade from this height above their plane, in radii, to nothing at the rim of the ball. */
const FADES_FROM = f(0.7);
const FADES_OVER = f(f(1) - FADES_FROM);
/** Of a texture's heights, what is over is laid over a tenth of the range. */
const SOFT = f(0.1);
const SOFT_WHOLE = f(1 + SOFT);

const clamp01 = (v: number) => (v > 0 ? (v < 1 ? v : 1) : 0);

/** Bilinear, u and v in −1 … 1; 0 outside. */
export function pictureAt({ side, values }: PictureLevel, u: number, v: number): number {
  const x = f(f(f(f(f(u) * 0.5) + 0.5) * side) - 0.5);
  const y = f(f(f(f(f(v) * 0.5) + 0.5) * side) - 0.5);
  if (!(x > -1 && y > -1 && x < side && y < side)) return 0;
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const o = y0 * side + x0;
  const left = x0 >= 0;
  const right = x0 + 1 < side;
  const up = y0 >= 0;
  const down = y0 + 1 < side;
  return between(
    left && up ? values[o] : 0,
    right && up ? values[o + 1] : 0,
    left && down ? values[o + side] : 0,
    right && down ? values[o + side + 1] : 0,
    f(x - x0),
    f(y - y0),
  );
}

/** Bilinear, x and y in repeats of the picture, which goes on without end. */
export function repeatedAt({ side, values }: PictureLevel, x: number, y: number): number {
  const px = f(f(f(x) * side) - 0.5);
  const py = f(f(f(y) * side) - 0.5);
  const x0 = Math.floor(px);
  const y0 = Math.floor(py);
  const mask = side - 1;
  const left = x0 & mask;
  const right = (x0 + 1) & mask;
  const up = (y0 & mask) * side;
  const down = ((y0 + 1) & mask) * side;
  return between(values[up + left], values[up + right], values[down + left], values[down + right], f(px - x0), f(py - y0));
}

function between(a: number, b: number, c: number, d: number, fx: number, fy: number): number {
  const gx = f(1 - fx);
  return f(f(f(f(a * gx) + f(b * fx)) * f(1 - fy)) + f(f(f(c * gx) + f(d * fx)) * fy));
}

/** The texture's value with its contrast, 0 … 1. */
export function toned({ slope, invert }: Pick<TextureShape, 'slope' | 'invert'>, value: number): number {
  const v = invert ? f(1 - value) : value;
  return slope === 1 ? v : clamp01(f(f(f(v - 0.5) * f(slope)) + 0.5));
}

/** What a tip gives where the texture is `t`. All 0 … 1; a depth of 0 changes nothing. */
export function joined({ depth, join }: Pick<TextureShape, 'depth' | 'join'>, share: number, t: number): number {
  const d = f(depth);
  const rest = f(1 - d);
  if (join === 'times') return f(share * f(rest + f(d * t)));
  const most = Math.min(1, f(share * 4));
  if (join === 'lighten') return f(f(share * rest) + f(f(d * t) * most));
  // Deep places need more paint: 1 − t of the whole.
  const filled = clamp01(f(f(f(share * SOFT_WHOLE) - f(1 - t)) / SOFT));
  return f(f(share * rest) + f(f(d * filled) * most));
}

/** What a tip gives at a place in its frame, 0 … 1. */
export function tipShare(tip: TipShape, u: number, v: number, w: number): number {
  const { picture, texture } = tip;
  let share = 0;
  if (picture === null) {
    const [a, b, c] = [f(u * u), f(v * v), f(w * w)];
    const d2 = tip.outline === 'square' ? Math.max(a, b, c) : f(f(a + b) + c);
    if (!(d2 < 1)) return 0;
    share = tip.falloff[Math.trunc(f(d2 * FALLOFF_STEPS))];
  } else {
    const above = Math.abs(w);
    if (!(above < 1)) return 0;
    if (tip.reads === 1) share = pictureAt(picture, u, v);
    else {
      const apart = f(tip.apart);
      let at = f(v - f(f((tip.reads - 1) * apart) * 0.5));
      for (let n = 0; n < tip.reads; n++, at = f(at + apart)) share = f(share + pictureAt(picture, u, at));
      share = f(share / tip.reads);
    }
    if (above > FADES_FROM) share = f(share * f(f(1 - above) / FADES_OVER));
  }
  if (texture === null || share === 0) return share;
  const { scale, x, y } = texture;
  const value = repeatedAt(texture.picture, f(f(u * f(scale)) + f(x)), f(f(v * f(scale)) + f(y)));
  return joined(texture, share, toned(texture, value));
}

/** 1 from `full` on, 0 from `none` on, smooth between. */
function fade(cosine: number, full: number, none: number): number {
  const t = clamp01(f(f(cosine - f(none)) / f(f(full) - f(none))));
  return f(f(t * t) * f(3 - f(2 * t)));
}

const dot = (x: number, y: number, z: number, n: readonly number[], o = 0): number =>
  f(f(f(x * f(n[o])) + f(y * f(n[o + 1]))) + f(z * f(n[o + 2])));

/** 0 … 1 by a normal as shaded. */
export const facingOfNormal = ({ normal }: Pick<SurfaceDabShape, 'normal'>, x: number, y: number, z: number): number =>
  fade(dot(x, y, z, normal), FACING_FULL, FACING_NONE);

/** What a face gets by its plane, 0 … 1; of a bent face by its own normal too, whatever its texels' are. */
export function facingOfFace(dab: SurfaceDabShape, face: number): number {
  const { faces } = dab;
  if (face < 0 || (dab.included === 0 ? faces.hidden[face] !== 0 : faces.stamp[face] !== dab.included)) return 0;
  const n = faces.faceNormal;
  const [x, y, z] = [n[face * 3], n[face * 3 + 1], n[face * 3 + 2]];
  const share = fade(dot(x, y, z, dab.plane), PLANES_FULL, PLANES_NONE);
  return faces.bent[face] ? Math.min(share, facingOfNormal(dab, x, y, z)) : share;
}

/** What a dab's tip gives at an offset from its middle, metres, before facing. */
export function givenInSpace({ tip, frame, radius }: SurfaceDabShape, x: number, y: number, z: number): number {
  if (frame) return tipShare(tip, dot(x, y, z, frame), dot(x, y, z, frame, 3), dot(x, y, z, frame, 6));
  const d2 = f(f(f(x * x) + f(y * y)) + f(z * z));
  const at = Math.trunc(f(d2 * f(FALLOFF_STEPS / f(radius * radius))));
  return tip.falloff[Math.min(FALLOFF_STEPS, at)];
}
