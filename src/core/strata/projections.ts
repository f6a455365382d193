/** Where the texels of a tile lie in a placement (placement.ts), as fields for rules and places for pictures. */
import type { Sheet } from '../document/schema';
import { kernels } from '../kernels';
import { TILE, TILE_TEXELS, tileX, tileY, type TileIndex } from '../tile/tiles';
import { planeFrame, type Placement } from '../kinds/placement';
import type { Field } from '../kinds/sources/source';
import { unfoldAround, type Unfolded } from '../mesh/unfold';
import { dropTile, type Surface } from '../mesh/surface';

type Wrap = Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>;

/** From (u, v) to repeats: x = a·u + b·v, y = c·u + d·v. Whole numbers on axes that wrap. */
export function uvMatrix(p: Placement, sheet: Wrap): { a: number; b: number; c: number; d: number } {
  const turn = (p.turn * Math.PI) / 180;
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  const tall = sheet.height / sheet.width;
  let [a, b, c, d] = [cos * p.repeats, sin * p.repeats * tall, -sin * p.repeats, cos * p.repeats * tall];
  if (sheet.wrapU) [a, c] = wholeColumn(a, c);
  if (sheet.wrapV) [d, b] = wholeColumn(d, b);
  // Two whole columns may come to lie on one line: then the turn is let go.
  if (sheet.wrapU && sheet.wrapV && a * d - b * c === 0) {
    [a, b] = [Math.max(1, Math.round(p.repeats)), 0];
    [c, d] = [0, Math.max(1, Math.round(p.repeats * tall))];
  }
  return { a, b, c, d };
}

/** Rounded, and never nothing: the larger one is at least one repeat. */
function wholeColumn(main: number, other: number): [number, number] {
  const [m, o] = [Math.round(main), Math.round(other)];
  if (m !== 0 || o !== 0) return [m + 0, o + 0];
  return Math.abs(main) >= Math.abs(other) ? [main < 0 ? -1 : 1, 0] : [0, other < 0 ? -1 : 1];
}

const gcd = (a: number, b: number): number => (b === 0 ? Math.abs(a) : gcd(b, a % b));

/** After how many repeats the field comes round when the sheet does. */
function periodsOf(m: ReturnType<typeof uvMatrix>, sheet: Wrap): [number, number] {
  const of = (u: number, v: number) => gcd(sheet.wrapU ? u : 0, sheet.wrapV ? v : 0);
  return [of(m.a, m.b), of(m.c, m.d)];
}

export interface Projection {
  field: Field;
  /** How much of the result is this one's; null: all. Sums to 1 over the projections. */
  weight: Float32Array | null;
  /** How far the repeats are turned against the texture's own X (radians), for pictures of directions. */
  turned: number;
}

/** A turn, an offset and mirroring of coordinates in repeats, as a matrix. */
function settler(p: Placement, turn: number) {
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const [mx, my] = [p.mirrorX ? -1 : 1, p.mirrorY ? -1 : 1];
  return { xx: mx * c, xy: mx * s, x: mx * p.offset[0], yx: -my * s, yy: my * c, y: my * p.offset[1] };
}

/** The same over the sheet itself: x and y run 0 … 1, y down. */
export function sheetField(sheet: Wrap, tile: TileIndex): Field {
  const [x, y, z] = [0, 1, 2].map(() => kernels().floats(TILE_TEXELS));
  const [x0, y0] = [tileX(tile) * TILE, tileY(tile) * TILE];
  for (let r = 0, i = 0; r < TILE; r++)
    for (let c = 0; c < TILE; c++, i++) {
      x[i] = (x0 + c + 0.5) / sheet.width;
      y[i] = (y0 + r + 0.5) / sheet.height;
    }
  z.fill(0);
  const period: [number, number] = [sheet.wrapU ? 1 : 0, sheet.wrapV ? 1 : 0];
  return { n: TILE_TEXELS, x, y, z, flat: true, period, texel: 1 / sheet.width, below: null };
}

