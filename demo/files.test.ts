/** The piece files of the demo are what their scripts paint; `./brindle demo` writes them anew. */
import { readFileSync } from 'node:fs';
import { readPieceFile } from '../src/core/piece/pieceFile';
import { sha256 } from '../src/core/codec/tileBlob';
import { demoFile, hashOfMaps, inEightBits, madeFiles, MOST_BYTES, SMALL } from './files';
import { DEMO, DEMO_NAMES } from './list';
import { PAINT } from './scripts';

test.each(DEMO_NAMES)('%s: the file that was written last, of at most 4 MiB, sound and of its size', async (name) => {
  const bytes = readFileSync(demoFile(name));
  expect(await sha256(bytes)).toBe(madeFiles()[name].file);
  expect(bytes.length).toBeLessThanOrEqual(MOST_BYTES);
  const { piece, thumbnailPng } = readPieceFile(bytes);
  expect({ id: piece.id, title: piece.name, size: Math.max(...piece.sheets.map((s) => s.width)) }).toEqual({
    ...{ id: DEMO[name].id, title: DEMO[name].title, size: DEMO[name].size },
  });
  expect(thumbnailPng).not.toBeNull();
});

test.each(['buoy', 'setts'] as const)('%s: every texel is what its script paints, in 8 bits', async (name) => {
  const painted = inEightBits(await PAINT[name](DEMO[name].size));
  const { piece, store } = readPieceFile(readFileSync(demoFile(name)));
  expect(piece).toEqual(JSON.parse(JSON.stringify(painted.piece)));
  expect(store.planeKeys().sort()).toEqual(painted.store.planeKeys().sort());
  for (const plane of store.planeKeys())
    for (const [tile, { data }] of painted.store.tilesOf(plane)) expect(store.data(plane, tile)).toEqual(data);
});

// Painted at full size it takes a minute, so it is checked small; golden.test.ts does the same for the lantern and the setts.
test('the tortoise, small: the same maps as when its file was written', async () => {
  expect(await hashOfMaps(await PAINT.tortoise(SMALL))).toBe(madeFiles().tortoise.small);
});
