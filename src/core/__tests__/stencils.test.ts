/** Stencils: what the pen covers is what the ghost shows. */
import { planeKey } from '../document/planes';
import { intoStencil, stencilSchema, type Stencil } from '../document/stencil';
import type { Picture } from '../document/schema';
import { SOURCES } from '../kinds/sources';
import { letThrough, StencilReader } from '../hand/stencil';
import type { Sample } from '../hand/sample';
import { brushFor, canvasEasel, flatSample, modelEasel, strokeOn, texelsOf, type Easel } from '../testing/hand';
import { quadModel, seededRandom } from '../testing/models';
import { sampleAt, viewOf } from '../testing/views';
import { tilesFromPicture } from '../tile/tiles';

const WRITES = { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 }, height: { on: true, value: [0.9], amount: 1 } };
const stencilOf = (over: object): Stencil => stencilSchema.parse({ of: 'p', ...over });
const FILL = { area: { type: 'fill', of: 'sheet' } };

/** Puts a picture into an easel: `at` gives RGBA 0 … 1. */
function givePicture(easel: Easel, width: number, height: number, at: (x: number, y: number) => readonly number[]): void {
  const data = new Uint16Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      data.set(
        at(x, y).map((v) => Math.round(v * 65535)),
        (y * width + x) * 4,
      );
  const info: Picture = { id: 'p', name: 'Picture', width, height, encoding: 'srgb' };
  easel.sheet = { ...easel.sheet, pictures: [info] };
  for (const [tile, texels] of tilesFromPicture(data, width, height, 4))
    easel.store.set(planeKey('p', 'picture'), tile, { data: texels, hash: null });
}

/** Smooth colours, as pictures have them. */
const smooth = (w: number, h: number) => (x: number, y: number) => [
  0.5 + 0.4 * Math.sin((x / w) * 9),
  0.5 + 0.4 * Math.cos((y / h) * 7),
  0.5 + 0.4 * Math.sin(((x + y) / w) * 5),
  1,
];

/** Decibels by which what was painted is like what was wanted, over RGB of all texels that are wanted. */
function psnr(easel: Easel, wanted: (x: number, y: number) => readonly number[] | null): number {
  const got = texelsOf(easel, 'base-colour');
  const { width } = easel.sheet;
  let [sum, n] = [0, 0];
  for (let t = 0; t < got.length / 4; t++) {
    const want = wanted((t % width) + 0.5, Math.floor(t / width) + 0.5);
    if (!want) continue;
    for (let k = 0; k < 3; k++) sum += (got[t * 4 + k] / 65535 - want[k]) ** 2;
    n += 3;
  }
  expect(n).toBeGreaterThan(1000);
  return 10 * Math.log10(1 / (sum / n));
}

/** Bilinear by plain arithmetic, apart from the code that is tested. */
function sampled(at: (x: number, y: number) => readonly number[], w: number, h: number, u: number, v: number): number[] {
  const [x, y] = [u * w - 0.5, v * h - 0.5];
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const clamp = (n: number, most: number) => Math.min(most - 1, Math.max(0, n));
  const corner = (dx: number, dy: number) => at(clamp(x0 + dx, w), clamp(y0 + dy, h));
  const [fx, fy] = [x - x0, y - y0];
  return [0, 1, 2].map(
    (k) =>
      (corner(0, 0)[k] * (1 - fx) + corner(1, 0)[k] * fx) * (1 - fy) + (corner(0, 1)[k] * (1 - fx) + corner(1, 1)[k] * fx) * fy,
  );
}

test('over the sheet its colours are painted where it lies: turned, scaled, to 45 dB and more', () => {
  const easel = canvasEasel(256);
  const at = smooth(80, 60);
  givePicture(easel, 80, 60, at);
  const stencil = stencilOf({ over: 'sheet', x: 0.5, y: 0.5, size: 0.5, angle: 25, use: 'colour' });
  strokeOn(easel, brushFor({ writes: WRITES, stencil, ...FILL }), [flatSample(5, 5)]);
  const into = intoStencil(stencil, 80 / 60);
  const inside = (u: number, v: number) => u > 0.03 && v > 0.03 && u < 0.97 && v < 0.97;
  expect(
    psnr(easel, (x, y) => {
      const [u, v] = into(x / 256, y / 256);
      return inside(u, v) ? sampled(at, 80, 60, u, v) : null;
    }),
  ).toBeGreaterThan(45);
  // Beside it nothing is painted, on no map.
  const alpha = texelsOf(easel, 'base-colour').filter((_, i) => i % 4 === 3);
  const height = texelsOf(easel, 'height').filter((_, i) => i % 2 === 1);
  alpha.forEach((a, t) => {
    const [u, v] = into(((t % 256) + 0.5) / 256, (Math.floor(t / 256) + 0.5) / 256);
    if (u < -0.02 || v < -0.02 || u > 1.02 || v > 1.02) expect([a, height[t]]).toEqual([0, 0]);
  });
});

