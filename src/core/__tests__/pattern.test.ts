/** Pattern strokes: whole repeats, turned with the path, mitred; on the sheet and on the model. */
import { drawnPicture } from '../hand/pictures';
import { pictureAt } from '../../kernels/dabShares';
import { levelOf } from '../hand/tipPicture';
import { brushFor, canvasEasel, flatSample, modelEasel, rayTo, strokeOn, texel, texelsOf } from '../testing/hand';
import { cubeModel } from '../testing/models';
import { TILE_TEXELS } from '../tile/tiles';

const cover = { roughness: { on: true, value: [1], amount: 1 } };
const brush = (over: object = {}) =>
  brushFor({ mode: 'pattern', size: 20, writes: cover, tip: { shape: 'picture', picture: 'made:stitch' }, ...over });
const picture = drawnPicture('made:stitch')!;

/** How often the middle of the band goes from thread to gap and back. */
const repeats = (easel: ReturnType<typeof canvasEasel>, from: number, to: number, y: number) => {
  let count = 0;
  let in_ = false;
  for (let x = from; x <= to; x++) {
    const on = texel(easel, 'roughness', x, y)[1] > 0.3;
    if (on && !in_) count++;
    in_ = on;
  }
  return count;
};

test.each([
  [100, 5],
  [109, 5],
  [111, 6],
  [30, 2],
  [4, 1],
])('a path of %i texels has %i whole stitches of 20, whatever is left over', (long, count) => {
  const easel = canvasEasel(256);
  strokeOn(easel, brush(), [flatSample(40, 100), flatSample(40 + long, 100)]);
  // The path goes to the last dab: dabs are two texels apart.
  const fitted = (long - (long % 2)) / count;
  // Every texel of the middle is the picture at its place on the path, with the length that fits.
  let worst = 0;
  for (let x = 42; x < 38 + long; x++) {
    const turns = (x + 0.5 - 40) / fitted;
    const level = levelOf(picture, Math.round(Math.log2(256 / 20)));
    const expected = pictureAt(level, (turns % 1) * 2 - 1, 0.5 / 10);
    worst = Math.max(worst, Math.abs(texel(easel, 'roughness', x, 100)[1] - expected));
  }
  expect(worst).toBeLessThan(0.02);
  expect(Math.abs(fitted / 20 - 1)).toBeLessThanOrEqual(long < 20 ? 1 : 0.5);
});

test('it is the same whatever way it goes, turned with the path', () => {
  const across = canvasEasel(256);
  strokeOn(across, brush(), [flatSample(60, 128), flatSample(160, 128)]);
  const down = canvasEasel(256);
  strokeOn(down, brush(), [flatSample(128, 60), flatSample(128, 160)]);
  let worst = 0;
  for (let n = 62; n < 158; n++)
    for (let k = -8; k < 8; k++)
      worst = Math.max(worst, Math.abs(texel(across, 'roughness', n, 128 + k)[1] - texel(down, 'roughness', 127 - k, n)[1]));
  expect(worst).toBeLessThan(0.01);
  expect(repeats(across, 55, 165, 128)).toBeGreaterThanOrEqual(5);
});

test('a sharp corner is mitred: nothing open outside, each texel once', () => {
  const easel = canvasEasel(256);
  const rope = brush({ tip: { shape: 'picture', picture: 'made:rope' }, size: 30 });
  strokeOn(easel, rope, [flatSample(40, 100), flatSample(160, 100)]);
  const once = Math.max(...texelsOf(easel, 'roughness').filter((_, i) => i % 2 === 1));
  const corner = canvasEasel(256);
  // A poly-line: the path itself has the corner.
  strokeOn(corner, rope, [
    flatSample(40, 100),
    ...Array.from({ length: 12 }, (_, n) => flatSample(48 + n * 8, 100)),
    ...Array.from({ length: 12 }, (_, n) => flatSample(140, 104 + n * 8)),
  ]);
  const most = Math.max(...texelsOf(corner, 'roughness').filter((_, i) => i % 2 === 1));
  expect(most).toBeLessThanOrEqual(Math.max(once, 65535));
  let covered = 0;
  for (let y = 93; y < 108; y++) for (let x = 130; x < 148; x++) if (texel(corner, 'roughness', x, y)[1] > 0.05) covered++;
  expect(covered).toBeGreaterThan(130);
});

test('by parts as at once; mirrored strands each have their own', () => {
  const samples = Array.from({ length: 30 }, (_, n) => flatSample(30 + n * 6, 128 + Math.sin(n / 4) * 30));
  const [a, b] = [false, true].map((parts) => {
    const easel = canvasEasel(256);
    strokeOn(easel, brush({ mirror: { axes: ['y'], radial: 1, around: 'z' } }), samples, 1, parts);
    return texelsOf(easel, 'roughness');
  });
  expect(b).toEqual(a);
  let worst = 0;
  for (let y = 0; y < 256; y++)
    for (let x = 0; x < 256; x++) worst = Math.max(worst, Math.abs(a[(y * 256 + x) * 2 + 1] - a[((255 - y) * 256 + x) * 2 + 1]));
  expect(worst).toBeLessThan(65535 / 40);
});

test('over the edge of a cube it goes on, as wide and as long', () => {
  const easel = modelEasel(cubeModel(), 256);
  const rope = brush({ tip: { shape: 'picture', picture: 'made:rope' }, size: 120, sizeUnit: 'model' });
  const way = Array.from({ length: 40 }, (_, n) =>
    rayTo([2, 0.2, 2], n < 20 ? [0.1 + n * 0.02, 0.1, 0.5] : [0.5, 0.1, 0.5 - (n - 19) * 0.02]),
  );
  strokeOn(easel, rope, way);
  const counts = [0, 0];
  let stray = 0;
  for (const [index, tile] of easel.surface!.map.tiles) {
    const data = easel.store.data('l/roughness', index);
    for (let i = 0; i < TILE_TEXELS; i++) {
      if (!data || data[i * 2 + 1] < 8000) continue;
      const face = tile.face[i] >> 1;
      const [, y] = tile.position.subarray(i * 3, i * 3 + 3);
      if (Math.abs(y - 0.1) > 0.064) stray++;
      if (face === 0) counts[0]++;
      if (face === 2) counts[1]++;
    }
  }
  expect(stray).toBe(0);
  expect(Math.min(...counts)).toBeGreaterThan(60);
});
