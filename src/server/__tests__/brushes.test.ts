/** The rack in the database: shipped brushes, one's own, brush files and pictures of tips, bad ones among them. */
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { writeZip } from '../../core/codec/zip';
import { SHIPPED } from '../../core/hand/rack/shipped';
import { readBrushFile } from '../../core/hand/rack/file';
import { dropBrush, exportBrushes, importBrushes, listBrushes, markBrush, saveBrush } from '../brushes';
import { readers } from '../readers';
import { freshDatabase } from '../testing';
import { greyOf, takeTip, tipPng } from '../tips';

let drop: () => Promise<void>;
beforeAll(async () => (drop = await freshDatabase('brushes')));
afterAll(() => {
  readers().dispose();
  return drop();
});

const folder = mkdtempSync(join(tmpdir(), 'brindle-brushes-'));
/** The path of a file with these bytes. */
const file = (bytes: Uint8Array) => {
  writeFileSync(join(folder, 'in'), bytes);
  return join(folder, 'in');
};
const takeTipBytes = (bytes: Uint8Array, name: string) => takeTip(file(bytes), name);

const shipped = SHIPPED[0];
const own = (id: string, name: string, over: object = {}) => ({ ...shipped, id, name, group: 'Mine', ...over });
const find = async (id: string) => (await listBrushes()).find((b) => b.id === id);

test('a fresh server has the shipped ones, each once, with names and groups', async () => {
  const list = await listBrushes();
  expect(list.length).toBeGreaterThanOrEqual(30);
  expect(new Set(list.map((b) => b.id)).size).toBe(list.length);
  expect(new Set(list.map((b) => b.name)).size).toBe(list.length);
  expect(list.every((b) => b.shipped && !b.changed && !b.favourite && b.usedAt === null)).toBe(true);
});

test('one’s own are kept, changed, marked and dropped; a shipped one that was changed is reset', async () => {
  await saveBrush(own('own:a', 'Mine'));
  expect(await find('own:a')).toMatchObject({ name: 'Mine', shipped: false });
  await saveBrush(own('own:a', 'Mine still'));
  expect(await find('own:a')).toMatchObject({ name: 'Mine still' });
  await saveBrush({ ...shipped, brush: { ...shipped.brush, size: 77 } });
  await markBrush(shipped.id, { favourite: true, used: true });
  const changed = await find(shipped.id);
  expect(changed).toMatchObject({ changed: true, shipped: true, favourite: true });
  expect(changed!.brush.size).toBe(77);
  expect(changed!.usedAt).toBeGreaterThan(0);
  await dropBrush(shipped.id);
  expect(await find(shipped.id)).toMatchObject({ changed: false, favourite: true, brush: { size: shipped.brush.size } });
  await dropBrush('own:a');
  expect(await find('own:a')).toBeUndefined();
});

test('a brush with its own tip goes out and comes in again beside itself, its picture the same', async () => {
  const dot = await sharp({ create: { width: 40, height: 20, channels: 3, background: '#ffffff' } })
    .composite([
      {
        input: await sharp({ create: { width: 10, height: 10, channels: 3, background: '#000000' } })
          .png()
          .toBuffer(),
      },
    ])
    .png()
    .toBuffer();
  const tip = await takeTipBytes(dot, 'dot.png');
  if (!tip.ok) throw new Error(tip.message);
  const brush = { ...shipped.brush, tip: { ...shipped.brush.tip, shape: 'picture' as const, picture: tip.id } };
  await saveBrush(own('own:tip', 'With a tip', { brush }));
  const exported = (await exportBrushes(['own:tip']))!;
  const { added } = (await importBrushes(file(exported), 'f')) as { added: string[] };
  const again = await find(added[0]);
  expect(again).toMatchObject({ name: 'With a tip 2', group: 'Mine' });
  expect(again!.brush.tip.picture).toBe(tip.id);
  expect(again!.brush).toEqual(brush);
  const { data, info } = await sharp(Buffer.from((await tipPng(tip.id))!))
    .raw()
    .toBuffer({ resolveWithObject: true });
  // The dark middle paints, the white around it does not.
  const at = (x: number, y: number) => data[(y * info.width + x) * info.channels];
  expect([info.width, info.height, at(20, 10), at(3, 3)]).toEqual([40, 20, 255, 0]);
});

test('exporting nothing is said', async () => {
  expect(await exportBrushes(['no-such'])).toBeNull();
});

const json = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));
const fileOf = (value: unknown, more: [string, Uint8Array][] = []) => writeZip([['brushes.json', json(value)], ...more]);
const list = (brushes: unknown[]) => ({ format: 'brindle-brushes', version: 1, brushes });

