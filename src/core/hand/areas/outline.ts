/** What is drawn over a pane while an area is dragged, clicked or drawn: SVG path data in pixels of the pane. */
import type { AreaGesture, Point } from './area';

const through = (points: readonly Point[], end: '' | 'Z'): string =>
  points.length ? `M${points.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}${end}` : '';

/** Within a box whose opposite corners are the first and the last point. */
export function ellipseOutline(points: readonly Point[]): string {
  const [a, b] = [points[0], points.at(-1)!];
  const [rx, ry] = [Math.abs(b.x - a.x) / 2, Math.abs(b.y - a.y) / 2];
  const [left, y] = [Math.min(a.x, b.x), (a.y + b.y) / 2];
  return `M${left} ${y}a${rx} ${ry} 0 1 0 ${rx * 2} 0a${rx} ${ry} 0 1 0 ${-rx * 2} 0Z`;
}

export const OUTLINES: Record<AreaGesture, (points: readonly Point[]) => string> = {
  box: (points) => {
    const [a, b] = [points[0], points.at(-1)!];
    return through([a, { x: b.x, y: a.y }, b, { x: a.x, y: b.y }], 'Z');
  },
  line: (points) => through(points, ''),
  lasso: (points) => through(points, 'Z'),
  corners: (points) => through(points, ''),
  click: () => '',
};
