/** The brush ring: drawn in SVG over the panes, so that hovering costs no drawing of the model. */
import type { BenchViewport } from '@/viewport/benchViewport';
import { currentSheet, useBench, type BenchState } from '../store';
import type { PaneName } from './pane';

type Vec = [number, number, number];

export interface Ring {
  /** SVG path of the rim, pane pixels. */
  path: string;
  /** Diameter in texels of the sheet, or null off the model. */
  texels: number | null;
  /** Sheet under the pointer, in the model pane. */
  sheetId: string | null;
}

const POINTS = 48;

export function ringAt(
  viewport: BenchViewport,
  pane: PaneName,
  x: number,
  y: number,
  state: BenchState = useBench.getState(),
): Ring {
  return pane === 'flat' ? flatRing(viewport, x, y, state) : modelRing(viewport, x, y, state);
}

function circle(x: number, y: number, radius: number): string {
  const r = Math.max(1, radius);
  return `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
}

function texelsPerMetre(state: BenchState, sheetId: string): number {
  return state.geometry?.texelsPerMetre[sheetId] ?? currentSheet(state).width;
}

function flatRing(viewport: BenchViewport, x: number, y: number, state: BenchState): Ring {
  const { zoom } = viewport.flatCamera;
  const { size, sizeUnit } = state.brush;
  const texels = sizeUnit === 'screen' ? size / zoom : (size / 1000) * texelsPerMetre(state, state.sheetId);
  return { path: circle(x, y, (texels * zoom) / 2), texels, sheetId: null };
}

function modelRing(viewport: BenchViewport, x: number, y: number, state: BenchState): Ring {
  const { size, sizeUnit } = state.brush;
  const hit = viewport.hitAt(x, y);
  if (!hit) return { path: circle(x, y, sizeUnit === 'screen' ? size / 2 : 3), texels: null, sheetId: null };
  const repeats = state.geometry ? 1 : currentSheet(state).wrapU ? state.document!.planeRepeats : 1;
  const metres = sizeUnit === 'screen' ? size * hit.pixelSpread * hit.distance : size / 1000 / repeats;
  const [u, v] = tangents(hit.normal);
  const corners: string[] = [];
  for (let i = 0; i < POINTS; i++) {
    const c = (Math.cos((i / POINTS) * 2 * Math.PI) * metres) / 2;
    const s = (Math.sin((i / POINTS) * 2 * Math.PI) * metres) / 2;
    const p = viewport.project(hit.point.map((w, k) => w + u[k] * c + v[k] * s));
    if (p) corners.push(`${p.x.toFixed(1)} ${p.y.toFixed(1)}`);
  }
  return { path: `M${corners.join('L')}Z`, texels: metres * repeats * texelsPerMetre(state, hit.sheetId), sheetId: hit.sheetId };
}

function tangents(n: Vec): [Vec, Vec] {
  const helper: Vec = Math.abs(n[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const cross = (a: Vec, b: Vec): Vec => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
  const u = cross(helper, n);
  const l = Math.hypot(...u) || 1;
  const unit: Vec = [u[0] / l, u[1] / l, u[2] / l];
  return [unit, cross(n, unit)];
}
