/** The same bytes out of every piece as before: hashes.json says what they were. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { validateTiles } from '../../src/core/document/planes';
import { pieceSchema } from '../../src/core/document/schema';
import { LAYER_KINDS } from '../../src/core/kinds/layers';
import { hashOfMaps, madeFiles } from '../files';
import { demoPieces, filters, lanternPiece, settsPiece, sources, stacks, strokes, type Hashes } from './pieces';

const FILE = `${__dirname}/hashes.json`;
const known: Hashes = existsSync(FILE) ? (JSON.parse(readFileSync(FILE, 'utf8')) as Hashes) : {};

/** `ADD_GOLDEN=1`: writes down what is new. A hash that is there is never replaced: delete its line by hand, and say why. */
function check(found: Hashes): void {
  const fresh = Object.keys(found).filter((name) => !(name in known));
  if (process.env.ADD_GOLDEN) {
    for (const name of fresh) known[name] = found[name];
    writeFileSync(FILE, `${JSON.stringify(known, null, 1)}\n`);
  } else expect(fresh).toEqual([]);
  const before = Object.fromEntries(Object.keys(found).map((name) => [name, known[name]]));
  expect(found).toEqual(before);
}

test('stacks of every kind of layer, whole and small', () => check(stacks()));
test('every filter, whole and small', () => check(filters()));
test('every source in every placement', () => check(sources()));
test('the demo pieces', async () => check(await demoPieces()));
test('the demo pieces are those of their piece files', async () => {
  expect(await hashOfMaps(await lanternPiece())).toBe(madeFiles().lantern.small);
  expect(await hashOfMaps(await settsPiece())).toBe(madeFiles().setts.small);
});
test('strokes on the sheet and on the model', () => check(strokes()));

test('both pieces are valid documents with several layers and sound tiles', async () => {
  for (const bundle of [await lanternPiece(), await settsPiece()]) {
    expect(pieceSchema.safeParse(bundle.piece).error?.issues ?? []).toEqual([]);
    expect(bundle.piece.sheets[0].layers.length).toBeGreaterThan(5);
    expect(validateTiles(bundle.store)).toBeNull();
  }
});

test('the lantern shows every kind of layer, and a mask that two layers share', async () => {
  const [metal] = (await lanternPiece()).piece.sheets;
  expect(new Set(metal.layers.map((l) => l.kind))).toEqual(new Set(LAYER_KINDS));
  expect(metal.layers.filter((l) => l.mask?.id === 'lm-foot').length).toBe(2);
});
