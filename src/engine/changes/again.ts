/** Carrying out once more what a journal holds: the same intent upon what is there now. */
import { EditMismatch, type Edit } from '../../core/document/edits';
import type { ChangeRecord } from '../../core/keeping/entry';
import { unpackOperation } from '../../core/keeping/operation';
import type { TileChange } from '../../core/tile/tiles';
import type { Changes } from './changes';
import type { Painting } from '../stroke/painting';
import { ServerAnswer } from '../remote';
import type { OpenPiece } from '../state';
import type { DecodeTiles } from '../tiles/tilePool';

export interface Doing {
  open: OpenPiece;
  changes: Changes;
  painting: Painting;
  decode: DecodeTiles;
}

/** Returns why it cannot be, in one sentence; null: done. Throws where it can be tried later. */
export async function carryOutAgain(by: Doing, change: ChangeRecord): Promise<string | null> {
  const { intent } = change;
  const { open, changes } = by;
  try {
    switch (intent.type) {
      case 'stroke':
        return await by.painting.again(change, intent);
      case 'edit':
        changes.carryOutEdit(change);
        return null;
      case 'layers':
        await changes.carryOutLayers(change);
        return null;
      case 'undo':
      case 'redo': {
        const name = open.history.next(intent.type);
        if (name === null || (change.step !== null && change.step !== name))
          return `The step that it would ${intent.type} is not there.`;
        await open.history.fetch(intent.type);
        changes.step(intent.type, change.id);
        return null;
      }
      case 'bytes':
        return await bytesAgain(by, change, intent.bytes);
    }
  } catch (error) {
    if (error instanceof ServerAnswer && error.answer === 'again') throw error;
    if (error instanceof EditMismatch) return `What it changes is not there any more (${error.message}).`;
    return `${(error as Error).message.replace(/\.$/, '')}.`;
  }
}

/** An operation of which nothing but the result was recorded: its tiles are laid over what is there. */
async function bytesAgain(by: Doing, change: ChangeRecord, bytes: Uint8Array): Promise<string | null> {
  const unpacked = unpackOperation(bytes);
  if (!unpacked.ok) return unpacked.message;
  const { operation, blobs } = unpacked.value;
  if (operation.kind !== 'edit') return carryOutAgain(by, { ...change, intent: { type: operation.kind } });
  const hashes = [...new Set(operation.tiles.flatMap((t) => t[3] ?? []))];
  const there = await by.changes.versionsOf(new Set(hashes.filter((h) => !blobs.has(h))));
  const fresh = hashes.filter((h) => blobs.has(h));
  const pixels = await by.decode(fresh.map((h) => blobs.get(h)!));
  fresh.forEach((hash, n) => pixels[n] && there.set(hash, { data: pixels[n], hash: null }));
  const tiles = operation.tiles.map(([plane, tile, , after]): TileChange => {
    const version = after === null ? null : there.get(after);
    if (version === undefined) throw new Error('Some of its tiles are lost');
    return { plane, tile, before: by.open.store.get(plane, tile), after: version };
  });
  by.changes.commit(change, operation.edit as Edit, operation.label, tiles);
  return null;
}
