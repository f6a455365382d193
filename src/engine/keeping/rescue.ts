/**
 * What the journal had not written when the page went, in the local store: it is written at once, and outlives the page.
 * The next page puts it into the journal before anything else.
 */
import type { Sample } from '../../core/hand/sample';
import type { NewEntry } from './journal/journal';

const KEY = 'brindle-rescue';
export interface Rescue {
  entry: NewEntry;
  samples: Sample[];
}
type Store = Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>;

/** The newest are given up first where there is no room for all: the local store takes some 5 MB. */
export function storeRescue(entries: readonly Rescue[], store: Store = localStorage): void {
  for (let n = entries.length; n > 0; n--)
    try {
      return store.setItem(KEY, JSON.stringify(entries.slice(0, n)));
    } catch {
      // Too large, or forbidden: fewer then.
    }
  try {
    store.removeItem(KEY);
  } catch {
    // Forbidden: then there is nothing in it either.
  }
}

export function rescued(store: Store = localStorage): Rescue[] {
  try {
    const list = JSON.parse(store.getItem(KEY) ?? '[]') as Rescue[];
    return Array.isArray(list) ? list.filter((r) => typeof r?.entry?.id === 'string' && Array.isArray(r.samples)) : [];
  } catch {
    return [];
  }
}
