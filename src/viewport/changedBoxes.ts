/** Where texels that changed are seen in the flat pane: only there it has to be drawn. */
import type { Rect } from '../core/tile/mips';

/** The flat sheet as it is seen, turned or flipped as it may be. */
export interface FlatView {
  /** Pane pixels of a place of the sheet. */
  pixelAt(x: number, y: number): { x: number; y: number };
  /** Pane pixels a texel. */
  zoom: number;
  sheet: { width: number; height: number };
  /** How often it is seen across and down; odd. */
  repeats: readonly [number, number];
  pane: { width: number; height: number };
}

/** Two levels of a texture blend, each over two of its texels, which are up to two pixels wide; and what rounding takes. */
const MARGIN = 10;
/** More than this share of the pane is quicker drawn as a whole. */
const MOST = 0.6;

/** Upright boxes of the pane, whole pixels; null: it is best drawn as a whole. `texels`: of the sheet. */
export function changedBoxes(texels: Rect, view: FlatView): Rect[] | null {
  const { sheet, repeats, pane } = view;
  const boxes: Rect[] = [];
  const [across, down] = repeats.map((n) => (n - 1) / 2);
  for (let v = -down; v <= down; v++)
    for (let u = -across; u <= across; u++) {
      const box = boxOf({ ...texels, x: texels.x + u * sheet.width, y: texels.y + v * sheet.height }, view);
      if (box) boxes.push(box);
    }
  const area = boxes.reduce((sum, b) => sum + b.width * b.height, 0);
  return area > MOST * pane.width * pane.height ? null : boxes;
}

/** null: it is not in the pane. */
function boxOf({ x, y, width, height }: Rect, { pixelAt, zoom, pane }: FlatView): Rect | null {
  const corners = [pixelAt(x, y), pixelAt(x + width, y), pixelAt(x, y + height), pixelAt(x + width, y + height)];
  const margin = MARGIN + zoom;
  const span = (of: 'x' | 'y', size: number): [number, number] => {
    const all = corners.map((c) => c[of]);
    return [Math.max(0, Math.floor(Math.min(...all) - margin)), Math.min(size, Math.ceil(Math.max(...all) + margin))];
  };
  const [x0, x1] = span('x', pane.width);
  const [y0, y1] = span('y', pane.height);
  return x1 > x0 && y1 > y0 ? { x: x0, y: y0, width: x1 - x0, height: y1 - y0 } : null;
}
