/** Pictures of pinboards in the database: taken in, given out, carried by piece files, collected. */
import { createHash } from 'node:crypto';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sql } from 'drizzle-orm';
import sharp from 'sharp';
import { newPaintedLayer, newPiece, newSheet } from '../../core/document/factory';
import { pinSchema } from '../../core/document/pin';
import { readPieceFile, writePieceFile, type PieceBundle } from '../../core/piece/pieceFile';
import { TileStore } from '../../core/tile/tiles';
import { collect } from '../collect';
import { database } from '../db';
import { insertPiece, openPiece } from '../pieces';
import { pinnedPicture, takePinned } from '../pinned';
import { pieces, pinned } from '../schema';
import { freshDatabase } from '../testing';

let end: () => Promise<void>;
beforeAll(async () => (end = await freshDatabase('pinned')));
afterAll(() => end());
beforeEach(async () => {
  await database().delete(pieces);
  await database().delete(pinned);
});

const folder = mkdtempSync(join(tmpdir(), 'brindle-pins-'));
const take = (name: string, bytes: Uint8Array) => {
  const path = join(folder, 'in');
  writeFileSync(path, bytes);
  return takePinned(path, name);
};
const photo = (width = 60, height = 40, colour = '#c06030') =>
  sharp({ create: { width, height, channels: 3, background: colour } })
    .jpeg()
    .toBuffer();

async function hung(): Promise<{ bundle: PieceBundle; hash: string; webp: Uint8Array }> {
  const taken = await take('quay.jpg', await photo());
  if (!taken.ok) throw new Error(taken.message);
  const webp = (await pinnedPicture(taken.picture))!;
  const sheet = newSheet('s', 'Sheet', 128, 128);
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const pin = pinSchema.parse({ ...{ id: 'n', name: 'Quay', x: 0, y: 0, scale: 1 }, ...taken });
  const piece = newPiece('p', 'Pinned', 'canvas', [sheet], { pins: [pin] });
  const pictures = new Map([[taken.picture, webp]]);
  return {
    bundle: { piece, store: new TileStore(), modelGlb: null, thumbnailPng: null, pinned: pictures },
    hash: taken.picture,
    webp,
  };
}

test('any picture becomes WebP, the same bytes one picture; its size is told', async () => {
  const [a, b] = [await take('a.jpg', await photo()), await take('b.jpg', await photo())];
  expect(a).toEqual(b);
  expect(a).toMatchObject({ ok: true, width: 60, height: 40 });
  if (!a.ok) return;
  const webp = (await pinnedPicture(a.picture))!;
  expect(createHash('sha256').update(webp).digest('hex')).toBe(a.picture);
  expect((await sharp(webp).metadata()).format).toBe('webp');
  expect(await pinnedPicture('00'.repeat(32))).toBeNull();
});

test('what is no picture, is cut short or too large gets one sentence, and nothing is kept', async () => {
  const whole = await sharp(Buffer.from(Array.from({ length: 90_000 }, (_, i) => (i * 7919) % 256)), {
    raw: { width: 200, height: 150, channels: 3 },
  })
    .png()
    .toBuffer();
  const wide = await photo(16_500, 2);
  for (const [name, bytes, says] of [
    ['empty', new Uint8Array(0), /not a picture that is read here/],
    ['words', new TextEncoder().encode('a harbour at dusk'), /not a picture that is read here/],
    ['cut', whole.subarray(0, whole.length >> 1), /damaged/],
    ['wide', wide, /16500 × 2, more than is read/],
    [
      'drawing',
      new TextEncoder().encode('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'),
      /svg file, which is not read/,
    ],
  ] as const) {
    const result = await take(name, bytes);
    expect(result).toMatchObject({ ok: false, message: expect.stringMatching(says) as unknown });
    expect(result).toMatchObject({ message: expect.stringContaining(`"${name}"`) as unknown });
  }
  expect((await database().select().from(pinned)).length).toBe(0);
});

test('a piece file carries them into another server', async () => {
  const { bundle, hash, webp } = await hung();
  const file = writePieceFile(bundle);
  await database().delete(pinned);
  const id = await insertPiece(readPieceFile(file));
  expect(Buffer.from((await pinnedPicture(hash))!).equals(Buffer.from(webp))).toBe(true);
  const opened = await openPiece(id);
  expect(opened && 'document' in opened && opened.document.pins[0].picture).toBe(hash);
});

test('bytes that are not what their name says stay out; the piece comes all the same', async () => {
  const { bundle, hash } = await hung();
  await database().delete(pinned);
  const other = await sharp({ create: { width: 4, height: 4, channels: 3, background: 'red' } })
    .webp()
    .toBuffer();
  const script = new TextEncoder().encode('<svg onload="alert(1)">');
  for (const bytes of [other, script]) {
    const id = await insertPiece({ ...bundle, pinned: new Map([[hash, new Uint8Array(bytes)]]) });
    expect(await openPiece(id)).not.toBeNull();
    expect(await pinnedPicture(hash)).toBeNull();
  }
});

test('what no piece names goes after its grace time, what one names stays', async () => {
  const { bundle, hash } = await hung();
  await insertPiece(bundle);
  const alone = await take('alone.jpg', await photo(20, 20, '#203040'));
  await database().execute(sql`update pinned set touched_at = now() - interval '30 days'`);
  await collect();
  expect(await pinnedPicture(hash)).not.toBeNull();
  expect(alone.ok && (await pinnedPicture(alone.picture))).toBeNull();
});
