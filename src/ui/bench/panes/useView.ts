/** What lies over the panes follows the cameras. */
import { useEffect, useReducer } from 'react';
import type { BenchViewport } from '@/viewport/benchViewport';
import { holder } from './viewportHolder';

/**
 * The viewport, while it is `on`; the component is rendered again whenever the work is seen from elsewhere, and not when only its texels
 * have changed. `redraw`: renders it again now.
 */
export function useView(on: boolean): { viewport: BenchViewport | null; redraw: () => void } {
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  useEffect(() => {
    if (!on) return;
    let stop = () => {};
    let frame = 0;
    // What is there from the first moment is rendered before the viewport exists.
    const begin = () => {
      const { viewport } = holder;
      if (!viewport) return void (frame = requestAnimationFrame(begin));
      stop = viewport.moved.listen(redraw);
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
