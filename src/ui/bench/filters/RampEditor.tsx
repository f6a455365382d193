'use client';
/** A ramp with its stops: drag a stop, click it for its colour, click the bar for a new one. */
import { X } from 'lucide-react';
import { useRef, useState, type PointerEvent } from 'react';
import { hexToSrgb, srgbToHex } from '@/core/colour/transfer';
import { rampAt } from '@/core/kinds/filters/ramp';
import type { FilterOf } from '@/core/kinds/filters';
import { ColourField } from '../../kit/ColourField';
import { IconButton } from '../../kit/Button';
import { PercentField } from '../../kit/PercentField';
import type { EditorProps } from './editor';
import { shareOf } from './useHistogram';

type Ramp = FilterOf<'ramp'>;

type Stops = Ramp['stops'];

export const RampEditor = ({ filter, onPreview, onCommit }: EditorProps<Ramp>) => (
  <RampStops
    stops={filter.stops}
    onPreview={(stops) => onPreview({ ...filter, stops })}
    onCommit={(stops) => onCommit({ ...filter, stops })}
  />
);

interface StopsProps {
  stops: Stops;
  onPreview: (stops: Stops) => void;
  onCommit: (stops: Stops) => void;
}

export function RampStops({ stops: given, onPreview, onCommit }: StopsProps) {
  const bar = useRef<HTMLDivElement>(null);
  const [chosen, setChosen] = useState(0);
  const [draft, setDraft] = useState<Ramp['stops'] | null>(null);
  const stops = draft ?? given;
  const current = Math.min(chosen, stops.length - 1);
  const commit = (next: Ramp['stops']) => onCommit(next);
  const sorted = stops.toSorted((a, b) => a.at - b.at);
  const gradient = `linear-gradient(90deg, ${sorted.map((s) => `${srgbToHex(s.colour)} ${s.at * 100}%`).join(', ')}${sorted.length === 1 ? `, ${srgbToHex(sorted[0].colour)}` : ''})`;
  const add = (e: PointerEvent) => {
    if (stops.length >= 16) return;
    const at = shareOf(e, bar.current!.getBoundingClientRect()).x;
    const colour: [number, number, number] = [0, 0, 0];
    rampAt(sorted, at, colour);
    setChosen(stops.length);
    commit([...stops, { at, colour }]);
  };
  const set = (n: number, change: Partial<Ramp['stops'][number]>) => stops.with(n, { ...stops[n], ...change });
  const drag = (n: number) => ({
    onPointerDown: (e: PointerEvent) => {
      setChosen(n);
      e.currentTarget.setPointerCapture(e.pointerId);
      e.stopPropagation();
    },
    onPointerMove: (e: PointerEvent) => {
      if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
      const next = set(n, { at: shareOf(e, bar.current!.getBoundingClientRect()).x });
      setDraft(next);
      onPreview(next);
    },
    onPointerUp: () => {
      if (draft) commit(draft);
      setDraft(null);
    },
  });
  return (
    <div className="space-y-1.5 px-1.5">
      <div
        ref={bar}
        onPointerDown={add}
        className="relative h-6 cursor-copy rounded-sm border border-line"
        style={{ background: gradient }}
        role="group"
        aria-label="Ramp: click for a new stop"
      >
        {stops.map((s, n) => (
          <span
            key={n}
            {...drag(n)}
            className={`absolute -bottom-1.5 h-4 w-2.5 -translate-x-1/2 cursor-ew-resize touch-none rounded-sm border-2 ${n === current ? 'border-accent' : 'border-ink'}`}
            style={{ left: `${s.at * 100}%`, background: srgbToHex(s.colour) }}
          />
        ))}
      </div>
      <div className="flex items-center gap-2 pt-1">
        <ColourField
          colour={srgbToHex(stops[current].colour)}
          label={`Stop ${current + 1}`}
          onPreview={(c) => onPreview(set(current, { colour: hexToSrgb(c) }))}
          onCommit={(c) => commit(set(current, { colour: hexToSrgb(c) }))}
        >
          <button
            type="button"
            aria-label={`Colour of stop ${current + 1}`}
            className="h-6 w-10 rounded border border-line"
            style={{ background: srgbToHex(stops[current].colour) }}
          />
        </ColourField>
        <div className="flex-1">
          <PercentField label="At" reset={0.5} value={stops[current].at} onCommit={(v) => commit(set(current, { at: v }))} />
        </div>
        <IconButton
          label="Remove this stop"
          disabled={stops.length < 2}
          onClick={() => {
            setChosen(0);
            commit(stops.toSpliced(current, 1));
          }}
        >
          <X size={13} />
        </IconButton>
      </div>
    </div>
  );
}
