'use client';
/** A squint at the work: small, blurred, without colour, so that only light and dark are left to judge. */
import { X } from 'lucide-react';
import { useEffect, useRef, type RefObject } from 'react';
import { IconButton } from '../../kit/Button';
import { useBench } from '../store';
import { holder } from './viewportHolder';

const WIDTH = 176;
/** Luminance (ITU-R BT.709 weights) of encoded values, as the eye sees the screen. */
const TO_GREY = 'grayscale(1) blur(2.2px)';

export function Squint({ canvas }: { canvas: RefObject<HTMLCanvasElement | null> }) {
  const on = useBench((s) => s.squint);
  const small = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const { viewport } = holder;
    if (!on || !viewport) return;
    const draw = () => {
      const from = canvas.current;
      const to = small.current;
      if (!from || !to || from.width === 0) return;
      const height = Math.max(1, Math.round((WIDTH * from.height) / from.width));
      if (to.height !== height) to.height = height;
      const context = to.getContext('2d')!;
      context.filter = TO_GREY;
      context.imageSmoothingQuality = 'high';
      context.drawImage(from, 0, 0, WIDTH, height);
    };
    const stop = viewport.drawn.listen(draw);
    viewport.invalidate();
    return stop;
  }, [on, canvas]);
  if (!on) return null;
  return (
    <figure
      className="absolute bottom-2 left-2 z-10 overflow-hidden rounded border border-line bg-panel shadow-lg"
      data-testid="squint"
      aria-label="Squint: light and dark only"
    >
      <canvas ref={small} width={WIDTH} height={100} className="block" />
      <span className="absolute top-0.5 right-0.5 rounded bg-panel/80">
        <IconButton label="Close the squint" className="h-5 w-5" onClick={() => useBench.setState({ squint: false })}>
          <X size={12} />
        </IconButton>
      </span>
    </figure>
  );
}
