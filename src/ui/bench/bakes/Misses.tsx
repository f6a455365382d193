'use client';
/** Where a bake met nothing of its dense model, and the way there. */
import { useEffect, useState } from 'react';
import type { Picture } from '@/core/document/schema';
import type { Miss } from '@/core/strata/misses';
import { bench, currentSheet, say, useBench } from '../store';
import { holder } from '../panes/viewportHolder';

export function Misses({ picture }: { picture: Picture }) {
  const [misses, setMisses] = useState<Miss[]>([]);
  const sheetId = useBench((s) => s.sheetId);
  const { id } = picture;
  const made = picture.bake!.made;
  useEffect(() => {
    let gone = false;
    bench()
      .ask({ ask: 'misses', sheetId, pictureId: id })
      .then((found) => !gone && setMisses(found))
      .catch((error: unknown) => say((error as Error).message));
    return () => {
      gone = true;
    };
  }, [sheetId, id, made]);
  const go = ({ place, normal, u, v }: Miss) => {
    const sheet = currentSheet();
    holder.viewport?.modelCamera.goTo(place, normal);
    holder.viewport?.flatCamera.goTo(u * sheet.width, v * sheet.height);
    holder.viewport?.invalidate();
    useBench.setState({ bakeLook: id, maskMode: null });
  };
  return (
    <ul aria-label="Where the dense model was missed" className="max-h-28 overflow-y-auto">
      {misses.map((m) => (
        <li key={m.island}>
          <button
            type="button"
            onClick={() => go(m)}
            className="flex h-6 w-full items-center gap-2 rounded px-1 text-left hover:bg-field"
          >
            <span aria-hidden className="h-2 w-2 rounded-full bg-fault" />
            <span className="min-w-0 flex-1 truncate">{m.part}</span>
            <span className="figures text-ink-soft">{m.count.toLocaleString('en')} texels</span>
            <span className="underline">Go there</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
