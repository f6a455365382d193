'use client';
import { maskGround, type Mask } from '@/core/document/schema';
import { useThumbnail } from './thumbnails';

/** What a mask lets through, seen from afar: its ground with its paint over it, turned round if it is. Fills its box. */
export function MaskPicture({ mask }: { mask: Mask }) {
  const picture = useThumbnail(mask.id, 'mask');
  return (
    <span className="absolute inset-0" style={{ background: `rgb(${[0, 1, 2].map(() => maskGround(mask) * 255).join()})` }}>
      {picture && (
        <img
          src={picture}
          alt=""
          className="absolute inset-0 h-full w-full"
          style={mask.invert ? { filter: 'invert(1)' } : undefined}
        />
      )}
    </span>
  );
}
