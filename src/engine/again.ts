/** Carrying out once more what a journal holds: the same intent upon what is there now. */
import { EditMismatch, type Edit } from '../core/document/edits';
import type { Intent } from '../core/keeping/entry';
import { unpackOperation } from '../core/keeping/operation';
import type { TileChange, TileStore, TileVersion } from '../core/tile/tiles';
import type { Direction, History } from './history';
import type { Recorded } from './journal/journal';
import { ServerAnswer } from './remote';
import type { TilePool } from './tilePool';

/** The engine, as this needs it. */
export interface Doer {
  store: TileStore;
  tiles: TilePool;
  history: History;
  strokeAgain(entry: Recorded, intent: Extract<Intent, { type: 'stroke' }>): Promise<string | null>;
  carryOutEdit(entry: Recorded): void;
  carryOutLayers(entry: Recorded): Promise<unknown>;
  step(direction: Direction, id: string): void;
  commit(entry: Recorded, edit: Edit, label: string, changes: TileChange[]): void;
  versionsOf(hashes: ReadonlySet<string>): Promise<Map<string, TileVersion>>;
}

/** Says why it cannot be, in one sentence; null: done. Throws where it can be tried later. */
export async function carryOutAgain(engine: Doer, entry: Recorded): Promise<string | null> {
  const { intent } = entry;
  try {
    switch (intent.type) {
      case 'stroke':
        return await engine.strokeAgain(entry, intent);
      case 'edit':
        engine.carryOutEdit(entry);
        return null;
      case 'layers':
        await engine.carryOutLayers(entry);
        return null;
      case 'undo':
      case 'redo': {
        const name = engine.history.next(intent.type);
        if (name === null || (entry.step !== null && entry.step !== name))
          return `The step that it would ${intent.type} is not there.`;
        await engine.history.fetch(intent.type);
        engine.step(intent.type, entry.id);
        return null;
      }
      case 'bytes':
        return await bytesAgain(engine, entry, intent.bytes);
    }
  } catch (error) {
    if (error instanceof ServerAnswer && error.answer === 'again') throw error;
    if (error instanceof EditMismatch) return `What it changes is not there any more (${error.message}).`;
    return `${(error as Error).message.replace(/\.$/, '')}.`;
  }
}

/** An operation of which nothing but the result was recorded: its tiles are laid over what is there. */
async function bytesAgain(engine: Doer, entry: Recorded, bytes: Uint8Array): Promise<string | null> {
  const unpacked = unpackOperation(bytes);
  if (!unpacked.ok) return unpacked.message;
  const { operation, blobs } = unpacked.value;
  if (operation.kind !== 'edit') return carryOutAgain(engine, { ...entry, intent: { type: operation.kind } });
  const hashes = [...new Set(operation.tiles.flatMap((t) => t[3] ?? []))];
  const there = await engine.versionsOf(new Set(hashes.filter((h) => !blobs.has(h))));
  const fresh = hashes.filter((h) => blobs.has(h));
  const pixels = await engine.tiles.decode(fresh.map((h) => blobs.get(h)!));
  fresh.forEach((hash, n) => pixels[n] && there.set(hash, { data: pixels[n], hash: null }));
  const changes = operation.tiles.map(([plane, tile, , after]): TileChange => {
    const version = after === null ? null : there.get(after);
    if (version === undefined) throw new Error('Some of its tiles are lost');
    return { plane, tile, before: engine.store.get(plane, tile), after: version };
  });
  engine.commit(entry, operation.edit as Edit, operation.label, changes);
  return null;
}
