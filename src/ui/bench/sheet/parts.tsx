'use client';
/** What the parts of the dialog have in common. */
import { useEffect, useState } from 'react';
import type { Sheet } from '@/core/document/schema';
import type { Reshape } from '@/core/document/reshape';
import { bench } from '../store';

/** The sheet as it is drawn. */
export function usePicture(sheetId: string): string | null {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    bench()
      .ask({ ask: 'sheet-picture', sheetId })
      .then((p) => {
        if (gone || !p) return;
        const canvas = document.createElement('canvas');
        [canvas.width, canvas.height] = [p.width, p.height];
        canvas.getContext('2d')!.putImageData(new ImageData(p.data, p.width, p.height), 0, 0);
        setUrl(canvas.toDataURL());
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [sheetId]);
  return url;
}

export function Number_({ label, value, onChange }: { label: string; value: number; onChange: (v: number) => void }) {
  return (
    <label className="flex items-center justify-between gap-3">
      <span className="text-ink-soft">{label}</span>
      <span>
        <input
          type="number"
          value={Number.isFinite(value) ? value : ''}
          onChange={(e) => onChange(e.target.value === '' ? NaN : Number(e.target.value))}
          onKeyDown={(e) => e.stopPropagation()}
          className="figures h-7 w-20 rounded border border-line bg-raised px-1.5 text-right"
        />{' '}
        <span className="text-[11px] text-ink-soft">tx</span>
      </span>
    </label>
  );
}

export interface PartProps {
  sheet: Sheet;
  apply: (by: Reshape) => void;
}

export const BOX = 210;
