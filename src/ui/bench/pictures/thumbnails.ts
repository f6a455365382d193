'use client';
/** Small pictures of what is painted or made where, drawn by the engine; asked for in one go, also while a slider moves. */
import { useEffect, useSyncExternalStore } from 'react';
import type { PlaneMap } from '@/core/kinds/maps';
import type { SmallPicture, Want } from '@/engine/answers/pictures';
import { Signal } from '@/engine/signal';
import { bench, currentSheet, exactOnce, useBench } from '../store';

const REST_MS = 200;
/** The largest are 80 KiB. */
const MOST_PICTURES = 256;
const pictures = new Map<string, SmallPicture | null>();
const wanted = new Map<string, { want: Want; users: number }>();
const taken = new Signal();
let timer: ReturnType<typeof setTimeout> | null = null;

function ask(): void {
  // Not put off anew by each call: what is dragged is seen on its way.
  timer ??= setTimeout(async () => {
    // The work comes first.
    await exactOnce();
    timer = null;
    if (useBench.getState().phase !== 'open') return;
    void drawStrokes();
    const wants = [...wanted.values()].map((w) => w.want).filter((want) => want.of !== 'stroke');
    if (wants.length === 0) return;
    const answer = await bench()
      .ask({ ask: 'thumbnails', sheetId: currentSheet().id, wants })
      .catch(() => null);
    answer?.forEach((picture, n) => take(JSON.stringify(wants[n]), picture));
    taken.tell();
  }, REST_MS);
}

let drawing = false;

/** Strokes of brushes hang on nothing but the brush: each is drawn once, and one by one, so that painting comes in between. */
async function drawStrokes(): Promise<void> {
  if (drawing) return;
  drawing = true;
  try {
    for (;;) {
      const next = [...wanted].find(([key, { want }]) => want.of === 'stroke' && !pictures.has(key));
      if (!next) return;
      const [key, { want }] = next;
      const answer = await bench()
        .ask({ ask: 'thumbnails', sheetId: currentSheet().id, wants: [want] })
        .catch(() => null);
      if (!answer) return;
      take(key, answer[0]);
      taken.tell();
    }
  } finally {
    drawing = false;
  }
}

/** Null where nothing is painted; the object that is there stays where it shows the same. */
function take(key: string, picture: SmallPicture): void {
  const { data } = picture;
  const old = pictures.get(key);
  if (old && old.data.length === data.length && data.every((v, i) => v === old.data[i])) return;
  pictures.delete(key);
  pictures.set(key, data.every((v, i) => i % 4 !== 3 || v === 0) ? null : picture);
  // A slider that is dragged leaves one behind for each of its places: the oldest that nobody shows are let go.
  for (const old of pictures.keys()) {
    if (pictures.size <= MOST_PICTURES) break;
    if (!wanted.has(old)) pictures.delete(old);
  }
}

/** Null: nothing there, or not known yet. Shown by `SmallPictureView`. */
export function useSmallPicture(want: Want): SmallPicture | null {
  const key = JSON.stringify(want);
  const trail = useBench((s) => s.trail);
  const previews = useBench((s) => s.previews);
  useEffect(() => {
    const entry = wanted.get(key) ?? { want: JSON.parse(key) as Want, users: 0 };
    entry.users++;
    wanted.set(key, entry);
    return () => {
      entry.users--;
      if (entry.users === 0) wanted.delete(key);
    };
  }, [key]);
  useEffect(ask, [key, trail, previews]);
  return useSyncExternalStore(
    (listen) => taken.listen(listen),
    () => pictures.get(key) ?? null,
    () => null,
  );
}

export const useThumbnail = (ownerId: string, map: PlaneMap): SmallPicture | null =>
  useSmallPicture({ of: 'paint', ownerId, map });
