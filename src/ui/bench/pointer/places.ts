/** Places that were marked in a pane, and where they are on the screen now. */
import type { Sample } from '@/core/hand/sample';
import type { Pane } from './pane';

/** `point`: where it lies on the model. */
export interface Marked {
  at: Sample;
  point: number[] | null;
}

/** Pane pixels; null: it is not in this pane. */
export function pixelOf(
  { name, viewport }: Pick<Pane, 'name' | 'viewport'>,
  { at, point }: Marked,
): { x: number; y: number } | null {
  if (name === 'flat') return at.pane === 'flat' ? viewport.flatCamera.pixelAt(at.x, at.y) : null;
  return point ? viewport.project(point) : null;
}
