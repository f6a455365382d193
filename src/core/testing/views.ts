/** Views of a model for tests and measurements: as the model pane has them. */
import { boundsOf, type Model } from '../mesh/model';
import { cross, dot } from '../hand/place';
import type { ModelSample } from '../hand/sample';
import { pixelIn, type View } from '../hand/view';

const unitOf = (v: readonly number[]) => v.map((a) => a / Math.hypot(...v));

/** An eye that looks at a place, upright, through a pane of so many pixels; 30° from top to bottom. */
export function viewOf(eye: readonly number[], at: readonly number[], width = 800, height = 600): View {
  const forward = unitOf(at.map((v, k) => v - eye[k]));
  const right = unitOf(cross(forward, Math.abs(forward[1]) < 0.999 ? [0, 1, 0] : [0, 0, -1]));
  const down = cross(forward, right);
  const focal = height / 2 / Math.tan(Math.PI / 12);
  const row = (axis: readonly number[], scale: number, middle: number) => {
    const v = axis.map((a, k) => a * scale + forward[k] * middle);
    return [...v, -dot(v, eye)];
  };
  return {
    matrix: [...row(right, focal, width / 2), ...row(down, focal, height / 2), ...forward, -dot(forward, eye)],
    eye: [...eye] as [number, number, number],
    width,
    height,
  };
}

/** One that holds the whole of a model, from a direction. */
export function viewAround(model: Model, direction: readonly number[], width = 800, height = 600): View {
  const { min, max, diagonal } = boundsOf(model.positions);
  const middle = min.map((v, k) => (v + max[k]) / 2);
  const d = unitOf(direction);
  return viewOf(
    middle.map((v, k) => v + d[k] * diagonal * 2.2),
    middle,
    width,
    height,
  );
}

/** The sample of a pixel of the pane. */
export function sampleAt(view: View, x: number, y: number): ModelSample {
  const { matrix: m, eye } = view;
  // The direction whose homogeneous pixel is (x, y, 1): by Cramer's rule.
  const rows = [m.slice(0, 3), m.slice(4, 7), m.slice(8, 11)];
  const [a, b, c] = [0, 1, 2].map((k) => [rows[0][k], rows[1][k], rows[2][k]]);
  const target = [x, y, 1];
  const det = dot(a, cross(b, c));
  const d = [dot(target, cross(b, c)), dot(a, cross(target, c)), dot(a, cross(b, target))].map((v) => v / det);
  const direction = unitOf(d) as [number, number, number];
  return { pane: 'model', origin: eye, direction, pixelSpread: 0.001, pressure: 1, tiltX: 0, tiltY: 0, time: 0 };
}

/** The pixel of a place; throws behind the eye. */
export function pixelOf(view: View, place: readonly number[]): [number, number] {
  const at = pixelIn(view, place);
  if (!at) throw new Error('behind the eye');
  return [at.x, at.y];
}
