/** Three hints for who is here for the first time; each goes for good when it is done, or put away. */
import { create } from 'zustand';

const STORE = 'brindle-hints';
export const HINTS = ['turn', 'paint', 'layers'] as const;
export type Hint = (typeof HINTS)[number];

function load(): Hint[] {
  try {
    const saved: unknown = JSON.parse(localStorage.getItem(STORE) ?? '[]');
    return Array.isArray(saved) ? HINTS.filter((hint) => saved.includes(hint)) : [];
  } catch {
    return [];
  }
}

export const useHints = create<{ done: readonly Hint[] }>(() => ({ done: typeof localStorage === 'undefined' ? [] : load() }));

export function hintDone(...hints: Hint[]): void {
  const { done } = useHints.getState();
  if (hints.every((hint) => done.includes(hint))) return;
  const now = HINTS.filter((hint) => done.includes(hint) || hints.includes(hint));
  useHints.setState({ done: now });
  try {
    localStorage.setItem(STORE, JSON.stringify(now));
  } catch {
    // A full or forbidden local store: the hints come again next time.
  }
}
