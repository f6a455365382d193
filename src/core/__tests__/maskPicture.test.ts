/** Masks as small grey pictures. */
import '../compute';
import { newMask, newSheet } from '../document/factory';
import { stepSchema } from '../document/schema';
import { Share } from '../bake/share';
import { maskPicture } from '../strata/maskPicture';
import { TileStore } from '../tile/tiles';

const always = () => Promise.resolve(true);
const step = (source: object) => stepSchema.parse({ id: 'a', source });

test('each texel is the mean of those that it stands for', async () => {
  const even = newMask('m', 'M', 0, { steps: [step({ type: 'constant', value: 0.5 })] });
  const sheet = newSheet('s', 'S', 256, 128, { masks: [even] });
  const picture = (await maskPicture(sheet, new TileStore(), 'm', 64, always))!;
  expect(picture).toMatchObject({ width: 64, height: 32, channels: 1, bits: 8 });
  expect(new Set(picture.data)).toEqual(new Set([128]));
});

test('what is painted comes smaller by whole powers of two, whatever the size; a mask that is gone, or given up, is nothing', async () => {
  const painted = newMask('m', 'M', 0, { steps: [step({ type: 'paint' })] });
  const sheet = newSheet('s', 'S', 200, 72, { masks: [painted] });
  const store = new TileStore();
  // White in every other column of the first tile.
  const data = new Uint16Array(128 * 128 * 2);
  for (let i = 0; i < 128 * 128; i++) data.set([i % 2 ? 65535 : 0, 65535], i * 2);
  store.set('a/mask', 0, { data, hash: null });
  const picture = (await maskPicture(sheet, store, 'm', 60, always))!;
  expect([picture.width, picture.height]).toEqual([50, 18]);
  expect([...picture.data.subarray(0, 32)]).toEqual(new Array(32).fill(128));
  expect([...picture.data.subarray(33, 50)]).toEqual(new Array(17).fill(0));
  expect(await maskPicture(sheet, store, 'gone', 60, always)).toBeNull();
  expect(await maskPicture(sheet, store, 'm', 60, () => Promise.resolve(false))).toBeNull();
});

test('between texels a share is mixed, beyond the border it goes on', () => {
  const share = new Share({ width: 2, height: 2, channels: 1, bits: 8, data: Uint8Array.of(0, 255, 255, 0) });
  expect(share.at(0.25, 0.25)).toBe(0);
  expect(share.at(0.75, 0.25)).toBe(1);
  expect(share.at(0.5, 0.25)).toBeCloseTo(0.5, 9);
  expect(share.at(0.5, 0.5)).toBeCloseTo(0.5, 9);
  expect(share.at(-3, 9)).toBe(1);
  const deep = new Share({ width: 1, height: 1, channels: 3, bits: 16, data: Uint16Array.of(13107, 0, 0) });
  expect(deep.at(0.4, 0.9)).toBeCloseTo(0.2, 9);
});
