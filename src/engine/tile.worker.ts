/** Packs and unpacks tiles beside the engine. */
import { deflateSync, inflateSync } from 'fflate';
import { blobChannels, filterTile, sha256, tileBlob, tileBytes, unfilterTile } from '../core/codec/tileBlob';
import { shareTexels, TILE_TEXELS } from '../core/raster/tiles';
import type { PackedTile, TileJob, TileResult } from './tilePool';

shareTexels();

const scope = self as unknown as {
  postMessage(message: unknown, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<{ id: number; job: TileJob }>) => void) | null;
};

async function packTile(data: Uint16Array): Promise<PackedTile> {
  const hash = await sha256(tileBytes(data));
  // Level 4: half the time of 6 for 3 % more bytes on painted tiles.
  return { hash, blob: tileBlob(data.length / TILE_TEXELS, deflateSync(filterTile(data), { level: 4 })) };
}

function unpackTile(blob: Uint8Array): Uint16Array | null {
  try {
    const channels = blobChannels(blob);
    return unfilterTile(inflateSync(blob.subarray(1), { out: new Uint8Array(TILE_TEXELS * channels * 2) }), channels);
  } catch {
    return null;
  }
}

scope.onmessage = async ({ data: { id, job } }) => {
  const result: TileResult = job.do === 'pack' ? await Promise.all(job.tiles.map(packTile)) : job.blobs.map(unpackTile);
  const buffers = result.flatMap((r) => (r === null ? [] : 'blob' in r ? [r.blob.buffer] : [r.buffer]));
  // Shared memory is seen by both sides; plain memory moves over.
  scope.postMessage({ id, result }, [...new Set(buffers)].filter((b) => b instanceof ArrayBuffer) as Transferable[]);
};
