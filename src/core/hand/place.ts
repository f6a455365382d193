/** Where the pen touches: a place of the model, or of the sheet; and the frame that a tip lies in there. */
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import type { SurfaceHit } from '../mesh/surfaceQuery';
import { TILE, tileIndex } from '../tile/tiles';
import type { ModelSample, Sample } from './sample';
import type { TipFrame } from './tip';

/**
 * `radius`: of the brush as it is set, metres on the model, texels in the flat sheet. `eye`: a place of the model pane itself, for
 * brushes that cover what is seen there; its radius in pixels, of which one spans so many metres where the model is.
 */
export type Touch = SurfaceTouch | SeenTouch;
export type SurfaceTouch =
  | { pane: 'model'; hit: SurfaceHit; radius: number; sample: ModelSample }
  | { pane: 'flat'; x: number; y: number; radius: number; sample: Sample };
export interface SeenTouch {
  pane: 'eye';
  x: number;
  y: number;
  radius: number;
  metres: number;
  sample: ModelSample;
}

export function placeDistance(a: Touch, b: Touch): number {
  if (a.pane !== 'model' && b.pane !== 'model') return Math.hypot(a.x - b.x, a.y - b.y);
  if (a.pane === 'model' && b.pane === 'model') return Math.hypot(...a.hit.point.map((v, k) => v - b.hit.point[k]));
  return Infinity;
}

type Vector = readonly number[];
export const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vector, b: Vector): [number, number, number] => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unitOf = (a: Vector): number[] => {
  const l = Math.hypot(a[0], a[1], a[2]);
  return l > 1e-12 ? a.map((v) => v / l) : [1, 0, 0];
};

/** To the right and down as the eye sees them, laid into the surface. */
export function frameAt(
  { direction, right }: Pick<ModelSample, 'direction' | 'right'>,
  hit: Pick<SurfaceHit, 'normal'>,
): TipFrame {
  const out = unitOf(hit.normal);
  const level = right ?? cross(direction, Math.abs(unitOf(direction)[1]) < 0.999 ? [0, 1, 0] : [0, 0, -1]);
  const flat = level.map((v, k) => v - out[k] * dot(level, out));
  // Seen edge on, its right may stand upright on the surface: then what is up does.
  const across = Math.hypot(...flat) > 1e-3 * Math.hypot(...level) ? unitOf(flat) : unitOf(cross(out, [0.36, 0.48, 0.8]));
  return { right: across, down: cross(across, out), out };
}

/** Radians of the way from one place to the next within the frame there; null: there is none. */
export function directionBetween(from: Touch, to: Touch, frame: TipFrame | null): number | null {
  if (from.pane !== 'model' && to.pane !== 'model') {
    const [dx, dy] = [to.x - from.x, to.y - from.y];
    return dx === 0 && dy === 0 ? null : Math.atan2(dy, dx);
  }
  if (from.pane !== 'model' || to.pane !== 'model' || !frame) return null;
  const d = to.hit.point.map((v, k) => v - from.hit.point[k]);
  const [x, y] = [dot(d, frame.right), dot(d, frame.down)];
  return x === 0 && y === 0 ? null : Math.atan2(y, x);
}

/** A point beside another, `x` and `y` metres away within a frame. */
export const beside = (point: Vector, { right, down }: TipFrame, x: number, y: number): number[] =>
  point.map((v, k) => v + right[k] * x + down[k] * y);

export type SizeUnit = 'screen' | 'model' | 'texel';

/** Diameter of the ball in metres for a brush diameter in its unit, at a hit. */
export function modelDiameter(
  unit: SizeUnit,
  diameter: number,
  sample: ModelSample,
  hit: SurfaceHit,
  texelsPerMetre: number,
): number {
  if (unit === 'model') return diameter / 1000;
  return unit === 'texel' ? diameter / texelsPerMetre : diameter * sample.pixelSpread * hit.distance;
}

/** The same in texels, in the flat sheet. */
export function flatDiameter(unit: SizeUnit, diameter: number, texelsPerPixel: number, texelsPerMetre: number): number {
  if (unit === 'texel') return diameter;
  return unit === 'screen' ? diameter * texelsPerPixel : (diameter / 1000) * texelsPerMetre;
}

/** Flat paths never jump; model paths may cover this much extra between two points of a fast stroke. */
export function jumpSlack(a: Touch, b: Touch): number {
  if (a.pane !== 'model' || b.pane !== 'model') return Infinity;
  return 24 * b.sample.pixelSpread * b.hit.distance;
}

/** The place of a texel on the model, and a frame there; null where the model is not. */
export function surfacePlace(map: SurfaceMap, x: number, y: number) {
  const [cx, cy] = [Math.floor(x), Math.floor(y)];
  const tile = map.tiles.get(tileIndex(cx >> 7, cy >> 7));
  const i = (cy & (TILE - 1)) * TILE + (cx & (TILE - 1));
  if (!tile || cx < 0 || cy < 0 || cx >= map.width || cy >= map.height || tile.face[i] < 0) return null;
  const of = (a: ArrayLike<number>, scale: number): [number, number, number] => [
    a[i * 3] / scale,
    a[i * 3 + 1] / scale,
    a[i * 3 + 2] / scale,
  ];
  const normal = of(tile.normal, 127);
  const face = tile.face[i];
  return { face, point: of(tile.position, 1), frame: frameAt({ direction: normal.map((v) => -v) as typeof normal }, { normal }) };
}

/** The texel place under a hit. */
export function sheetPlace({ face, barycentric }: SurfaceHit, { cornersTexels: c }: SurfaceMap): { x: number; y: number } {
  const at = (k: number) => barycentric.reduce((sum, w, n) => sum + w * c[face * 6 + n * 2 + k], 0);
  return { x: at(0), y: at(1) };
}
