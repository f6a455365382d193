/** The brushes of the rack as the page knows them, and what taking one does to the brush in hand. */
import { create } from 'zustand';
import type { Brush } from '@/core/hand/brush';
import type { RackEntry } from '@/core/hand/rack/brushes';
import type { OwnBrush } from './state';

interface RackState {
  /** null: not loaded yet. */
  entries: RackEntry[] | null;
  /** Why it could not be read. */
  failure: string | null;
}

export const useRack = create<RackState>(() => ({ entries: null, failure: null }));

export const entryOf = (id: string | null): RackEntry | undefined => useRack.getState().entries?.find((e) => e.id === id);

/** The brush in hand with everything that the rack's brush says; tool settings stay, and so does what it writes. */
export function brushFrom({ id, brush }: RackEntry, inHand: Brush): OwnBrush {
  const { mode: _m, settings: _s, ...mine } = brush;
  return { brush: { ...inHand, texture: undefined, ...mine }, brushId: id };
}
