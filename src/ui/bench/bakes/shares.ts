/** Masks of the sheet as grey pictures on the server: reaches and directions are painted by them. */
import { useEffect, useState } from 'react';
import { Share } from '@/core/bake/share';
import type { TwinUse } from '@/core/kinds/bakes/spec';
import { bench, useBench } from '../store';
import { sendTwin } from './api';

/** Read when a mask is first used: nobody else on the bench needs it. */
const codec = () => import('@/core/codec/png');

/** Sends a mask of the sheet as it is now; null: there is none of that id. Rejects with a sentence. */
export async function sendMask(maskId: string): Promise<TwinUse['reachBy']> {
  if (!maskId) return null;
  const picture = await bench().ask({ ask: 'mask', sheetId: useBench.getState().sheetId, maskId });
  if (!picture) return null;
  const bytes = (await codec()).encodePng(picture) as Uint8Array<ArrayBuffer>;
  const { hash } = await sendTwin(new File([bytes], 'reach.png'));
  return { file: hash, mask: maskId };
}

/** A mask that was sent, for looking at it; null while it is on its way. */
export function useShare(use: TwinUse['reachBy']): Share | null {
  const [share, setShare] = useState<{ file: string; share: Share } | null>(null);
  const file = use?.file ?? '';
  useEffect(() => {
    if (!file) return;
    let gone = false;
    fetch(`/api/twins/${file}`)
      .then(async (r) => (r.ok ? (await codec()).decodePng(new Uint8Array(await r.arrayBuffer())) : null))
      .then((picture) => !gone && picture && setShare({ file, share: new Share(picture) }))
      // The cage is then shown as if it were the same everywhere.
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [file]);
  return share?.file === file ? share.share : null;
}