/** Places on the model, divided by `size` and around `centre`; texels off the islands lie at the centre. */
function solidField(surface: Surface, tile: TileIndex, centre: readonly number[], size: number): Field {
  const { there, field } = spaceField(surface, tile, centre, size);
  const whole = (from: Float32Array) => {
    const to = kernels().floats(TILE_TEXELS).fill(0);
    for (let i = 0; i < there.length; i++) to[there[i]] = from[i];
    return to;
  };
  const [x, y, z] = [field.x, field.y, field.z].map(whole);
  return { ...field, n: TILE_TEXELS, x, y, z, below: () => whole(field.below!()) };
}

interface SpaceField {
  /** Texels of the tile that lie on the model. */
  there: Int32Array;
  /** Only those, and the last one again to make it a multiple of four. */
  field: Field;
}

/** The last ones, newest first: rules above each other most often lie in space in the same way. */
let spaceFields: { key: string; of: SpaceField }[] = [];
const KEPT_FIELDS = 4;

/**
 * Texels of a tile that lie on the model, in space; of these, those where `where` is not 0. Valid until others have been asked for, with
 * `where` until the arena's mark is released.
 */
export function spaceField(
  surface: Surface,
  tile: TileIndex,
  centre: readonly number[],
  size: number,
  where: Float32Array | null = null,
): SpaceField {
  if (where) return spaceFieldOf(surface, tile, centre, size, where);
  const key = `${surface.stamp} ${tile} ${centre.join(' ')} ${size}`;
  const known = spaceFields.find((f) => f.key === key);
  if (known) return known.of;
  const of = spaceFieldOf(surface, tile, centre, size, null);
  spaceFields = [{ key, of }, ...spaceFields.slice(0, KEPT_FIELDS - 1)];
  return of;
}

function spaceFieldOf(
  surface: Surface,
  tile: TileIndex,
  centre: readonly number[],
  size: number,
  where: Float32Array | null,
): SpaceField {
  const s = surface.tiles.get(tile);
  const there = s ? onModel(s, where) : new Int32Array(0);
  const n = (there.length + 3) & ~3;
  const [x, y, z] = [0, 1, 2].map(() => (where ? kernels().floats(n) : new Float32Array(n)));
  if (there.length > 0) kernels().spaced(s!.position, there, centre, size, x, y, z);
  const below = () => {
    const out = kernels().floats(n);
    const drop = dropTile(surface, tile);
    for (let i = 0; i < n; i++) out[i] = drop[there[i < there.length ? i : there.length - 1]] / size;
    return out;
  };
  const texel = 1 / (surface.texelsPerMetre * size);
  return { there, field: { n, x, y, z, flat: false, period: [0, 0] as const, texel, below } };
}

const lists = new WeakMap<object, Int32Array>();

function onModel(tile: { face: Int32Array }, where: Float32Array | null): Int32Array {
  let list = lists.get(tile);
  if (!list) {
    const out = new Int32Array(TILE_TEXELS);
    let count = 0;
    for (let i = 0; i < TILE_TEXELS; i++) if (tile.face[i] >= 0) out[count++] = i;
    lists.set(tile, (list = out.slice(0, count)));
  }
  if (!where) return list;
  const out = new Int32Array(list.length);
  let count = 0;
  for (let i = 0; i < list.length; i++) {
    const t = list[i];
    out[count] = t;
    // Without a branch: where a noise hides every other texel it is guessed wrong half the time.
    count += where[t] === 0 ? 0 : 1;
  }
  return out.subarray(0, count);
}

const flatField = (x: Float32Array, y: Float32Array, texel: number, period: [number, number] = [0, 0]): Field => ({
  n: x.length,
  x,
  y,
  z: kernels().floats(x.length).fill(0.37),
  flat: true,
  period,
  texel,
  below: null,
});

/** How many repeats of a placement a texel of the sheet spans; the same wherever it lies. */
export function texelOf(p: Placement, sheet: Wrap, surface: Surface | null): number {
  // A decal is `size` high and wider by its aspect: the mean of both.
  if (surface && p.by !== 'uv') return 1 / (surface.texelsPerMetre * p.size * (p.by === 'decal' ? Math.sqrt(p.aspect) : 1));
  const m = uvMatrix(p, sheet);
  return Math.hypot(m.a, m.c) / sheet.width;
}

