/**
 * Where the texels of a tile read a picture that is placed there. It hangs on the place and on the size of the picture
 * only, so that all maps of a material share it: worked out once a tile, read by each.
 *
 * With hidden repeats (strata/hidden.ts) the picture is cut into patches on a triangle grid, each turned and shifted at
 * random, and a texel reads three of them.
 */
import { kernels } from '../../kernels';
import { TILE_TEXELS, type TileIndex } from '../raster/tiles';
import type { Sheet } from '../document/schema';
import { projectionsOf, type Placement, type Projection } from './placement';
import { hash01, wrapTo } from './sources/source';
import type { Surface } from './surface';

/** Patches a repeat: each shows about half of the picture. */
const PATCHES = 2;

export interface TapPlace {
  sheet: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>;
  surface: Surface | null;
  tile: TileIndex;
}

/** Arrays are as long as the largest tile needed; `count` says how much of them holds. */
export interface Taps {
  count: number;
  /** Reads a tap: 1; 3 patches; or 3 patches and the picture as it is. */
  corners: 1 | 3 | 4;
  /** Which texel of the tile, and how much of it: a texel seen from two sides of a box has two taps that sum to 1. */
  texel: Int32Array;
  weight: Float32Array;
  /** What sums around the mean are multiplied by, so that variance stays (Heitz and Neyret 2018, equation 2). */
  scale: Float32Array;
  /** For each read: the upper left pixel in a level with one more column and row, how far on from it, and its share. */
  at: Int32Array;
  ax: Float32Array;
  ay: Float32Array;
  share: Float32Array;
  /** Turn of the patch. */
  cos: Float32Array;
  sin: Float32Array;
  /** How far the placement turns the picture's own X (radians). */
  turned: number;
}

/** A tile seen from three sides, read four times a texel. */
const MOST = TILE_TEXELS * 3;

function newTaps(): Taps {
  const floats = (n: number) => new Float32Array(n);
  return {
    count: 0,
    corners: 1,
    texel: new Int32Array(MOST),
    weight: floats(MOST),
    scale: floats(MOST),
    at: new Int32Array(MOST * 4),
    ax: floats(MOST * 4),
    ay: floats(MOST * 4),
    share: floats(MOST * 4),
    cos: floats(MOST * 4),
    sin: floats(MOST * 4),
    turned: 0,
  };
}

/** The last ones, newest first: maps of one layer, and a layer above or below that is placed in the same way. */
const kept: { key: string; taps: Taps }[] = [];
const KEPT = 3;

/** Valid until other places have been asked for. `width`, `height`: of the picture's level. */
export function tapsOf(placement: Placement, place: TapPlace, width: number, height: number): Taps {
  const { sheet, surface, tile } = place;
  const extent = `${sheet.width} ${sheet.height} ${sheet.wrapU} ${sheet.wrapV}`;
  const key = `${JSON.stringify(placement)} ${extent} ${surface?.stamp} ${tile} ${width} ${height}`;
  const found = kept.findIndex((k) => k.key === key);
  const entry = found >= 0 ? kept.splice(found, 1)[0] : kept.length < KEPT ? { key: '', taps: newTaps() } : kept.pop()!;
  kept.unshift(entry);
  if (found >= 0) return entry.taps;
  const { taps } = entry;
  // Half-made ones are not to be found.
  entry.key = '';
  taps.count = 0;
  taps.corners = placement.hide === 0 ? 1 : placement.hide === 1 ? 3 : 4;
  const mark = kernels.mark();
  for (const projection of projectionsOf(placement, sheet, surface, tile, false)) {
    taps.turned = projection.turned;
    if (taps.corners === 1) plainTaps(taps, projection, width, height);
    else patchTaps(taps, projection, width, height, placement.hide);
  }
  kernels.release(mark);
  entry.key = key;
  return taps;
}

function plainTaps(taps: Taps, { field, weight }: Projection, width: number, height: number): void {
  const stride = width + 1;
  let t = taps.count;
  for (let i = 0; i < field.n; i++) {
    const w = weight ? weight[i] : 1;
    if (w === 0) continue;
    taps.texel[t] = i;
    taps.weight[t] = w;
    taps.scale[t] = 1;
    readAt(taps, t, field.x[i], field.y[i], width, height, stride);
    taps.share[t] = 1;
    t++;
  }
  taps.count = t;
}

