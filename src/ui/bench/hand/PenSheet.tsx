'use client';
/** How the pen presses: learnt from a few strokes; and a made-up hand for those without one. */
import { useRef, useState } from 'react';
import { response } from '@/core/hand/vary';
import { Button } from '../../kit/Button';
import { Segments } from '../../kit/Segments';
import { DialogBox } from '../../kit/DialogBox';
import { bendFor } from '../pointer/pen';
import { useBench } from '../store';
import { Percent } from './Percent';

const ENOUGH = 3;

export function PenSheet({ onClose }: { onClose: () => void }) {
  const pen = useBench((s) => s.pen);
  const [pressures, setPressures] = useState<number[]>([]);
  const [strokes, setStrokes] = useState(0);
  const [noPen, setNoPen] = useState(false);
  const set = (change: Partial<typeof pen>) => useBench.setState({ pen: { ...pen, ...change } });
  const canvas = useRef<HTMLCanvasElement>(null);
  const draw = (e: React.PointerEvent) => {
    if (e.buttons === 0 || e.pointerType !== 'pen') return;
    const box = e.currentTarget.getBoundingClientRect();
    const g = canvas.current!.getContext('2d')!;
    g.fillStyle = 'rgba(60,54,48,0.6)';
    g.beginPath();
    g.arc(e.clientX - box.left, e.clientY - box.top, 1 + 9 * response(e.pressure, pen.bend), 0, 7);
    g.fill();
    setPressures((all) => [...all, e.pressure]);
  };
  return (
    <DialogBox title="Pen" onClose={onClose}>
      <p className="mb-2">
        Draw {ENOUGH} strokes as you draw all day, lightly and firmly. What you press mostly then counts as half.
      </p>
      <canvas
        ref={canvas}
        width={518}
        height={150}
        aria-label="Draw here"
        className="w-full touch-none rounded border border-line bg-[#dcdad6]"
        onPointerDown={(e) => {
          setNoPen(e.pointerType !== 'pen');
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={draw}
        onPointerUp={(e) => e.pointerType === 'pen' && setStrokes((n) => n + 1)}
      />
      <p className="my-2 h-5 text-ink-soft" role="status">
        {noPen
          ? 'That was no pen: it does not press.'
          : strokes === 0
            ? ''
            : strokes < ENOUGH
              ? `${ENOUGH - strokes} more.`
              : `From ${strokes} strokes.`}
      </p>
      <Percent
        label="Response"
        labelWidth="84px"
        value={pen.bend}
        min={-1}
        reset={0}
        hint="Below 0: firm presses count. Above 0: light ones do."
        onChange={(bend) => set({ bend })}
      />
      <div className="my-3 flex items-center gap-2">
        <span className="w-[84px] text-ink-soft">Without a pen</span>
        <Segments
          label="Without a pen"
          value={pen.mouse}
          options={[
            { value: 'full', label: 'Full pressure' },
            { value: 'speed', label: 'Pressed by speed', hint: 'Slow is firm, fast is light, as a hand would' },
          ]}
          onChange={(mouse) => set({ mouse })}
        />
      </div>
      <div className="flex justify-end gap-2">
        <Button kind="main" disabled={strokes < ENOUGH} onClick={() => set({ bend: bendFor(pressures) })}>
          Take from these strokes
        </Button>
      </div>
    </DialogBox>
  );
}
