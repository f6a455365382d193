/** A pane under the pointer, and what a held pointer does in it. */
import type { BenchViewport } from '@/viewport/benchViewport';
import type { PaneName } from '@/viewport/redraw';

export type { PaneName };

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
  /** It stays where the gesture began. */
  holdsRing?: boolean;
  move(e: PointerEvent): void;
  up?(e: PointerEvent): void;
  /** Escape. */
  cancel?(): void;
  /** The pointer is taken away, or the window: what is done so far stays. Left out: as if it came up. */
  lost?(): void;
  /** Called a few times a second while the pointer is down. */
  rest?(): void;
}
