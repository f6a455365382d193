/** Keys as their owner has them: what differs from the start is kept in this browser, and can be carried elsewhere. */
import { create } from 'zustand';
import { z } from 'zod';

const STORE = 'brindle-keys';
const FORMAT = 'brindle-keys';

/** Keys by command, written as in keys.ts; an empty list: none. */
export type KeyMap = Record<string, string[]>;

export const keyMapSchema = z.record(
  z.string().max(60),
  z.array(z.string().regex(/^((ctrl|shift|alt)\+)*[^\s+]{1,12}$|^\+$/)).max(4),
);

function load(): KeyMap {
  try {
    const saved = keyMapSchema.safeParse(JSON.parse(localStorage.getItem(STORE) ?? '{}'));
    return saved.success ? saved.data : {};
  } catch {
    return {};
  }
}

export const useKeyMap = create<{ own: KeyMap }>(() => ({ own: typeof localStorage === 'undefined' ? {} : load() }));

/** The keys of a command now. */
export const keysOf = (
  { id, keys }: { id: string; keys: readonly string[] },
  own = useKeyMap.getState().own,
): readonly string[] => own[id] ?? keys;

export function setKeys(id: string, keys: string[] | null): void {
  const { [id]: _old, ...rest } = useKeyMap.getState().own;
  put(keys ? { ...rest, [id]: keys } : rest);
}

export function put(own: KeyMap): void {
  useKeyMap.setState({ own });
  try {
    localStorage.setItem(STORE, JSON.stringify(own));
  } catch {
    // A full or forbidden local store costs only the memory of the keys.
  }
}

export const keyFile = (own = useKeyMap.getState().own): string =>
  JSON.stringify({ format: FORMAT, version: 1, keys: own }, null, 1);

const fileSchema = z.object({ format: z.literal(FORMAT), version: z.literal(1), keys: keyMapSchema });

/** Takes a file of keys in; says what is wrong in a sentence, and then changes nothing. */
export function readKeyFile(text: string): string | null {
  let input: unknown;
  try {
    input = JSON.parse(text);
  } catch {
    return 'This is no file of keys: it cannot be read as JSON.';
  }
  const parsed = fileSchema.safeParse(input);
  if (!parsed.success) return 'This is no file of keys, or one of a newer Brindle: export one again.';
  put(parsed.data.keys);
  return null;
}

/** As a command's key: what was pressed; null: only a modifier so far. */
export function keyOfEvent(e: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'shiftKey' | 'altKey'>): string | null {
  if (['Control', 'Shift', 'Alt', 'Meta'].includes(e.key)) return null;
  const key = e.key === ' ' ? 'space' : e.key.toLowerCase();
  const signs = e.key.length === 1 && e.key.toLowerCase() === e.key.toUpperCase();
  // A sign that needs Shift has it in itself.
  return [e.ctrlKey || e.metaKey ? 'ctrl' : '', e.shiftKey && !signs ? 'shift' : '', e.altKey ? 'alt' : '', key]
    .filter(Boolean)
    .join('+');
}

/** Commands that have a key in common, by key. */
export function clashes(commands: readonly { id: string; keys: readonly string[] }[], own: KeyMap): Map<string, string[]> {
  const users = new Map<string, string[]>();
  for (const command of commands) for (const key of keysOf(command, own)) users.set(key, [...(users.get(key) ?? []), command.id]);
  return new Map([...users].filter(([, ids]) => ids.length > 1));
}
