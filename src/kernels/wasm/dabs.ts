/**
 * Dabs (assembly/dabs.ts, laying.ts). Where all that they read and write lies in the memory they work in place, else the twin
 * does: its bits are the same, and copies would cost more than the work.
 */
import type { Arena } from '../arena';
import { FALLOFF_STEPS, type DabKernels, type FaceShapes, type PictureLevel } from '../dabs';
import type { SurfaceDabShape, SurfaceTexels, TextureShape, TipShape } from '../dabs';
import { dabsTwin } from '../dabsTwin';
import { placesIn } from './placesIn';

type Numbers = (...args: number[]) => void;

export interface DabExports {
  dabInSheet(...args: number[]): number;
  dabOnSurface: Numbers;
  layDab: Numbers;
  layOwn: Numbers;
  paintColour: Numbers;
  paintValue: Numbers;
  clearRect: Numbers;
  textureInSheet: Numbers;
  textureOnBox: Numbers;
  breakUp: Numbers;
}

const OUTLINES = ['round', 'square', 'picture'] as const;
const JOINS = ['times', 'lighten', 'height'] as const;
/** Offsets of records, in numbers of four bytes: a tip (assembly/tips.ts), a dab (assembly/dabs.ts), a rectangle, blocks. */
const TIP = 0;
const DAB = 32;
const TOUCHED = 64;
const BLOCKS = 68;

/** With a border of one texel: zeros for a picture, what comes next for one that goes on without end. */
function padded({ side, values }: PictureLevel, repeats: boolean, out: Float32Array): void {
  const from = repeats ? 0 : -1;
  let o = 0;
  for (let y = from; y <= side; y++)
    for (let x = from; x <= side; x++) {
      if (repeats) out[o++] = values[(y % side) * side + (x % side)];
      else out[o++] = x < 0 || y < 0 || x === side || y === side ? 0 : values[y * side + x];
    }
}