/** Where the texels of a tile lie in a placement that projects. Arrays are in the kernels' arena. Noise in space: `spaceField`. */
export function projectionsOf(p: Placement, sheet: Wrap, surface: Surface | null, tile: TileIndex): Projection[] {
  const by = !surface ? 'uv' : p.by === 'solid' ? 'box' : p.by;
  if (by === 'uv' || !surface) return [uvProjection(p, sheet, tile)];
  const texel = texelOf(p, sheet, surface);
  if (by === 'box') return boxProjections(p, surface, tile, texel);
  const turned = (p.turn * Math.PI) / 180;
  if (by === 'decal') {
    const { x, y } = decalField(p, surface, tile);
    return [{ field: flatField(x, y, texel), weight: null, turned }];
  }
  const space = solidField(surface, tile, p.centre, p.size);
  if (by === 'plane') {
    const { right, up } = planeFrame(p.axis);
    const settle = settler(p, p.turn);
    const x = kernels().floats(space.n);
    const y = kernels().floats(space.n);
    for (let i = 0; i < space.n; i++) {
      const [a, b, c] = [space.x[i], space.y[i], space.z[i]];
      const px = a * right[0] + b * right[1] + c * right[2] + 0.5;
      const py = 0.5 - (a * up[0] + b * up[1] + c * up[2]);
      x[i] = settle.xx * px + settle.xy * py + settle.x;
      y[i] = settle.yx * px + settle.yy * py + settle.y;
    }
    return [{ field: flatField(x, y, texel), weight: null, turned }];
  }
  return [{ field: roundField(p, surface, space, texel, by), weight: null, turned }];
}

/** A decal's own coordinates, 0 … 1 from the left and from the top; and where it is seen along its direction the places in space. */
function decalField(p: Placement, surface: Surface, tile: TileIndex): { x: Float32Array; y: Float32Array; space: Field | null } {
  if (p.follow) return { ...followedField(p, surface, tile), space: null };
  const space = solidField(surface, tile, p.centre, p.size);
  const { right, up } = planeFrame(p.axis);
  const [c, s] = [Math.cos((p.turn * Math.PI) / 180), Math.sin((p.turn * Math.PI) / 180)];
  const [mx, my] = [(p.mirrorX ? -1 : 1) / p.aspect, p.mirrorY ? -1 : 1];
  const x = kernels().floats(space.n);
  const y = kernels().floats(space.n);
  for (let i = 0; i < space.n; i++) {
    const across = space.x[i] * right[0] + space.y[i] * right[1] + space.z[i] * right[2];
    const down = -(space.x[i] * up[0] + space.y[i] * up[1] + space.z[i] * up[2]);
    x[i] = (across * c + down * s) * mx + 0.5;
    y[i] = (down * c - across * s) * my + 0.5;
  }
  return { x, y, space };
}

/** The last few, newest first. */
let unfoldings: { key: string; of: Unfolded }[] = [];
const KEPT_UNFOLDINGS = 4;

/** The surface laid out flat around a decal's middle, as far as the decal reaches. */
function unfoldingOf({ centre, axis, size, aspect }: Placement, { stamp, mesh }: Surface): Unfolded {
  const key = `${stamp} ${centre.join(' ')} ${axis.join(' ')} ${size} ${aspect}`;
  const found = unfoldings.find((u) => u.key === key);
  const of = found?.of ?? unfoldAround(mesh, centre, planeFrame(axis), (Math.hypot(aspect, 1) / 2) * size * 1.1);
  unfoldings = [{ key, of }, ...unfoldings.filter((u) => u.key !== key).slice(0, KEPT_UNFOLDINGS - 1)];
  return of;
}

/** The same by the surface laid out flat: far outside where it is not. */
function followedField(p: Placement, surface: Surface, tile: TileIndex): { x: Float32Array; y: Float32Array } {
  const [c, s] = [Math.cos((p.turn * Math.PI) / 180), Math.sin((p.turn * Math.PI) / 180)];
  const [mx, my] = [(p.mirrorX ? -1 : 1) / p.aspect, p.mirrorY ? -1 : 1];
  const [x, y] = [0, 1].map(() => kernels().floats(TILE_TEXELS).fill(OUTSIDE));
  const texels = surface.tiles.get(tile);
  if (!texels) return { x, y };
  const laid = unfoldingOf(p, surface);
  const { positions, indices } = surface.mesh;
  const { face, position } = texels;
  let last = -1;
  const flat = new Float64Array(8);
  for (let i = 0; i < TILE_TEXELS; i++) {
    const f = face[i];
    if (f < 0 || Number.isNaN(laid[f * 6])) continue;
    if (f !== last) flatten(positions, indices, laid, f, flat);
    last = f;
    const [px, py, pz] = [position[i * 3], position[i * 3 + 1], position[i * 3 + 2]];
    const across = (flat[0] * px + flat[1] * py + flat[2] * pz + flat[3]) / p.size;
    const down = -(flat[4] * px + flat[5] * py + flat[6] * pz + flat[7]) / p.size;
    x[i] = (across * c + down * s) * mx + 0.5;
    y[i] = (down * c - across * s) * my + 0.5;
  }
  return { x, y };
}
/** Farther from a decal than anything shows. */
const OUTSIDE = -1e3;

