/** What lies over the panes follows what is drawn in them. */
import { useEffect, useReducer } from 'react';
import type { BenchViewport } from '@/viewport/benchViewport';
import { holder } from './viewportHolder';

/** The viewport, while it is `on`: whoever asks is drawn again after each frame. `redraw`: draws it now. */
export function useDrawn(on: boolean): { viewport: BenchViewport | null; redraw: () => void } {
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  useEffect(() => {
    if (!on) return;
    let stop = () => {};
    let frame = 0;
    // What is there from the first moment comes before the viewport.
    const begin = () => {
      const { viewport } = holder;
      if (!viewport) return void (frame = requestAnimationFrame(begin));
      stop = viewport.drawn.listen(redraw);
      redraw();
    };
    begin();
    return () => {
      cancelAnimationFrame(frame);
      stop();
    };
  }, [on]);
  return { viewport: on ? holder.viewport : null, redraw };
}