/** A square of one metre that looks along z. */
const plane = quadModel([
  {
    corners: [
      [-0.5, -0.5, 0],
      [0.5, -0.5, 0],
      [0.5, 0.5, 0],
      [-0.5, 0.5, 0],
    ],
    uv: [0.05, 0.05, 0.95, 0.95],
  },
]);

test('through the view, on a plane seen head-on, it is the picture resampled, to 45 dB and more', () => {
  const easel = modelEasel(plane, 256);
  const at = smooth(128, 128);
  givePicture(easel, 128, 128, at);
  const view = viewOf([0, 0, 3], [0, 0, 0], 600, 600);
  const stencil = stencilOf({ over: 'view', x: 0.05, y: -0.03, size: 0.4, use: 'colour', flip: true });
  strokeOn(easel, brushFor({ writes: WRITES, stencil, view, ...FILL }), [sampleAt(view, 300, 300)]);
  const into = intoStencil(stencil, 1);
  // The eye is three metres off: a metre spans so many heights of the pane there.
  const metre = 1 / (2 * Math.tan(Math.PI / 12) * 3);
  const db = psnr(easel, (x, y) => {
    const [px, py] = [((x / 256 - 0.05) / 0.9 - 0.5) * metre, ((y / 256 - 0.05) / 0.9 - 0.5) * metre];
    const [u, v] = into(px, py);
    return u > 0.03 && v > 0.03 && u < 0.97 && v < 0.97 ? sampled(at, 128, 128, u, v) : null;
  });
  expect(db).toBeGreaterThan(45);
});

test('what the eye does not see through it stays clean', () => {
  // Two plates, one behind the other.
  const at = (z: number) => plane.positions.map((v, i) => (i % 3 === 2 ? z : v));
  const two = quadModel([
    { corners: [0, 3, 6, 9].map((o) => [...at(0).slice(o, o + 3)] as [number, number, number]), uv: [0.05, 0.05, 0.45, 0.45] },
    { corners: [0, 3, 6, 9].map((o) => [...at(-0.5).slice(o, o + 3)] as [number, number, number]), uv: [0.55, 0.55, 0.95, 0.95] },
  ]);
  const easel = modelEasel(two, 128);
  givePicture(easel, 4, 4, () => [0, 1, 0, 1]);
  const view = viewOf([0, 0, 3], [0, 0, 0], 400, 400);
  strokeOn(easel, brushFor({ writes: WRITES, stencil: stencilOf({ size: 0.5 }), view, ...FILL }), [sampleAt(view, 200, 200)]);
  const alpha = texelsOf(easel, 'base-colour').filter((_, i) => i % 4 === 3);
  let [front, back] = [0, 0];
  alpha.forEach((a, t) => {
    if (a === 0) return;
    if (t % 128 < 64) front++;
    else back++;
  });
  expect(front).toBeGreaterThan(200);
  expect(back).toBe(0);
});