/** A face's map from places in its plane to the flat: two rows of four. */
function flatten(p: Float32Array, indices: Uint32Array, laid: Unfolded, f: number, out: Float64Array): void {
  const [a, b, c] = [indices[f * 3] * 3, indices[f * 3 + 1] * 3, indices[f * 3 + 2] * 3];
  const u = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
  const v = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
  const dot = (s: readonly number[], t: readonly number[]) => s[0] * t[0] + s[1] * t[1] + s[2] * t[2];
  const [uu, uv, vv] = [dot(u, u), dot(u, v), dot(v, v)];
  const det = uu * vv - uv * uv || 1e-30;
  for (let k = 0; k < 2; k++) {
    const at = laid[f * 6 + k];
    const [du, dv] = [laid[f * 6 + 2 + k] - at, laid[f * 6 + 4 + k] - at];
    // The gradient within the plane that gives both differences.
    const [s, t] = [(du * vv - dv * uv) / det, (dv * uu - du * uv) / det];
    let rest = at;
    for (let n = 0; n < 3; n++) {
      const g = s * u[n] + t * v[n];
      out[k * 4 + n] = g;
      rest -= g * p[a + n];
    }
    out[k * 4 + 3] = rest;
  }
}

/** Cosines from which a decal begins to show on a surface that turns away, and shows in full. */
const DECAL_FACES = [0.05, 0.3] as const;
/** It fades over this share of its depth. */
const DECAL_FADES = 0.15;

/** How much of a decal each texel of a tile shows, 0 … 1. Its outline is as sharp as a texel. */
export function decalShare(p: Placement, surface: Surface, tile: TileIndex): Float32Array {
  const out = new Float32Array(TILE_TEXELS);
  const s = surface.tiles.get(tile);
  if (!s) return out;
  const mark = kernels().mark();
  try {
    const { x, y, space } = decalField(p, surface, tile);
    const { out: axis } = planeFrame(p.axis);
    const texel = 1 / (surface.texelsPerMetre * p.size);
    const depth = p.depth / p.size;
    for (let i = 0; i < TILE_TEXELS; i++) {
      if (s.face[i] < 0) continue;
      const across = (0.5 - Math.abs(x[i] - 0.5)) / (texel / p.aspect) + 0.5;
      const down = (0.5 - Math.abs(y[i] - 0.5)) / texel + 0.5;
      if (!(across > 0 && down > 0)) continue;
      const rim = Math.min(1, across) * Math.min(1, down);
      if (!space) {
        out[i] = rim;
        continue;
      }
      const off = Math.abs(space.x[i] * axis[0] + space.y[i] * axis[1] + space.z[i] * axis[2]) / depth;
      if (off >= 1) continue;
      const n = (s.normal[i * 3] * axis[0] + s.normal[i * 3 + 1] * axis[1] + s.normal[i * 3 + 2] * axis[2]) / 127;
      const faces = Math.min(1, Math.max(0, (n - DECAL_FACES[0]) / (DECAL_FACES[1] - DECAL_FACES[0])));
      out[i] = rim * faces * Math.min(1, (1 - off) / DECAL_FADES);
    }
    return out;
  } finally {
    kernels().release(mark);
  }
}

