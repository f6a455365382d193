/** Rows by Node's zlib are those of the core's own reader, damage included; tiles on their way in become blobs at once. */
import { decodePng, encodePng, PictureError } from '../../core/codec/png';
import { blobChannels, unfilterTile } from '../../core/codec/tileBlob';
import { inflateRawSync } from 'node:zlib';
import { seededRandom } from '../../core/testing/models';
import { mendedPng } from '../../core/testing/fuzz';
import { TILE_TEXELS } from '../../core/tile/tiles';
import { readPngByNode } from '../nodePng';
import { TileSink } from '../tileSink';

const random = seededRandom(2);
const data = Uint16Array.from({ length: 90 * 70 * 4 }, () => random() * 65536);
const png = encodePng({ width: 90, height: 70, channels: 4, bits: 16, data });
const read = async (bytes: Uint8Array) => {
  const out = new Uint16Array(data.length);
  await readPngByNode({ bytes, name: 'It', take: () => (row, y) => out.set(row, y * 90 * 4) });
  return out;
};

test('the same texels', async () => {
  expect(await read(png)).toEqual(decodePng(png).data);
});

test('damage is one sentence, wherever it is', async () => {
  for (let n = 0; n < 60; n++) {
    const bad = png.slice(0, n % 3 ? png.length : 60 + Math.floor(random() * (png.length - 60)));
    bad[45 + Math.floor(random() * (bad.length - 60))] ^= 1 << (n % 8);
    await expect(read(mendedPng(bad))).rejects.toThrow(PictureError);
  }
});

test('a sink packs each tile once, even ones without working their address out again, and keeps only so many texels', () => {
  const sink = new TileSink(300_000);
  const even = () => new Uint16Array(TILE_TEXELS * 4).fill(7);
  const noise = Uint16Array.from({ length: TILE_TEXELS * 4 }, () => random() * 65536);
  const [a, b, c, d] = [sink.take(even()), sink.take(even()), sink.take(noise), sink.take(noise.slice())];
  expect([a.hash === b.hash, c.hash === d.hash, sink.blobs.size]).toEqual([true, true, 2]);
  expect([a, b, c, d].map((v) => v.data !== null)).toEqual([true, true, false, false]);
  expect(sink.full).toBe(true);
  const blob = sink.blobs.get(c.hash!)!;
  expect(unfilterTile(inflateRawSync(blob.subarray(1)), blobChannels(blob))).toEqual(noise);
});
