/** Keys of the commands: written `ctrl+shift+z` here, carried out by tinykeys, shown as keyboards have them. */
import { tinykeys } from 'tinykeys';

const MODIFIERS: Record<string, string> = { ctrl: '$mod', shift: 'Shift', alt: 'Alt' };
/** Where a keyboard has them on another level, the key in the same place does. */
const PLACES: Record<string, string> = { '[': 'BracketLeft', ']': 'BracketRight' };
const SHOWN: Record<string, string> = { arrowup: '↑', arrowdown: '↓', ctrl: 'Ctrl', shift: 'Shift', alt: 'Alt', delete: 'Del' };

export const shownKey = (key: string | undefined): string | undefined =>
  key
    ?.split('+')
    .map((k) => SHOWN[k] ?? k.toUpperCase())
    .join(' ');

/** As tinykeys writes it. */
const bindings = (key: string): string[] => {
  const parts = key.split('+').map((k) => MODIFIERS[k] ?? k);
  const last = parts.at(-1)!;
  return (PLACES[last] ? [last, PLACES[last]] : [last]).map((k) => [...parts.slice(0, -1), k].join('+'));
};

const typing = (target: EventTarget | null) => target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName);
/** Something lies over the bench and has the keys; what lies beside the work has not. */
const covered = () => document.querySelector('[role="dialog"]:not([data-beside]),[role="alertdialog"],[role="menu"]') !== null;

/** Carries commands out at their keys until what it gives is called. `always`: while typing too, and under dialogs. */
export function listenToKeys(
  commands: readonly { keys: readonly string[]; run: (e: KeyboardEvent) => void; always?: boolean }[],
): () => void {
  const map: Record<string, (e: KeyboardEvent) => void> = {};
  for (const { keys, run, always } of commands)
    for (const binding of keys.flatMap(bindings))
      map[binding] = (e) => {
        // Of a key that is bound by its sign and by its place, once.
        if (e.defaultPrevented || (!always && (typing(e.target) || covered()))) return;
        e.preventDefault();
        run(e);
      };
  return tinykeys(window, map);
}
