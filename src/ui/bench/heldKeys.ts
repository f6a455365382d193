/** Keys that are held down as modifiers of the pointer (space, L). */
export const held = new Set<string>();

const typing = (target: EventTarget | null) => target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName);

export function watchHeldKeys(): () => void {
  const down = (e: KeyboardEvent) => {
    if (typing(e.target)) return;
    held.add(e.key.toLowerCase());
    // Space would press the focused button; over the bench it is the hand that moves the view.
    if (e.key === ' ' && !(e.target instanceof HTMLButtonElement)) e.preventDefault();
  };
  const up = (e: KeyboardEvent) => void held.delete(e.key.toLowerCase());
  const clear = () => held.clear();
  window.addEventListener('keydown', down);
  window.addEventListener('keyup', up);
  window.addEventListener('blur', clear);
  return () => {
    window.removeEventListener('keydown', down);
    window.removeEventListener('keyup', up);
    window.removeEventListener('blur', clear);
  };
}
