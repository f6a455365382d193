'use client';
import { useEffect, useRef } from 'react';
import type { SmallPicture } from '@/engine/answers/pictures';

/** A small picture from the engine. Drawn, not encoded: many change at once while a slider moves. */
export function SmallPictureView({ picture, className }: { picture: SmallPicture; className: string }) {
  const ref = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const data = new ImageData(picture.data, picture.width, picture.height);
    ref.current!.getContext('2d')!.putImageData(data, 0, 0);
  }, [picture]);
  return <canvas ref={ref} width={picture.width} height={picture.height} aria-hidden className={className} />;
}