describe('what it lets through', () => {
  const red = [1, 0, 0, 0.25] as const;

  test('alpha, luminance, turned round, cut', () => {
    expect(letThrough(stencilOf({}), ...red)).toBe(0.25);
    expect(letThrough(stencilOf({ invert: true }), ...red)).toBe(0.75);
    expect(letThrough(stencilOf({ use: 'luminance' }), 1, 1, 1, 0.5)).toBeCloseTo(0.5, 9);
    expect(letThrough(stencilOf({ use: 'luminance', invert: true }), 0, 0, 0, 0.5)).toBe(0.5);
    expect([0.2, 0.6].map((a) => letThrough(stencilOf({ cut: 0.5 }), 0, 0, 0, a))).toEqual([0, 1]);
  });

  test('a stroke gets as much as the picture says, within its opacity', () => {
    const easel = canvasEasel(128);
    givePicture(easel, 2, 2, (x) => [0, 0, 0, x === 0 ? 0.25 : 1]);
    const stencil = stencilOf({ over: 'sheet', x: 0.5, y: 0.5, size: 1 });
    strokeOn(easel, brushFor({ writes: WRITES, stencil, opacity: 0.8, ...FILL }), [flatSample(5, 5)]);
    const p = texelsOf(easel, 'base-colour');
    expect(p[(64 * 128 + 20) * 4 + 3] / 65535).toBeCloseTo(0.2, 3);
    expect(p[(64 * 128 + 100) * 4 + 3] / 65535).toBeCloseTo(0.8, 3);
  });

  test('tiled it goes on without end; a picture of one texel is even', () => {
    const easel = canvasEasel(128);
    givePicture(easel, 1, 1, () => [0.2, 0.4, 0.6, 1]);
    const stencil = stencilOf({ over: 'sheet', size: 0.1, tiled: true, use: 'colour' });
    strokeOn(easel, brushFor({ writes: WRITES, stencil, ...FILL }), [flatSample(5, 5)]);
    const p = texelsOf(easel, 'base-colour');
    for (const t of [0, 77, 128 * 128 - 1]) expect([...p.subarray(t * 4, t * 4 + 4)]).toEqual([13107, 26214, 39321, 65535]);
  });

  test('a rule is a stencil too', () => {
    const easel = canvasEasel(128);
    const of = SOURCES.checks.start;
    const checks = stencilOf({ of, over: 'sheet', x: 0.5, y: 0.5, size: 1, use: 'luminance', tiled: true });
    strokeOn(easel, brushFor({ writes: WRITES, stencil: checks, ...FILL }), [flatSample(5, 5)]);
    const alpha = texelsOf(easel, 'base-colour').filter((_, i) => i % 4 === 3);
    const painted = alpha.filter((a) => a > 32768).length / alpha.length;
    expect(painted).toBeGreaterThan(0.3);
    expect(painted).toBeLessThan(0.7);
  });

  test('one whose picture is gone lets nothing through, and says so', () => {
    const easel = canvasEasel(128);
    const stroke = strokeOn(easel, brushFor({ writes: WRITES, stencil: stencilOf({ of: 'gone' }), ...FILL }), [flatSample(5, 5)]);
    expect(stroke.fencedOut).toBe(true);
    expect(stroke.changes()).toEqual([]);
  });
});

test('through a mirror its image is painted', () => {
  const easel = modelEasel(plane, 256);
  givePicture(easel, 8, 8, (x) => [x < 4 ? 1 : 0, 0, x < 4 ? 0 : 1, 1]);
  const view = viewOf([0, 0, 3], [0, 0, 0], 600, 600);
  const stencil = stencilOf({ x: -0.25, y: 0, size: 0.2, use: 'colour' });
  const samples: Sample[] = [sampleAt(view, 300, 300)];
  strokeOn(easel, brushFor({ writes: WRITES, stencil, view, mirror: { axes: ['x'] }, ...FILL }), samples);
  const p = texelsOf(easel, 'base-colour');
  let [both, unlike] = [0, 0];
  for (let y = 0; y < 256; y++)
    for (let x = 20; x < 120; x++) {
      const [a, b] = [(y * 256 + x) * 4, (y * 256 + 255 - x) * 4];
      if (p[a + 3] > 60000) both++;
      if (Math.abs(p[a] - p[b]) > 700 || Math.abs(p[a + 3] - p[b + 3]) > 700) unlike++;
    }
  expect(both).toBeGreaterThan(300);
  expect(unlike).toBeLessThan(both * 0.05);
});

test('smaller copies are read where texels are coarser than the picture: no aliasing', () => {
  const easel = canvasEasel(64);
  const random = seededRandom(4);
  const noise = Array.from({ length: 256 * 256 }, () => (random() < 0.5 ? 0 : 1));
  givePicture(easel, 256, 256, (x, y) => [noise[y * 256 + x], 0, 0, 1]);
  const stencil = stencilOf({ over: 'sheet', x: 0.5, y: 0.5, size: 0.5, use: 'colour' });
  strokeOn(easel, brushFor({ writes: WRITES, stencil, ...FILL }), [flatSample(5, 5)]);
  const p = texelsOf(easel, 'base-colour');
  let [least, most] = [65535, 0];
  for (let y = 20; y < 44; y++)
    for (let x = 20; x < 44; x++) {
      least = Math.min(least, p[(y * 64 + x) * 4]);
      most = Math.max(most, p[(y * 64 + x) * 4]);
    }
  expect(most - least).toBeLessThan(0.5 * 65535);
  const reader = new StencilReader(
    { width: 1, height: 1, levels: [{ width: 1, height: 1, data: Uint16Array.of(0, 0, 0, 0) }] },
    false,
  );
  const out = new Float64Array(4);
  reader.read(0.5, 0.5, 100, out);
  expect([...out]).toEqual([0, 0, 0, 0]);
});
