'use client';
/** Levels: the histogram of what comes in, with handles for black, middle and white under it, and the range that goes out. */
import { useRef, useState, type PointerEvent } from 'react';
import type { FilterOf } from '@/core/kinds/filters';
import { NumberField } from '../../kit/NumberField';
import type { EditorProps } from './editor';
import { barsPath, shareOf, useHistogram } from './useHistogram';

type Levels = FilterOf<'levels'>;
type Handle = 'black' | 'middle' | 'white';

export function LevelsEditor({ filter, onPreview, onCommit, histogram }: EditorProps<Levels>) {
  const bars = useHistogram(histogram);
  const box = useRef<SVGSVGElement>(null);
  const [draft, setDraft] = useState<Levels | null>(null);
  const shown = draft ?? filter;
  // Where the middle value lies between black and white: 0.5^(1/gamma) comes out as 0.5.
  const middle = shown.black + (shown.white - shown.black) * Math.pow(0.5, shown.gamma);
  const handles: [Handle, number, string][] = [
    ['black', shown.black, 'Black'],
    ['middle', middle, 'Middle'],
    ['white', shown.white, 'White'],
  ];
  const moved = (handle: Handle, x: number): Levels => {
    if (handle !== 'middle') return { ...shown, [handle]: x };
    const t = Math.min(0.98, Math.max(0.02, (x - shown.black) / (shown.white - shown.black || 1)));
    return { ...shown, gamma: Math.min(10, Math.max(0.1, Math.log(t) / Math.log(0.5))) };
  };
  const drag = (handle: Handle) => ({
    onPointerDown: (e: PointerEvent) => {
      e.currentTarget.setPointerCapture(e.pointerId);
      e.preventDefault();
    },
    onPointerMove: (e: PointerEvent) => {
      if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
      const next = moved(handle, shareOf(e, box.current!.getBoundingClientRect()).x);
      setDraft(next);
      onPreview(next);
    },
    onPointerUp: (e: PointerEvent) => {
      if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
      const next = moved(handle, shareOf(e, box.current!.getBoundingClientRect()).x);
      setDraft(null);
      onCommit(next);
    },
  });
  const key = (handle: Handle, at: number) => (e: React.KeyboardEvent) => {
    const step = { ArrowLeft: -0.01, ArrowDown: -0.01, ArrowRight: 0.01, ArrowUp: 0.01 }[e.key];
    if (step === undefined) return;
    e.preventDefault();
    e.stopPropagation();
    onCommit(moved(handle, Math.min(1, Math.max(0, at + step * (e.shiftKey ? 5 : 1)))));
  };
  const number = (
    name: keyof Levels,
    label: string,
    scale: number,
    min: number,
    max: number,
    reset: number,
    unit: string,
    digits = 0,
  ) => (
    <NumberField
      label={label}
      labelWidth="68px"
      unit={unit}
      value={(shown[name] as number) * scale}
      min={min}
      max={max}
      reset={reset}
      digits={digits}
      step={digits ? 0.05 : 1}
      onPreview={(v) => onPreview({ ...filter, [name]: v / scale })}
      onCommit={(v) => onCommit({ ...filter, [name]: v / scale })}
    />
  );
  return (
    <div className="space-y-0.5" data-testid="levels">
      <div className="px-1.5">
        <svg
          ref={box}
          viewBox="0 0 255 64"
          preserveAspectRatio="none"
          className={`w-full rounded-sm bg-field ${histogram ? 'h-16' : 'h-2'}`}
          aria-label="Histogram"
          data-bars={bars ? 'yes' : 'no'}
        >
          {bars && <path d={barsPath(bars.value)} className="fill-ink-soft" />}
          {bars?.channels.map((bins, c) => (
            <path key={c} d={barsPath(bins)} fill={['#c33', '#393', '#36c'][c]} opacity="0.28" />
          ))}
          {[shown.black, shown.white].map((v, i) => (
            <line
              key={i}
              x1={v * 255}
              x2={v * 255}
              y1="0"
              y2="64"
              className="stroke-accent"
              strokeWidth="1"
              vectorEffect="non-scaling-stroke"
            />
          ))}
        </svg>
        <div className="relative h-4">
          {handles.map(([handle, at, label]) => (
            <span
              key={handle}
              role="slider"
              tabIndex={-1}
              aria-label={label}
              aria-valuemin={0}
              aria-valuemax={100}
              aria-valuenow={Math.round(at * 100)}
              {...drag(handle)}
              onKeyDown={key(handle, at)}
              className={`absolute top-0 h-3.5 w-3 -translate-x-1/2 cursor-ew-resize touch-none rounded-sm border border-ink ${{ black: 'bg-black', middle: 'bg-[#808080]', white: 'bg-white' }[handle]}`}
              style={{ left: `${at * 100}%` }}
            />
          ))}
        </div>
      </div>
      {number('black', 'Black', 100, 0, 100, 0, '%')}
      {number('gamma', 'Middle', 1, 0.1, 4, 1, '', 2)}
      {number('white', 'White', 100, 0, 100, 100, '%')}
      {number('outBlack', 'Out, low', 100, 0, 100, 0, '%')}
      {number('outWhite', 'Out, high', 100, 0, 100, 100, '%')}
    </div>
  );
}
