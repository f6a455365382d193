/** Tiles to blobs and back with the platform's own deflate, which runs off this thread. */
import { blobChannels, filterTile, sha256, tileBlob, tileBytes, unfilterTile } from '../../core/codec/tileBlob';
import { TILE_TEXELS } from '../../core/tile/tiles';

async function through(
  bytes: Uint8Array<ArrayBuffer>,
  stream: CompressionStream | DecompressionStream,
): Promise<Uint8Array<ArrayBuffer>> {
  const body = new Blob([bytes]).stream().pipeThrough(stream as ReadableWritablePair<Uint8Array, Uint8Array>);
  return new Uint8Array(await new Response(body).arrayBuffer());
}

export async function encodeTile(data: Uint16Array): Promise<{ hash: string; blob: Uint8Array<ArrayBuffer> }> {
  const filtered = filterTile(data);
  const [hash, deflated] = await Promise.all([sha256(tileBytes(data)), through(filtered, new CompressionStream('deflate-raw'))]);
  return { hash, blob: tileBlob(data.length / TILE_TEXELS, deflated) };
}

export async function decodeTile(blob: Uint8Array): Promise<Uint16Array> {
  const channels = blobChannels(blob);
  return unfilterTile(await through(blob.slice(1), new DecompressionStream('deflate-raw')), channels);
}
