'use client';
/** Refreshes the card's picture from the model pane when the work rests. */
import { useEffect } from 'react';
import { useBench } from '../store';
import { holder } from '../panes/viewportHolder';

const REST_MS = 4000;

export function useCardPicture(pieceId: string): void {
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | null = null;
    const unsubscribe = useBench.subscribe((now, before) => {
      if (now.trail === before.trail) return;
      if (timer) clearTimeout(timer);
      timer = setTimeout(() => void send(pieceId), REST_MS);
    });
    return () => {
      unsubscribe();
      if (timer) clearTimeout(timer);
    };
  }, [pieceId]);
}

async function send(pieceId: string): Promise<void> {
  const picture = holder.viewport?.readPixels('model');
  if (!picture || useBench.getState().view !== 'lit') return;
  const whole = new OffscreenCanvas(picture.width, picture.height);
  whole.getContext('2d')!.putImageData(new ImageData(picture.data, picture.width, picture.height), 0, 0);
  const card = new OffscreenCanvas(320, 240);
  const context = card.getContext('2d')!;
  context.imageSmoothingQuality = 'high';
  // Fill the card, cropping what does not fit its shape.
  const scale = Math.max(320 / picture.width, 240 / picture.height);
  const [w, h] = [picture.width * scale, picture.height * scale];
  context.drawImage(whole, (320 - w) / 2, (240 - h) / 2, w, h);
  const png = await card.convertToBlob({ type: 'image/png' });
  // A missing card picture is no harm: the next rest tries again.
  await fetch(`/api/pieces/${pieceId}/thumbnail`, { method: 'PUT', body: png }).catch(() => undefined);
}
