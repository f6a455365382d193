/** The rack in the page: what the server has, kept the same in all tabs. */
import { racked, type RackBrush, type RackEntry } from '@/core/hand/rack/brushes';
import { answered, ask, download } from '../../common/api';
import { brushFrom, entryOf, useRack } from './rackEntries';
import { get, say, set } from './state';
import { takeTool } from './toolBrushes';

export { entryOf, useRack };

/** Tells other tabs that the rack has changed, and hears it from them. Opened with the first rack that a page loads. */
let tabs: BroadcastChannel | null = null;

export async function loadRack(): Promise<void> {
  if (!tabs && typeof BroadcastChannel !== 'undefined') {
    tabs = new BroadcastChannel('brindle-rack');
    tabs.onmessage = () => void loadRack();
  }
  try {
    const entries = await ask<RackEntry[]>('/api/brushes');
    useRack.setState({ entries, failure: null });
  } catch (error) {
    useRack.setState({ failure: (error as Error).message });
  }
}

/** Changes the server, and says so where that fails; whether it did. */
async function change(path: string, init: RequestInit): Promise<boolean> {
  try {
    await ask(path, init);
  } catch (error) {
    say((error as Error).message);
    return false;
  }
  await loadRack();
  tabs?.postMessage('changed');
  return true;
}

const json = (method: string, body: object): RequestInit => ({ method, body: JSON.stringify(body) });
const pathOf = (id: string) => `/api/brushes/${encodeURIComponent(id)}`;

/** Takes a brush into the hand; the tool stays. */
export function takeBrush(entry: RackEntry): void {
  const { tool, brushTool, brush } = get();
  // While picking, the brush in hand belongs to the tool before it.
  if (tool === 'pick') takeTool(brushTool);
  set(brushFrom(entry, brush));
  useRack.setState((s) => ({
    entries: s.entries?.map((e) => (e.id === entry.id ? { ...e, usedAt: Date.now() } : e)) ?? null,
  }));
  // Only remembered: not worth a word where it fails.
  void fetch(pathOf(entry.id), json('PATCH', { used: true })).catch(() => undefined);
}

/** What is in hand differs from the brush of the rack that it was. */
export function isEdited(entry: RackEntry | undefined, brush = get().brush): boolean {
  if (!entry) return false;
  const plain = ({ mode: _m, settings: _s, ...rest }: RackBrush['brush']) => JSON.stringify(sorted(rest));
  return plain(entry.brush) !== plain(racked(brush));
}

/** Keys in one order, nothing that is not there: what is equal reads equal. */
function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value).filter(([, v]) => v !== undefined);
  return Object.fromEntries(entries.toSorted(([a], [b]) => a.localeCompare(b)).map(([k, v]) => [k, sorted(v)]));
}

/** Keeps the brush in hand: over the one that it was, or as a new one. */
export async function keepBrush(
  as: { id: string; name: string; group: string } | { name: string; group: string },
): Promise<void> {
  const id = 'id' in as ? as.id : `own:${crypto.randomUUID()}`;
  const kept = await change(pathOf(id), json('PUT', { name: as.name, group: as.group, brush: racked(get().brush) }));
  if (kept) set({ brushId: id });
}

export const markFavourite = (entry: RackEntry) => change(pathOf(entry.id), json('PATCH', { favourite: !entry.favourite }));

/** One's own goes; a shipped one is again as it came. */
export async function dropBrush(entry: RackEntry): Promise<void> {
  if (!(await change(pathOf(entry.id), { method: 'DELETE' }))) return;
  if (entry.shipped) {
    const now = entryOf(entry.id);
    if (now && get().brushId === entry.id) takeBrush(now);
    return;
  }
  say(`"${entry.name}" is deleted.`);
}

export async function importBrushFile(file: File): Promise<void> {
  const before = new Set(useRack.getState().entries?.map((e) => e.id));
  if (!(await change(`/api/brushes/file?name=${encodeURIComponent(file.name)}`, { method: 'POST', body: file }))) return;
  const added = useRack.getState().entries?.filter((e) => !before.has(e.id)) ?? [];
  say(added.length === 1 ? `"${added[0].name}" is in the rack.` : `${added.length} brushes are in the rack.`);
}

/** A picture becomes the tip in hand. */
export async function importTip(file: File): Promise<boolean> {
  try {
    const { id } = await ask<{ id: string }>(`/api/tips?name=${encodeURIComponent(file.name)}`, { method: 'POST', body: file });
    set((s) => ({ brush: { ...s.brush, tip: { ...s.brush.tip, shape: 'picture', picture: id, grid: false } } }));
    return true;
  } catch (error) {
    say((error as Error).message);
    return false;
  }
}

/** Saves brushes as a file; none named: all that the server has made or changed. */
export async function exportBrushFile(ids: readonly string[], name: string): Promise<void> {
  try {
    const response = await answered(`/api/brushes/file?ids=${ids.map(encodeURIComponent).join(',')}`);
    download(new Uint8Array(await response.arrayBuffer()), `${name}.zip`);
  } catch (error) {
    say((error as Error).message);
  }
}

/** The last that were in hand, newest first. */
export const lastUsed = (entries: readonly RackEntry[], most: number): RackEntry[] =>
  entries
    .filter((e) => e.usedAt !== null)
    .toSorted((a, b) => b.usedAt! - a.usedAt!)
    .slice(0, most);
