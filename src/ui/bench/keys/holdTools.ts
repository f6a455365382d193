/** A tool's key that is held while the pen works is that tool until it is let go; one that is only pressed takes it for good. */
import { heldTool } from './commands';
import { keysOf, type KeyMap } from './keymap';
import { takeTool } from '../store/toolBrushes';
import { HAND_TOOLS } from './tools';

export function holdTools(own: KeyMap): () => void {
  /** Keys that are down, and whether the pen came down since: not how long, which a busy machine would decide. */
  const worked = new Map<string, boolean>();
  const tools = new Set(
    HAND_TOOLS.flatMap(({ type, key }) => keysOf({ id: type, keys: [key] }, own)).map((key) => key.split('+').at(-1)!),
  );
  const gone = new AbortController();
  const { signal } = gone;
  window.addEventListener(
    'keydown',
    (e) => {
      const key = e.key.toLowerCase();
      if (!e.repeat && tools.has(key)) worked.set(key, false);
    },
    { signal, capture: true },
  );
  window.addEventListener('pointerdown', () => worked.forEach((_, key) => worked.set(key, true)), { signal, capture: true });
  window.addEventListener(
    'keyup',
    (e) => {
      const key = e.key.toLowerCase();
      const back = worked.get(key);
      worked.delete(key);
      if (back) takeTool(heldTool.before);
    },
    { signal },
  );
  return () => gone.abort();
}