test.each([
  ['no zip', new TextEncoder().encode('hello'), /not a zip/],
  ['nothing', new Uint8Array(0), /empty/],
  ['another zip', writeZip([['readme.txt', json(1)]]), /no brushes.json/],
  ['text that is no JSON', writeZip([['brushes.json', new TextEncoder().encode('{')]]), /damaged/],
  ['another format', fileOf({ format: 'x', version: 1, brushes: [] }), /no file of brushes/],
  ['a newer version', fileOf({ ...list([shipped]), version: 2 }), /newer/],
  ['no brushes', fileOf(list([])), /no brushes/],
  ['a missing field', fileOf(list([{ id: 'a', group: 'g', brush: {} }])), /number 1, at name/],
  ['a wrong field', fileOf(list([shipped, { ...shipped, brush: { ...shipped.brush, size: 'big' } }])), /number 2, at brush.size/],
  ['NaN', fileOf(list([{ ...shipped, brush: { ...shipped.brush, flow: NaN } }])), /number 1, at brush.flow/],
  ['too many', fileOf(list(Array.from({ length: 501 }, () => shipped))), /501/],
  [
    'a lost picture',
    fileOf(list([own('a', 'A', { brush: { ...shipped.brush, tip: { shape: 'picture', picture: 'f'.repeat(64) } } })])),
    /lacks the picture/,
  ],
  [
    'a path as picture',
    fileOf(list([own('a', 'A', { brush: { ...shipped.brush, tip: { shape: 'picture', picture: '../../x' } } })])),
    /picture/,
  ],
  ['a path in the archive', writeZip([['../brushes.json', json(list([shipped]))]]), /outside the archive/],
])('%s is refused in one sentence, and changes nothing', async (_what, bytes, why) => {
  const before = (await listBrushes()).length;
  const result = await importBrushes(file(bytes), '"b.zip"');
  expect(result.ok).toBe(false);
  expect((result as { message: string }).message).toMatch(why);
  expect((result as { message: string }).message).toContain('b.zip');
  expect((await listBrushes()).length).toBe(before);
});

test('unknown fields are passed over', () => {
  const result = readBrushFile(fileOf(list([{ ...shipped, mood: 'blue', brush: { ...shipped.brush, wind: 3 } }])), 'f');
  expect(result.ok && result.brushes[0]).toEqual(shipped);
});

describe('pictures of tips', () => {
  const picture = (width: number, height: number, make: (s: Sharp) => Sharp = (s) => s) =>
    make(sharp({ create: { width, height, channels: 4, background: { r: 9, g: 9, b: 9, alpha: 0.5 } } }))
      .png()
      .toBuffer();

  test('alpha paints where there is any; else what the border is not', () => {
    const at = (channels: number, ...data: number[]) =>
      greyOf({ width: data.length / channels, height: 1, channels, data: Uint16Array.from(data.map((v) => v * 65535)) });
    expect([...at(2, 0, 1, 0, 0.2)]).toEqual([255, 51]);
    expect([...at(1, 1, 0, 1)]).toEqual([0, 255, 0]);
    expect([...at(1, 0, 1, 0)]).toEqual([0, 255, 0]);
    expect([...at(3, 1, 1, 1, 0, 0, 0, 1, 1, 1)]).toEqual([0, 255, 0]);
  });

  test('one texel, 16 bit, CMYK, moving ones and large ones are taken', async () => {
    const cmyk = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#000' } })
      .toColourspace('cmyk')
      .jpeg()
      .toBuffer();
    const deep = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#404040' } })
      .toColourspace('rgb16')
      .png()
      .toBuffer();
    const moving = await sharp(Buffer.alloc(8 * 16 * 4, 200), { raw: { width: 8, height: 16, channels: 4, pageHeight: 8 } })
      .gif()
      .toBuffer();
    for (const [name, bytes] of [
      ['one.png', await picture(1, 1)],
      ['cmyk.jpg', cmyk],
      ['deep.png', deep],
      ['moving.gif', moving],
    ] as const)
      expect([name, (await takeTipBytes(bytes, name)).ok]).toEqual([name, true]);
    const large = await takeTipBytes(await picture(3000, 60), 'large.png');
    const { width, height } = await sharp(Buffer.from((await tipPng((large as { id: string }).id))!)).metadata();
    expect([width, height]).toEqual([2048, 41]);
  });

  test.each([
    ['text', () => Promise.resolve(Buffer.from('not a picture')), /not a picture/],
    ['nothing', () => Promise.resolve(Buffer.alloc(0)), /not a picture/],
    ['20,000 wide', () => picture(20000, 2), /20000 × 2/],
    [
      'all see-through',
      () =>
        picture(4, 4, (s) =>
          s
            .ensureAlpha()
            .composite([
              { input: Buffer.from([0, 0, 0, 255]), raw: { width: 1, height: 1, channels: 4 }, tile: true, blend: 'dest-out' },
            ]),
        ),
      /empty/,
    ],
  ])('%s is refused in one sentence', async (_what, make, why) => {
    const result = await takeTipBytes(await make(), 'tip');
    expect(result.ok).toBe(false);
    expect((result as { message: string }).message).toMatch(why);
  });
});
