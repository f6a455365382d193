/** A pane under the pointer, and what a held pointer does in it. */
import type { BenchViewport } from '@/viewport/benchViewport';

export type PaneName = 'model' | 'flat';

export interface Pane {
  name: PaneName;
  box: HTMLElement;
  viewport: BenchViewport;
  /** The piece is a canvas: the model pane shows it on a plane. */
  isCanvas: boolean;
}

/** From the pointer's going down to its coming up. */
export interface Gesture {
  /** The ring of the brush is away meanwhile. */
  hidesRing?: boolean;
  move(e: PointerEvent): void;
  up?(e: PointerEvent): void;
  /** Escape, or the pointer is taken away. */
  cancel?(): void;
}
