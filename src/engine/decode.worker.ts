/** Unpacks tiles beside the engine while it reads the model. Message: blobs; answer: their texels, in order. */
import { inflateSync } from 'fflate';
import { blobChannels, unfilterTile } from '../core/codec/tileBlob';
import { shareTexels, TILE_TEXELS } from '../core/raster/tiles';

shareTexels();

const scope = self as unknown as {
  postMessage(message: unknown, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<{ id: number; blobs: Uint8Array[] }>) => void) | null;
};

scope.onmessage = ({ data: { id, blobs } }) => {
  const tiles = blobs.map((blob) => {
    try {
      const channels = blobChannels(blob);
      return unfilterTile(inflateSync(blob.subarray(1), { out: new Uint8Array(TILE_TEXELS * channels * 2) }), channels);
    } catch {
      return null;
    }
  });
  scope.postMessage(
    { id, tiles },
    // Shared memory is seen by both sides; plain memory moves over.
    tiles.flatMap((t) => (t && t.buffer instanceof ArrayBuffer ? [t.buffer] : [])),
  );
};
