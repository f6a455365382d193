/** Choosing faces of a model: those under a box or a lasso, and choices made larger, smaller, whole, flat. */
import type { SheetSurface } from '../strata/pieceSurfaces';
import { polygon, type Point } from './areas/figure';
import { flatPiece } from './areas/fill';
import { TILE, tileIndex, type TileIndex } from '../tile/tiles';
import { pixelIn, type View } from './view';

export const FACE_CHANGES = ['grow', 'shrink', 'connected', 'flat'] as const;
export type FaceChange = (typeof FACE_CHANGES)[number];

/** Degrees that a face may be turned against the one that it was grown from. */
const FLAT_DEGREES = 20;

/** `grow`, `shrink`: by one ring. `connected`: all that hangs together with them. `flat`: as far as the surface stays flat. */
export function changedFaces({ query, map }: SheetSurface, ids: readonly number[], how: FaceChange): number[] {
  const { start, neighbours, topology, hidden } = query;
  const on = (f: number) => !hidden[f] && !Number.isNaN(map.cornersTexels[f * 6]);
  const chosen = new Uint8Array(hidden.length);
  for (const f of ids) if (f < chosen.length) chosen[f] = 1;
  const out = chosen.slice();
  if (how === 'connected') {
    const { component } = topology;
    const whole = new Set(ids.map((f) => component[f]));
    for (let f = 0; f < out.length; f++) if (whole.has(component[f])) out[f] = 1;
  } else if (how === 'flat') for (const f of ids) flatPiece(query, f, FLAT_DEGREES, out);
  else
    for (let f = 0; f < out.length; f++)
      for (let n = start[f]; n < start[f + 1]; n++) {
        if (how === 'grow' && !chosen[f] && chosen[neighbours[n]]) out[f] = 1;
        if (how === 'shrink' && chosen[f] && !chosen[neighbours[n]]) out[f] = 0;
      }
  return listOf(out, on);
}

/** Faces whose middle lies inside of a polygon: in the sheet, in texels; or in the pane, where they face the eye and are seen. */
export function facesWithin({ query, map }: SheetSurface, points: readonly Point[], view: View | null): number[] {
  if (points.length < 3) return [];
  const figure = polygon(points, 1);
  const { x0, y0, x1, y1 } = figure.bounds;
  const { positions: p, indices, faceNormal: n, hidden } = query;
  const c = map.cornersTexels;
  const out = new Uint8Array(hidden.length);
  for (let f = 0; f < out.length; f++) {
    if (hidden[f] || Number.isNaN(c[f * 6])) continue;
    const corners = [0, 1, 2].map((k) => indices[f * 3 + k] * 3);
    const middle = [0, 1, 2].map((k) => (p[corners[0] + k] + p[corners[1] + k] + p[corners[2] + k]) / 3);
    const at = view
      ? pixelIn(view, middle)
      : { x: (c[f * 6] + c[f * 6 + 2] + c[f * 6 + 4]) / 3, y: (c[f * 6 + 1] + c[f * 6 + 3] + c[f * 6 + 5]) / 3 };
    if (!at || at.x < x0 || at.y < y0 || at.x > x1 || at.y > y1 || figure.distance(at.x, at.y) >= 0) continue;
    if (view) {
      const way = middle.map((v, k) => v - view.eye[k]);
      if (n[f * 3] * way[0] + n[f * 3 + 1] * way[1] + n[f * 3 + 2] * way[2] >= 0) continue;
      const hit = query.raycast(view.eye, way);
      if (!hit || (hit.face !== f && hit.distance < Math.hypot(...way) * 0.999)) continue;
    }
    out[f] = 1;
  }
  return listOf(out, () => true);
}

/** Faces of the sheet of which a fence lets the middle through by half and more. */
export function facesOfFence({ query, map }: SheetSurface, limit: (tile: TileIndex) => Float32Array | null): number[] {
  const c = map.cornersTexels;
  const out: number[] = [];
  for (let f = 0; f < query.hidden.length; f++) {
    if (Number.isNaN(c[f * 6])) continue;
    const x = Math.floor((c[f * 6] + c[f * 6 + 2] + c[f * 6 + 4]) / 3);
    const y = Math.floor((c[f * 6 + 1] + c[f * 6 + 3] + c[f * 6 + 5]) / 3);
    if (x < 0 || y < 0 || x >= map.width || y >= map.height) continue;
    const share = limit(tileIndex(x >> 7, y >> 7));
    if (!share || share[(y & (TILE - 1)) * TILE + (x & (TILE - 1))] >= 0.5) out.push(f);
  }
  return out;
}

function listOf(chosen: Uint8Array, also: (f: number) => boolean): number[] {
  const out: number[] = [];
  for (let f = 0; f < chosen.length; f++) if (chosen[f] && also(f)) out.push(f);
  return out;
}

/** As runs: from … to, both included. */
export function rangesOf(ids: readonly number[]): [number, number][] {
  const out: [number, number][] = [];
  for (const f of [...new Set(ids)].sort((a, b) => a - b)) {
    const last = out.at(-1);
    if (last && last[1] === f - 1) last[1] = f;
    else out.push([f, f]);
  }
  return out;
}
