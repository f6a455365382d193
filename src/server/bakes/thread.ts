/** A thread that bakes (pool.ts). It reads models once and keeps what it makes of them. */
import { createHash } from 'node:crypto';
import { parentPort } from 'node:worker_threads';
import { deflateRawSync } from 'node:zlib';
import '../../core/compute';
import { BakeDesk, BakeError } from '../../core/bake/desk';
import { decodePng, PictureError } from '../../core/codec/png';
import { filterTile, tileBlob, tileBytes } from '../../core/codec/tileBlob';
import { sharesOf, type BakeSpec } from '../../core/kinds/bakes/spec';
import { ModelError } from '../../core/mesh/model';
import { readModel } from '../../core/mesh/readModel';
import { nodeDecoders } from '../decoders';
import type { FromThread, PackedTile, ToThread } from './messages';

const desk = new BakeDesk();
const cancelled = new Set<number>();
const port = parentPort!;
const answer = (message: FromThread, transfer: ArrayBuffer[] = []) => port.postMessage(message, transfer);
/** One thing after another. */
let chain: Promise<void> = Promise.resolve();

port.on('message', (message: ToThread) => {
  if (message.type === 'cancel') return void cancelled.add(message.id);
  chain = chain.then(() => carryOut(message));
});

async function carryOut(message: Exclude<ToThread, { type: 'cancel' }>): Promise<void> {
  try {
    if (message.type === 'model') {
      const { address, name, bytes } = message;
      unread.delete(address);
      desk.take(address, await readModel(new Map([[name, bytes]]), { decoders: nodeDecoders }));
    } else if (message.type === 'share') {
      unread.delete(message.address);
      desk.takeShare(message.address, decodePng(message.bytes, 'The mask of the reach'));
    } else if (message.type === 'tiles') {
      refuseUnread(message.spec);
      answer({ type: 'tiles', id: message.id, tiles: desk.tiles(message.spec) });
    } else await tile(message);
  } catch (error) {
    const { message: why } = error as Error;
    const final = error instanceof BakeError || error instanceof ModelError || error instanceof PictureError;
    // Whoever asks for a bake of it is told.
    if (message.type === 'model' || message.type === 'share') unread.set(message.address, why);
    else answer({ type: 'failed', id: message.id, message: why, final });
  }
}

/** Models and pictures that could not be read, and why. */
const unread = new Map<string, string>();
function refuseUnread(spec: BakeSpec): void {
  const why = [spec.model, ...(spec.twin ? [spec.twin.file] : []), ...sharesOf(spec)].map((a) => unread.get(a)).find((w) => w);
  if (why) throw new BakeError(why);
}

async function tile({ id, spec, tile: index, pack }: Extract<ToThread, { type: 'tile' }>): Promise<void> {
  refuseUnread(spec);
  const steps = desk.steps(spec, index);
  for (;;) {
    const { done, value } = steps.next();
    if (done) {
      if (!value) return answer({ type: 'tile', id, tile: null });
      const packed = pack ? packedTile(value.data) : null;
      const found = { data: value.data, missed: value.missed, packed };
      return answer({ type: 'tile', id, tile: found }, [value.data.buffer as ArrayBuffer]);
    }
    // A word from outside comes in here.
    await new Promise((resolve) => setImmediate(resolve));
    if (cancelled.delete(id)) return answer({ type: 'cancelled', id });
  }
}

function packedTile(data: Uint16Array): PackedTile {
  const hash = createHash('sha256').update(tileBytes(data)).digest('hex');
  return { hash, blob: tileBlob(4, deflateRawSync(filterTile(data), { level: 2 })) };
}
