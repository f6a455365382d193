'use client';
/** Quarter turns and flips. */
import { FlipHorizontal2, FlipVertical2, RotateCcw, RotateCw } from 'lucide-react';
import type { Reshape } from '@/core/document/reshape';
import { type PartProps, usePicture } from './parts';

const TURNS: { by: Reshape; label: string; icon: typeof RotateCw; css: string }[] = [
  { by: { kind: 'turn', quarters: 1 }, label: 'Rotate 90° right', icon: RotateCw, css: 'rotate(90deg)' },
  { by: { kind: 'turn', quarters: 3 }, label: 'Rotate 90° left', icon: RotateCcw, css: 'rotate(-90deg)' },
  { by: { kind: 'turn', quarters: 2 }, label: 'Rotate 180°', icon: RotateCw, css: 'rotate(180deg)' },
  { by: { kind: 'mirror', axis: 'x' }, label: 'Flip horizontal', icon: FlipVertical2, css: 'scaleX(-1)' },
  { by: { kind: 'mirror', axis: 'y' }, label: 'Flip vertical', icon: FlipHorizontal2, css: 'scaleY(-1)' },
];

export function Turn({ sheet, apply }: PartProps) {
  const picture = usePicture(sheet.id);
  const scale = 84 / Math.max(sheet.width, sheet.height);
  return (
    <div className="grid grid-cols-5 gap-2">
      {TURNS.map(({ by, label, icon: Icon, css }) => (
        <button
          key={label}
          type="button"
          onClick={() => apply(by)}
          className="flex flex-col items-center gap-1.5 rounded p-1.5 hover:bg-field"
        >
          <span className="flex h-[88px] w-[88px] items-center justify-center bg-work">
            {picture && (
              <img src={picture} alt="" style={{ width: sheet.width * scale, height: sheet.height * scale, transform: css }} />
            )}
          </span>
          <span className="inline-flex items-start gap-1 text-center text-[12px] leading-4">
            <Icon size={13} className="mt-0.5 shrink-0" /> {label}
          </span>
        </button>
      ))}
    </div>
  );
}
