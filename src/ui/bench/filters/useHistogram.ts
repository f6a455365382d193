'use client';
/** The histogram of what an adjustment gets; asked anew when the document rests. */
import { useEffect, useState } from 'react';
import type { Histogram } from '@/engine/answers/pictures';
import { bench, currentSheet, useBench } from '../store';
import type { EditorProps } from './editor';

const REST_MS = 250;

export function useHistogram(of: EditorProps['histogram']): Histogram | null {
  const [histogram, setHistogram] = useState<Histogram | null>(null);
  const trail = useBench((s) => s.trail);
  const { layerId, map } = of ?? {};
  useEffect(() => {
    if (!layerId || !map) return;
    let gone = false;
    const timer = setTimeout(() => {
      bench()
        .ask({ ask: 'histogram', sheetId: currentSheet().id, layerId, map })
        .then((h) => !gone && h && setHistogram(h))
        // Without figures the handles still work.
        .catch(() => undefined);
    }, REST_MS);
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [layerId, map, trail]);
  return histogram;
}

/** An area under 256 bars, in a box of 256 × 64. */
export function barsPath(bins: readonly number[]): string {
  return `M0 64${bins.map((v, i) => `L${i} ${(64 - v * 62).toFixed(1)}`).join('')}L255 64Z`;
}

/** The share of a box's width or height at which a pointer is. */
export function shareOf(e: { clientX: number; clientY: number }, box: DOMRect): { x: number; y: number } {
  const clamp = (v: number) => Math.min(1, Math.max(0, v));
  return { x: clamp((e.clientX - box.left) / box.width), y: clamp(1 - (e.clientY - box.top) / box.height) };
}
