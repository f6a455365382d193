/** Keys that are held down as modifiers of the pointer (space, L). */
export const held = new Set<string>();
/** Where the pointer was last, in the window. */
export const lastPointer = { x: 640, y: 400 };

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
  const gone = new AbortController();
  const { signal } = gone;
  window.addEventListener('keydown', down, { signal });
  window.addEventListener('keyup', up, { signal });
  window.addEventListener('blur', clear, { signal });
  window.addEventListener(
    'pointermove',
    (e) => {
      lastPointer.x = e.clientX;
      lastPointer.y = e.clientY;
    },
    { signal },
  );
  return () => gone.abort();
}