/** One read at a place in repeats; beyond its border the picture begins anew. */
function readAt(taps: Taps, o: number, x: number, y: number, width: number, height: number, stride: number): void {
  const px = (x - Math.floor(x)) * width - 0.5;
  const py = (y - Math.floor(y)) * height - 0.5;
  const ix = Math.floor(px);
  const iy = Math.floor(py);
  taps.at[o] = (iy < 0 ? height - 1 : iy) * stride + (ix < 0 ? width - 1 : ix);
  taps.ax[o] = px - ix;
  taps.ay[o] = py - iy;
}

function patchTaps(taps: Taps, { field, weight }: Projection, width: number, height: number, strength: number): void {
  const { texel, weight: share1, scale, share, cos, sin, corners } = taps;
  const cells = field.period.map((p) => (p === 0 ? 0 : Math.max(2, Math.round(p * PATCHES))));
  const perX = cells[0] ? cells[0] / field.period[0] : PATCHES;
  const perY = cells[1] ? cells[1] / field.period[1] : PATCHES;
  const stride = width + 1;
  // Of the triangle at hand, corner by corner: where it lies, its turn and its shift.
  const corner = new Float64Array(18);
  let [lastX, lastY, lastUpper] = [NaN, NaN, false];
  let t = taps.count;
  for (let i = 0; i < field.n; i++) {
    const seen = weight ? weight[i] : 1;
    if (seen === 0) continue;
    const x = field.x[i];
    const y = field.y[i];
    const gx = x * perX;
    const gy = y * perY;
    const cx = Math.floor(gx);
    const cy = Math.floor(gy);
    const fx = gx - cx;
    const fy = gy - cy;
    const upper = fx + fy > 1;
    if (cx !== lastX || cy !== lastY || upper !== lastUpper) {
      [lastX, lastY, lastUpper] = [cx, cy, upper];
      // (0,0) (1,0) (0,1), or (1,1) (0,1) (1,0).
      for (let k = 0; k < 3; k++) {
        const dx = k === 1 ? (upper ? 0 : 1) : upper && k === 0 ? 1 : k === 2 && upper ? 1 : 0;
        const dy = k === 2 ? (upper ? 0 : 1) : upper ? 1 : 0;
        const vx = wrapTo(cx + dx, cells[0]);
        const vy = wrapTo(cy + dy, cells[1]);
        const angle = hash01(vx, vy, 11) * 2 * Math.PI;
        corner[k * 6] = (cx + dx) / perX;
        corner[k * 6 + 1] = (cy + dy) / perY;
        corner[k * 6 + 2] = Math.cos(angle);
        corner[k * 6 + 3] = Math.sin(angle);
        corner[k * 6 + 4] = hash01(vx, vy, 23);
        corner[k * 6 + 5] = hash01(vx, vy, 37);
      }
    }
    const o = t * corners;
    const w0 = upper ? fx + fy - 1 : 1 - fx - fy;
    const w1 = upper ? 1 - fx : fx;
    const w2 = upper ? 1 - fy : fy;
    const norm = 1 / Math.sqrt(w0 * w0 + w1 * w1 + w2 * w2);
    share[o] = w0;
    share[o + 1] = w1;
    share[o + 2] = w2;
    for (let k = 0; k < 3; k++) {
      const c = k * 6;
      const px = x - corner[c];
      const py = y - corner[c + 1];
      const u = corner[c + 2] * px - corner[c + 3] * py + corner[c + 4];
      const v = corner[c + 3] * px + corner[c + 2] * py + corner[c + 5];
      readAt(taps, o + k, u, v, width, height, stride);
      cos[o + k] = corner[c + 2];
      sin[o + k] = corner[c + 3];
    }
    texel[t] = i;
    share1[t] = seen;
    scale[t] = norm;
    if (corners === 4) {
      // The picture as it is, so that both together keep the variance too.
      const both = strength / Math.hypot(strength, 1 - strength);
      scale[t] = norm * both;
      share[o + 3] = (1 - strength) / (strength * norm);
      readAt(taps, o + 3, x, y, width, height, stride);
      cos[o + 3] = 1;
      sin[o + 3] = 0;
    }
    t++;
  }
  taps.count = t;
}