/** `room`: for numbers that stay in the memory. */
export function dabs(k: DabExports, arena: Arena, room: (count: number) => Float32Array | null): DabKernels {
  const { f32, i32 } = arena;
  const records = arena.weights >> 2;
  const facePlaces = placesIn(arena);
  const texelPlaces = placesIn(arena);
  const pictures = [new WeakMap<Float32Array, Float32Array>(), new WeakMap<Float32Array, Float32Array>()];

  /** Address of a picture's copy; null: there is no room. */
  function pictureAt(level: PictureLevel, repeats: boolean): number | null {
    const kept = pictures[repeats ? 1 : 0];
    let copy = kept.get(level.values);
    if (!copy) {
      const made = room((level.side + (repeats ? 1 : 2)) ** 2);
      if (!made) return null;
      padded(level, repeats, made);
      kept.set(level.values, (copy = made));
    }
    return copy.byteOffset;
  }

  function putTexture({ picture, scale, x, y, slope, invert, depth, join }: TextureShape, o: number): boolean {
    const at = pictureAt(picture, true);
    if (at === null) return false;
    i32[o + 6] = at;
    i32[o + 7] = picture.side;
    f32[o + 8] = scale;
    f32[o + 9] = x;
    f32[o + 10] = y;
    f32[o + 11] = slope;
    i32[o + 12] = invert ? 1 : 0;
    f32[o + 13] = depth;
    i32[o + 14] = JOINS.indexOf(join);
    return true;
  }

  /** Writes a tip's record. false: something of it lies outside. */
  function putTip({ outline, falloff, picture, reads, apart, texture }: TipShape): boolean {
    const o = records + TIP;
    const table = arena.inPlace(falloff);
    const at = picture ? pictureAt(picture, false) : 0;
    if (table === null || at === null) return false;
    i32[o] = OUTLINES.indexOf(outline);
    i32[o + 1] = table;
    i32[o + 2] = at;
    i32[o + 3] = picture?.side ?? 0;
    i32[o + 4] = reads;
    f32[o + 5] = apart;
    i32[o + 6] = 0;
    if (texture && !putTexture(texture, o)) return false;
    // Nothing lies further out; pictures reach half a texel beyond their rim.
    f32[o + 15] = picture ? 1 + 1 / picture.side : 1;
    f32[o + 16] = picture ? 1 + 1 / picture.side + (reads * apart) / 2 : 1;
    return true;
  }

  function putDab(dab: SurfaceDabShape): boolean {
    const { faces, frame, plane, normal, reach, radius } = dab;
    const places = facePlaces(faces, facesOf);
    const table = knownOf(faces);
    if (!places || table === null || !putTip(dab.tip)) return false;
    const o = records + DAB;
    const r2 = Math.fround(radius * radius);
    f32[o] = dab.x;
    f32[o + 1] = dab.y;
    f32[o + 2] = dab.z;
    f32[o + 3] = reach * reach;
    f32[o + 4] = FALLOFF_STEPS / r2;
    i32[o + 5] = frame ? 1 : 0;
    if (frame) for (let n = 0; n < 9; n++) f32[o + 6 + n] = frame[n];
    i32[o + 15] = dab.included;
    for (let n = 0; n < 4; n++) i32[o + 16 + n] = places[n];
    for (let n = 0; n < 3; n++) {
      f32[o + 20 + n] = plane[n];
      f32[o + 23 + n] = normal[n];
      f32[o + 26 + n] = Math.fround(normal[n]) / 127;
    }
    i32[o + 29] = arena.weights + TIP * 4;
    i32[o + 30] = table;
    i32[o + 31] = ++dabNumber;
    return true;
  }

  /** What a dab has found out about faces: eight bytes each. */
  const known = new WeakMap<FaceShapes, Float32Array | null>();
  function knownOf(faces: FaceShapes): number | null {
    let table = known.get(faces);
    if (table === undefined) known.set(faces, (table = room(faces.bent.length * 2)?.fill(0) ?? null));
    return table && table.byteOffset;
  }
  let dabNumber = 0;

  const facesOf = ({ stamp, hidden, faceNormal, bent }: FaceShapes) => [stamp, hidden, faceNormal, bent];
  const texelsOf = ({ position, normal, face, blockNormals }: SurfaceTexels) => [position, normal, face, blockNormals];
  let lastDab: SurfaceDabShape | null = null;

  return {
    dabInSheet: (out, rect, tip, dx, dy, frame) => {
      const at = arena.inPlace(out);
      lastDab = null;
      if (at === null || !putTip(tip)) return dabsTwin.dabInSheet(out, rect, tip, dx, dy, frame);
      const { a, b, c, d } = frame;
      return k.dabInSheet(at, rect.x0, rect.y0, rect.x1, rect.y1, arena.weights + TIP * 4, dx, dy, a, b, c, d) !== 0;
    },
    dabOnSurface: (out, texels, blocks, dab, touched) => {
      const at = arena.inPlace(out);
      const places = texelPlaces(texels, texelsOf);
      // A dab goes to several tiles, one after the other.
      const ready = at !== null && places !== null && (dab === lastDab || putDab(dab));
      if (!ready) {
        lastDab = null;
        return dabsTwin.dabOnSurface(out, texels, blocks, dab, touched);
      }
      lastDab = dab;
      const o = records + TOUCHED;
      i32[o] = touched.x0;
      i32[o + 1] = touched.y0;
      i32[o + 2] = touched.x1;
      i32[o + 3] = touched.y1;
      for (let n = 0; n < blocks.length; n++) i32[records + BLOCKS + n] = blocks[n];
      const record = (place: number) => arena.weights + place * 4;
      const [position, normal, face, cones] = places;
      k.dabOnSurface(at, position, normal, face, cones, record(BLOCKS), blocks.length, record(DAB), record(TOUCHED));
      touched.x0 = i32[o];
      touched.y0 = i32[o + 1];
      touched.x1 = i32[o + 2];
      touched.y1 = i32[o + 3];
    },
    layDab: (values, gains, rect, flow, cap, firm = 0) => {
      const [a, b] = [arena.inPlace(values), arena.inPlace(gains)];
      if (a === null || b === null) return dabsTwin.layDab(values, gains, rect, flow, cap, firm);
      k.layDab(a, b, rect.x0, rect.y0, rect.x1, rect.y1, flow, cap, firm);
    },
    textureValues: (out, coverage, rect, texture, at) => {
      const [a, b] = [arena.inPlace(out), arena.inPlace(coverage)];
      lastDab = null;
      const places = 'face' in at ? texelPlaces(at, texelsOf) : [];
      if (a === null || b === null || !places || !putTexture(texture, records + TIP))
        return dabsTwin.textureValues(out, coverage, rect, texture, at);
      const tip = arena.weights + TIP * 4;
      if ('face' in at) k.textureOnBox(a, b, rect.x0, rect.y0, rect.x1, rect.y1, tip, places[0], places[1]);
      else k.textureInSheet(a, b, rect.x0, rect.y0, rect.x1, rect.y1, tip, at.x, at.y);
    },
    breakUp: (out, coverage, values, depths, rect, { depth, join }) => {
      const places = [out, coverage, values, depths].map((numbers) => (numbers ? arena.inPlace(numbers) : 0));
      if (places.some((p) => p === null)) return dabsTwin.breakUp(out, coverage, values, depths, rect, { depth, join });
      const [a, b, c, d] = places as number[];
      k.breakUp(a, b, c, d, rect.x0, rect.y0, rect.x1, rect.y1, depth, JOINS.indexOf(join));
    },
    clearRect: (plane, rect) => {
      const at = arena.inPlace(plane);
      if (at === null) return dabsTwin.clearRect(plane, rect);
      k.clearRect(at, rect.x0, rect.y0, rect.x1, rect.y1);
    },
    layOwn: (planes, own, values, gains, rect, flow, cap, firm = 0) => {
      const places = [planes, values, gains].map((numbers) => arena.inPlace(numbers));
      if (cap === 0 || places.some((p) => p === null)) return dabsTwin.layOwn(planes, own, values, gains, rect, flow, cap, firm);
      lastDab = null;
      own.forEach((v, n) => (f32[records + n] = v));
      const [a, b, c] = places as number[];
      k.layOwn(a, arena.weights, own.length, b, c, rect.x0, rect.y0, rect.x1, rect.y1, flow, cap, firm);
    },
    paintOver: (texels, rect) => {
      const { channels, coverage, amount, before, after, value, colours } = texels;
      const places = [after, before, coverage, colours].map((numbers) => (numbers ? arena.inPlace(numbers) : 0));
      if (places.some((p) => p === null)) return dabsTwin.paintOver(texels, rect);
      lastDab = null;
      value.forEach((v, n) => (f32[records + n] = v));
      const paint = channels === 4 ? k.paintColour : k.paintValue;
      const [a, b, c, d] = places as number[];
      paint(a, b, c, d, arena.weights, amount, rect.x0, rect.y0, rect.x1, rect.y1);
    },
  };
}
