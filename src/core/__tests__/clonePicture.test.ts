/** Cloning and healing from a picture: what it shows comes in its place, texel for texel, and nothing from beside it. */
import { planeKey } from '../document/planes';
import type { ToolType } from '../hand/tools';
import { brushFor, canvasEasel, fillWith, flatSample, modelEasel, rayTo, strokeOn, texel, type Easel } from '../testing/hand';
import { cubeModel } from '../testing/models';
import { tilesFromPicture } from '../tile/tiles';

const [W, H] = [160, 90];
/** Red grows to the right, green downwards; a square hole at its left top corner. */
const red = (x: number) => 0.1 + (0.8 * x) / W;
const green = (y: number) => 0.2 + (0.6 * y) / H;
const hole = (x: number, y: number) => x < 20 && y < 20;

function withPicture(easel: Easel): Easel {
  const pixels = new Uint16Array(W * H * 4);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      pixels.set(
        [red(x + 0.5), green(y + 0.5), 0.5, hole(x, y) ? 0 : 1].map((v) => Math.round(v * 65535)),
        (y * W + x) * 4,
      );
  for (const [tile, data] of tilesFromPicture(pixels, W, H, 4))
    easel.store.set(planeKey('pic', 'picture'), tile, { data, hash: null });
  easel.sheet = { ...easel.sheet, pictures: [{ id: 'pic', name: 'Study', width: W, height: H, encoding: 'srgb' }] };
  return easel;
}

const WRITES = {
  'base-colour': { on: true, value: [0, 0, 0], amount: 1 },
  roughness: { on: true, value: [0.9], amount: 1 },
};
const brushWith = (x: number, y: number, over: object = {}, mode: ToolType = 'clone') =>
  brushFor({
    ...{ mode, size: 20, sizeUnit: 'texel', writes: WRITES, source: { at: flatSample(x, y), picture: 'pic' } },
    settings: { of: 'all', ...(mode === 'clone' ? { moves: 'anew' } : { from: 'source' }) },
    ...over,
  });

/** Of a painted texel how far off it is from the picture at a place. */
const off = (easel: Easel, x: number, y: number, px: number, py: number) => {
  const [r, g] = texel(easel, 'base-colour', x, y);
  return Math.max(Math.abs(r - red(px)), Math.abs(g - green(py)));
};

test('on a canvas the picture comes in its place, and moves along with the pen', () => {
  const easel = withPicture(canvasEasel(256));
  strokeOn(easel, brushWith(60, 40), [flatSample(100, 100), flatSample(150, 110)]);
  for (const [x, y] of [
    [100, 100],
    [125, 104],
    [149, 109],
  ]) {
    expect(texel(easel, 'base-colour', x, y)[3]).toBe(1);
    expect(off(easel, x, y, 60 + x + 0.5 - 100, 40 + y + 0.5 - 100)).toBeLessThan(1e-3);
  }
  // A picture has colours, and says nothing of roughness.
  expect(texel(easel, 'roughness', 125, 104)).toEqual([0, 0]);
});

test('beside the picture, and where it is clear, nothing comes', () => {
  const easel = withPicture(canvasEasel(256));
  fillWith(easel, 'base-colour', () => [0.3, 0.3, 0.3, 1]);
  const before = texel(easel, 'base-colour', 100, 100);
  // Its hole under the pen, its edge 10 texels to the left of it.
  strokeOn(easel, brushWith(10, 10, { size: 60 }), [flatSample(100, 100)]);
  for (const [x, y] of [
    [100, 100],
    [95, 96],
    [85, 100],
    [100, 80],
  ])
    expect(texel(easel, 'base-colour', x, y)).toEqual(before);
  expect(off(easel, 118, 118, 28.5, 28.5)).toBeLessThan(1e-3);
});

test('later strokes stay aligned with the first', () => {
  const easel = withPicture(canvasEasel(256));
  const source = { at: flatSample(60, 40), from: flatSample(100, 100), picture: 'pic' };
  const brush = brushWith(0, 0, { source, settings: { of: 'all', moves: 'along' } });
  strokeOn(easel, brush, [flatSample(130, 120)]);
  expect(off(easel, 130, 120, 90.5, 60.5)).toBeLessThan(1e-3);
});

test('on the model a texel of the picture is a texel of the sheet', () => {
  const easel = withPicture(modelEasel(cubeModel(), 512));
  const density = easel.surface!.map.texelsPerMetre;
  const at = rayTo([0, 0, 3], [0, 0, 0.5]);
  strokeOn(easel, brushWith(80, 45, { size: 30 }), [at]);
  const { map, query } = easel.surface!;
  const placeOf = (x: number, y: number): [number, number] => {
    const hit = query.raycast([x, y, 3], [0, 0, -1])!;
    return [0, 1].map((k) =>
      Math.floor(hit.barycentric.reduce((sum, w, n) => sum + w * map.cornersTexels[hit.face * 6 + n * 2 + k], 0)),
    ) as [number, number];
  };
  // To the right in space is to the right in the picture, up is up.
  for (const [dx, dy] of [
    [0, 0],
    [9, 0],
    [0, 9],
    [-6, -6],
  ])
    expect(off(easel, ...placeOf(dx / density, dy / density), 80 + dx, 45 - dy)).toBeLessThan(0.02);
});

test.each(['clone', 'heal'] as const)('%s: a picture that is gone leaves everything as it is', (mode) => {
  const easel = withPicture(canvasEasel(128));
  fillWith(easel, 'base-colour', () => [0.3, 0.3, 0.3, 1]);
  easel.sheet = { ...easel.sheet, pictures: [] };
  strokeOn(easel, brushWith(60, 40, {}, mode), [flatSample(60, 60), flatSample(80, 60)]);
  expect(texel(easel, 'base-colour', 70, 60).map((v) => Math.round(v * 100))).toEqual([30, 30, 30, 100]);
});

test('healing takes the picture’s texture and keeps the tone that is there', () => {
  const easel = withPicture(canvasEasel(256));
  fillWith(easel, 'base-colour', () => [0.7, 0.2, 0.1, 1]);
  strokeOn(easel, brushWith(80, 45, { size: 30 }, 'heal'), [flatSample(120, 120), flatSample(130, 120)]);
  const [, g] = texel(easel, 'base-colour', 125, 120);
  // The picture is some 0.6 green there; the rim says 0.2.
  expect(g).toBeLessThan(0.35);
  const rise = texel(easel, 'base-colour', 132, 120)[0] - texel(easel, 'base-colour', 118, 120)[0];
  expect(Math.abs(rise)).toBeLessThan(0.1);
});
