/** Where a mirror's planes and its axis lie in a pane, and what dragging one of them means. */
import { MIRROR_AXES, type Mirror, type MirrorAxis } from '@/core/hand/mirror';

export type Vec = [number, number, number];

export interface MirrorFigure {
  /** `round`: the axis that images turn around. */
  id: MirrorAxis | 'round';
  label: string;
  /** A closed outline of a plane, or the two ends of a line: model units, or texels (z 0). */
  outline: Vec[];
  handle: Vec;
}

/** Planes stand this much out over what they mirror, as a share of it. */
const OVER = 0.06;

export interface Extent {
  min: readonly number[];
  max: readonly number[];
}

/** Figures of a mirror over a model, whose bounds are given, or over a canvas: from 0 to its size. */
export function mirrorFigures(
  { axes, radial, around }: Mirror,
  at: readonly number[],
  of: Extent,
  canvas: boolean,
): MirrorFigure[] {
  const all = canvas ? MIRROR_AXES.slice(0, 2) : MIRROR_AXES;
  const over = Math.max(...of.max.map((v, k) => v - of.min[k])) * OVER;
  const low = of.min.map((v) => v - over);
  const high = of.max.map((v) => v + over);
  const place = (values: Partial<Record<number, number>>): Vec => [0, 1, 2].map((k) => values[k] ?? at[k]) as Vec;
  const figures = all
    .filter((axis) => axes.includes(axis))
    .map((axis): MirrorFigure => {
      const k = MIRROR_AXES.indexOf(axis);
      const label = `Mirror across ${axis.toUpperCase()}`;
      if (canvas) {
        const along = 1 - k;
        const [from, to] = [place({ [along]: low[along], 2: 0 }), place({ [along]: high[along], 2: 0 })];
        // At its lower or right end, which no tools lie over.
        return { id: axis, label, outline: [from, to], handle: to };
      }
      // Upright ones are held at their top, level ones at a side.
      const [i, j] = k === 1 ? [2, 0] : [k === 0 ? 2 : 0, 1];
      const outline = [
        place({ [i]: low[i], [j]: low[j] }),
        place({ [i]: high[i], [j]: low[j] }),
        place({ [i]: high[i], [j]: high[j] }),
        place({ [i]: low[i], [j]: high[j] }),
      ];
      return { id: axis, label, outline, handle: place({ [j]: high[j], [i]: (low[i] + high[i]) / 2 }) };
    });
  if (radial > 1) {
    const k = canvas ? 2 : MIRROR_AXES.indexOf(around);
    const [from, to] = canvas ? [place({ 2: 0 }), place({ 2: 0 })] : [place({ [k]: low[k] }), place({ [k]: high[k] })];
    figures.push({ id: 'round', label: 'Axis of turns', outline: [from, to], handle: to });
  }
  return figures;
}

/** Where planes and axis meet once a handle lies at another point: planes move along their axis, the axis beside itself. */
export function movedMirror(
  { around }: Mirror,
  at: readonly number[],
  id: MirrorFigure['id'],
  to: readonly number[],
  canvas: boolean,
): Vec {
  const moves = (axis: MirrorAxis): boolean => (id === 'round' ? canvas || axis !== around : axis === id);
  return MIRROR_AXES.map((axis, k) => (moves(axis) && !(canvas && axis === 'z') ? to[k] : at[k])) as Vec;
}
