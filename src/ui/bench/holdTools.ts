/** A tool's key that is held down is that tool until it is let go; one that is only pressed takes it for good. */
import { heldTool } from './commands';
import { keysOf, type KeyMap } from './keymap';
import { useBench } from './store';
import { HAND_TOOLS } from './tools';

/** Shorter than this is a press. */
const HELD_MS = 350;

export function holdTools(own: KeyMap): () => void {
  const since = new Map<string, number>();
  const tools = new Set(
    HAND_TOOLS.flatMap(({ type, key }) => keysOf({ id: type, keys: [key] }, own)).map((key) => key.split('+').at(-1)!),
  );
  const gone = new AbortController();
  const { signal } = gone;
  window.addEventListener(
    'keydown',
    (e) => {
      const key = e.key.toLowerCase();
      if (!e.repeat && tools.has(key)) since.set(key, e.timeStamp);
    },
    { signal, capture: true },
  );
  window.addEventListener(
    'keyup',
    (e) => {
      const key = e.key.toLowerCase();
      const at = since.get(key);
      since.delete(key);
      if (at === undefined || e.timeStamp - at < HELD_MS) return;
      useBench.setState({ tool: heldTool.before });
    },
    { signal },
  );
  return () => gone.abort();
}
