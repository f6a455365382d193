'use client';
/** Small pictures of what is painted where, drawn by the engine; asked for in one go once the piece rests. */
import { useEffect, useSyncExternalStore } from 'react';
import type { PlaneMap } from '@/core/document/maps';
import { THUMBNAIL_SIDE } from '@/engine/pictures';
import { bench, currentSheet, useBench } from './store';

const REST_MS = 220;
const pictures = new Map<string, string>();
const wanted = new Map<string, { ownerId: string; map: PlaneMap; users: number }>();
const listeners = new Set<() => void>();
let timer: ReturnType<typeof setTimeout> | null = null;

function ask(): void {
  if (timer) clearTimeout(timer);
  timer = setTimeout(async () => {
    timer = null;
    if (useBench.getState().phase !== 'open') return;
    const wants = [...wanted.values()].map(({ ownerId, map }) => ({ ownerId, map }));
    if (wants.length === 0) return;
    const sheetId = currentSheet().id;
    const answer = await bench()
      .ask({ ask: 'thumbnails', sheetId, wants })
      .catch(() => null);
    answer?.forEach((rgba, n) => pictures.set(`${wants[n].ownerId}/${wants[n].map}`, toUrl(rgba)));
    listeners.forEach((l) => l());
  }, REST_MS);
}

/** Empty where nothing is painted. */
function toUrl(rgba: Uint8ClampedArray<ArrayBuffer>): string {
  if (rgba.every((v, i) => i % 4 !== 3 || v === 0)) return '';
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = THUMBNAIL_SIDE;
  canvas.getContext('2d')!.putImageData(new ImageData(rgba, THUMBNAIL_SIDE, THUMBNAIL_SIDE), 0, 0);
  return canvas.toDataURL();
}

/** A data address; empty: nothing painted; null: not known yet. */
export function useThumbnail(ownerId: string, map: PlaneMap): string | null {
  const key = `${ownerId}/${map}`;
  const trail = useBench((s) => s.trail);
  useEffect(() => {
    const want = wanted.get(key) ?? { ownerId, map, users: 0 };
    want.users++;
    wanted.set(key, want);
    return () => {
      want.users--;
      if (want.users === 0) wanted.delete(key);
    };
  }, [key, ownerId, map]);
  useEffect(ask, [key, trail]);
  return useSyncExternalStore(
    (listen) => {
      listeners.add(listen);
      return () => listeners.delete(listen);
    },
    () => pictures.get(key) ?? null,
    () => null,
  );
}
