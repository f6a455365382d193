'use client';
import type { Mask } from '@/core/document/schema';
import { SmallPictureView } from '../pictures/SmallPictureView';
import { useSmallPicture } from '../pictures/thumbnails';

/** What a mask lets through as a layer uses it, or one of its steps by itself, seen from afar. Fills its box. */
export function MaskPicture({ mask, stepId, layerId }: { mask: Mask; stepId?: string; layerId: string | null }) {
  const picture = useSmallPicture({ of: 'mask', maskId: mask.id, stepId, layerId });
  return (
    <span className="absolute inset-0 bg-black" data-mask-picture={picture ? 'yes' : 'no'}>
      {picture && <SmallPictureView picture={picture} className="absolute inset-0 h-full w-full" />}
    </span>
  );
}