function uvProjection(p: Placement, sheet: Wrap, tile: TileIndex): Projection {
  const m = uvMatrix(p, sheet);
  const [x, y] = [0, 1].map(() => kernels().floats(TILE_TEXELS));
  const [x0, y0] = [tileX(tile) * TILE, tileY(tile) * TILE];
  const [mx, my] = [p.mirrorX ? -1 : 1, p.mirrorY ? -1 : 1];
  for (let r = 0, i = 0; r < TILE; r++) {
    const v = (y0 + r + 0.5) / sheet.height;
    const bx = m.b * v + p.offset[0];
    const by = m.d * v + p.offset[1];
    for (let c = 0; c < TILE; c++, i++) {
      const u = (x0 + c + 0.5) / sheet.width;
      x[i] = mx * (m.a * u + bx);
      y[i] = my * (m.c * u + by);
    }
  }
  return { field: flatField(x, y, texelOf(p, sheet, null), periodsOf(m, sheet)), weight: null, turned: Math.atan2(-m.c, m.a) };
}

/** Shares of a side against the side that is faced most, raised to `power`, by the two normals' int8: 128 a row. */
const sharesOf = (power: number): Float32Array => {
  if (shareTable?.power === power) return shareTable.shares;
  // Under this share of the side that is faced most nothing of another side is seen.
  const least = Math.pow(1 / 512, 1 / power);
  const shares = new Float32Array(128 * 128);
  for (let most = 1; most < 128; most++)
    for (let k = 0; k <= most; k++) shares[most * 128 + k] = k / most < least ? 0 : (k / most) ** power;
  shareTable = { power, shares };
  return shares;
};
let shareTable: { power: number; shares: Float32Array } | null = null;

/** Space as three sides of a box show it. */
function boxProjections(p: Placement, surface: Surface, tile: TileIndex, texel: number): Projection[] {
  const s = surface.tiles.get(tile);
  if (!s) return [];
  // At soft 1 the sides blend as the normal's own squares, at 0 the side that is faced most takes all.
  const shares = sharesOf(2 / Math.max(0.03, p.soft * p.soft));
  const turned = (p.turn * Math.PI) / 180;
  const [x, y, weight] = [0, 1, 2].map(() => kernels().floats(3 * TILE_TEXELS));
  const m = settler(p, p.turn);
  const how = [...p.centre, 1 / p.size, m.xx, m.xy, m.x, m.yx, m.yy, m.y];
  const [a, b, c, alone] = kernels().boxPlaces(s, shares, how, x, y, weight);
  return [a, b, c].flatMap((count, k): Projection[] => {
    if (count === 0) return [];
    const own = (of: Float32Array) => of.subarray(k * TILE_TEXELS, (k + 1) * TILE_TEXELS);
    const whole = count === TILE_TEXELS && alone === TILE_TEXELS;
    return [{ field: flatField(own(x), own(y), texel), weight: whole ? null : own(weight), turned }];
  });
}

function roundField(p: Placement, surface: Surface, space: Field, texel: number, by: 'cylinder' | 'sphere'): Field {
  const { right, up, out } = planeFrame(p.axis);
  const x = kernels().floats(space.n);
  const y = kernels().floats(space.n);
  // As many repeats around as fit at the model's own radius.
  const radius = Math.max(...surface.min.map((v, k) => surface.max[k] - v)) / 2 / p.size;
  const around = Math.max(1, Math.round(2 * Math.PI * radius * (by === 'sphere' ? 1 : 0.6)));
  for (let i = 0; i < space.n; i++) {
    const [a, b, c] = [space.x[i], space.y[i], space.z[i]];
    const px = a * right[0] + b * right[1] + c * right[2];
    const py = a * up[0] + b * up[1] + c * up[2];
    const pz = a * out[0] + b * out[1] + c * out[2];
    x[i] = (Math.atan2(px, -py) / (2 * Math.PI)) * around;
    y[i] =
      by === 'cylinder'
        ? -pz
        : (Math.acos(Math.max(-1, Math.min(1, pz / Math.max(1e-9, Math.hypot(px, py, pz))))) / Math.PI) *
          Math.max(1, Math.round(around / 2));
  }
  // Turning would break what comes round; it shifts around the axis instead.
  const [mx, my] = [p.mirrorX ? -1 : 1, p.mirrorY ? -1 : 1];
  for (let i = 0; i < space.n; i++) {
    x[i] = mx * (x[i] + p.offset[0] + (p.turn / 360) * around);
    y[i] = my * (y[i] + p.offset[1]);
  }
  return flatField(x, y, texel, [around, 0]);
}
