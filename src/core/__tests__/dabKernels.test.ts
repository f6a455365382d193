/** Dabs in WebAssembly give the bits of their twin, for every kind of tip, and for whole strokes. */
import { dabsTwin } from '../../kernels/dabsTwin';
import type { PictureLevel, SheetFrame, SurfaceDabShape, TextureJoin, TextureShape, TipShape } from '../../kernels/dabs';
import { chooseKernels, shareMemory } from '../compute';
import { falloffTable } from '../hand/coverage';
import { kernels } from '../kernels';
import { BLOCKS_PER_TILE } from '../mesh/surfaceMap/surfaceMap';
import { brushFor, canvasEasel, fillWith, flatSample, modelEasel, rayTo, strokeOn, texelsOf } from '../testing/hand';
import { cubeModel, seededRandom } from '../testing/models';
import { Heap } from '../tile/heap';
import { lasting, newTexels, shareTexels, TILE_TEXELS } from '../tile/tiles';

beforeAll(() => void shareMemory(() => 0));

const random = seededRandom(11);
const between = (low: number, high: number) => low + random() * (high - low);
const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];

function noise(side: number): PictureLevel {
  return { side, values: Float32Array.from({ length: side * side }, () => random()) };
}
const PICTURES = [1, 2, 16, 64].map(noise);

const someTexture = (): TextureShape => ({
  ...{ picture: pick(PICTURES), scale: between(0.1, 9), x: between(-2, 2), y: between(-2, 2), invert: random() < 0.5 },
  ...{ slope: pick([1, 0.2, 7]), depth: random(), join: pick<TextureJoin>(['times', 'lighten', 'height']) },
});

function someTip(): TipShape {
  const outline = pick(['round', 'square', 'picture'] as const);
  return {
    outline,
    falloff: falloffTable(random()),
    picture: outline === 'picture' ? pick(PICTURES) : null,
    reads: outline === 'picture' ? pick([1, 2, 5]) : 1,
    apart: random() * 0.2,
    texture: random() < 0.5 ? someTexture() : null,
  };
}

const plane = (at: (i: number) => number) => Float32Array.from({ length: TILE_TEXELS }, (_, i) => at(i));
/** `map` makes plain arrays; this one lies in the memory. */
function inMemory(of: Float32Array): Float32Array {
  const out = lasting(Float32Array, of.length);
  out.set(of);
  return out;
}
const expectSame = (a: ArrayLike<number>, b: ArrayLike<number>) => {
  for (let i = 0; i < a.length; i++) if (!Object.is(a[i] + 0, b[i] + 0)) throw new Error(`${i}: ${a[i]} is not ${b[i]}`);
};
const rectOf = () => {
  const [a, b, c, d] = [random(), random(), random(), random()].map((v) => Math.floor(v * 129));
  return { x0: Math.min(a, b), x1: Math.max(a, b), y0: Math.min(c, d), y1: Math.max(c, d) };
};

test('in the sheet', () => {
  expect(kernels().name).toBe('wasm');
  let given = 0;
  for (let n = 0; n < 120; n++) {
    const tip = someTip();
    const radius = between(0.5, 60);
    const [c, s, side] = [Math.cos(n) / radius, Math.sin(n) / radius, pick([1, -1, 3, 20])];
    const plain = n % 4 === 0;
    const frame: SheetFrame = plain ? { a: 1 / radius, b: 0, c: 0, d: 1 / radius } : { a: c, b: s, c: -s * side, d: c * side };
    const [dx, dy, rect] = [between(-140, 20), between(-140, 20), rectOf()];
    const before = plane(() => (random() < 0.9 ? 0 : random()));
    const [mine, theirs] = [inMemory(before), before.slice()];
    const gives = kernels().dabInSheet(mine, rect, tip, dx, dy, frame);
    expect(dabsTwin.dabInSheet(theirs, rect, tip, dx, dy, frame)).toBe(gives);
    if (!gives) expectSame(mine, before);
    expectSame(mine, theirs);
    given += theirs.some((v, i) => v !== before[i]) ? 1 : 0;
  }
  expect(given).toBeGreaterThan(40);
});

test('on the model, whatever faces the dab', () => {
  const { surface } = modelEasel(cubeModel(), 256);
  const { map, query } = surface!;
  let given = 0;
  for (let n = 0; n < 60; n++) {
    const tile = pick(map.tileList);
    const texel = Math.floor(random() * TILE_TEXELS);
    const face = tile.face[texel];
    if (face < 0) continue;
    const radius = between(0.002, 0.08);
    const at = (k: number) => tile.position[texel * 3 + k] + between(-0.01, 0.01);
    const direction = () => [between(-1, 1), between(-1, 1), between(-1, 1)];
    const framed = random() < 0.6;
    query.bent.fill(0);
    if (n % 3 === 0) query.bent.fill(1, 0, 4);
    query.hidden[pick([0, 5, 9])] = n % 2;
    const dab: SurfaceDabShape = {
      ...{ x: at(0), y: at(1), z: at(2), radius, reach: radius * pick([1, 1.5]), tip: { ...someTip(), texture: null } },
      frame: framed ? [...direction(), ...direction(), ...direction()].map((v) => v / radius) : null,
      faces: query,
      included: n % 2 ? 0 : query.floodBall(face, at(0), at(1), at(2), radius, 0.01),
      plane: [...query.faceNormal.subarray(face * 3, face * 3 + 3)],
      normal: direction(),
    };
    if (!framed) dab.tip = { ...dab.tip, outline: 'round', picture: null };
    const blocks = Array.from({ length: BLOCKS_PER_TILE }, (_, b) => b).filter(() => random() < 0.7);
    const [mine, theirs] = [lasting(Float32Array, TILE_TEXELS).fill(0), new Float32Array(TILE_TEXELS)];
    const [a, b] = [1, 2].map(() => ({ x0: 128, y0: 128, x1: 0, y1: 0 }));
    kernels().dabOnSurface(mine, tile, blocks, dab, a);
    dabsTwin.dabOnSurface(theirs, tile, blocks, dab, b);
    expectSame(mine, theirs);
    expect(a).toEqual(b);
    given += a.x0 < a.x1 ? 1 : 0;
  }
  expect(given).toBeGreaterThan(10);
});

test('over each other, with numbers of their own, and onto texels', () => {
  for (let n = 0; n < 60; n++) {
    const rect = rectOf();
    const [flow, cap, firm] = [random(), pick([0, 1, random()]), pick([0, 1, random()])];
    const values = plane(() => (random() < 0.2 ? 0 : random() * 0.8));
    const within = (i: number) => i % 128 >= rect.x0 && i % 128 < rect.x1 && i >> 7 >= rect.y0 && i >> 7 < rect.y1;
    // At the rim of a tip gains are so small that 1 − gain is 1.
    const gains = inMemory(plane((i) => (within(i) && random() > 0.3 ? pick([random(), 1e-9 * random()]) : 0)));
    const own = [random(), random(), random()];
    const planes = Float32Array.from({ length: TILE_TEXELS * 3 }, () => random());
    const [mineIn, theirsIn] = [inMemory(planes), planes.slice()];
    const [mine, theirs] = [inMemory(values), values.slice()];
    kernels().layOwn(mineIn, own, mine, gains, rect, flow, cap, firm);
    dabsTwin.layOwn(theirsIn, own, theirs, gains, rect, flow, cap, firm);
    expectSame(mineIn, theirsIn);
    expect(theirsIn.some(Number.isNaN)).toBe(false);
    kernels().layDab(mine, gains, rect, flow, cap, firm);
    dabsTwin.layDab(theirs, gains, rect, flow, cap, firm);
    expectSame(mine, theirs);

    const cleared = inMemory(gains);
    kernels().clearRect(cleared, rect);
    expectSame(cleared, new Float32Array(TILE_TEXELS));

    const channels = pick([2, 4] as const);
    const codes = () => {
      const out = newTexels(TILE_TEXELS * channels);
      for (let i = 0; i < out.length; i++) out[i] = pick([0, 65535, Math.floor(random() * 65536)]);
      return out;
    };
    const before = random() < 0.3 ? null : codes();
    const after = before ?? newTexels(TILE_TEXELS * channels);
    const [first, second] = [newTexels(after.length), after.slice()];
    first.set(after);
    const what = { channels, coverage: mine, amount: random(), before, value: own, colours: random() < 0.5 ? mineIn : null };
    const reaches = inMemory(plane(() => Math.max(0, random() - 0.4)));
    kernels().paintOver({ ...what, coverage: reaches, after: first }, rect);
    dabsTwin.paintOver({ ...what, coverage: reaches, after: second }, rect);
    expectSame(first, second);
  }
});

test('textures that lie fixed, and what they leave', () => {
  const { surface } = modelEasel(cubeModel(), 256);
  for (let n = 0; n < 60; n++) {
    const rect = rectOf();
    const texture = { ...someTexture(), scale: between(0.01, 9) };
    const at = n % 2 ? pick(surface!.map.tileList) : { x: 128 * pick([0, 3]) + 0.5, y: 0.5 };
    const coverage = inMemory(plane(() => Math.max(0, random() - 0.3)));
    const known = plane(() => (random() < 0.5 ? -1 : random()));
    const [mine, theirs] = [inMemory(known), known.slice()];
    kernels().textureValues(mine, coverage, rect, texture, at);
    dabsTwin.textureValues(theirs, coverage, rect, texture, at);
    expectSame(mine, theirs);
    const depths = random() < 0.5 ? null : inMemory(plane(() => random() * 1.5));
    const values = inMemory(plane(random));
    const out = plane(random);
    const [left, other] = [inMemory(out), out.slice()];
    // Whole groups of four texels are written: what lies beside the rectangle is nobody's.
    const wide = { ...rect, x0: rect.x0 & ~3, x1: (rect.x1 + 3) & ~3 };
    kernels().breakUp(left, coverage, values, depths, wide, texture);
    dabsTwin.breakUp(other, coverage, values, depths, wide, texture);
    expectSame(left, other);
  }
});

const WRITES = {
  'base-colour': { on: true, value: [0.8, 0.4, 0.1], amount: 0.9 },
  roughness: { on: true, value: [0.3], amount: 1 },
};
const BRUSHES: Record<string, object> = {
  plain: {},
  'soft, with colours of its own': {
    ...{ hardness: 0.2, flow: 0.4, second: [0.1, 0.2, 0.9] },
    vary: [
      { what: 'mix', by: 'dab', amount: 1 },
      { what: 'size', by: 'dab', amount: 0.5 },
    ],
  },
  'a picture with a texture': {
    ...{ tip: { shape: 'picture', picture: 'made:leaf', angle: 20, roundness: 0.4 }, dabs: 3 },
    texture: { of: 'made:sponge', fix: 'tip', size: 2 },
  },
  smear: { mode: 'smear', settings: { strength: 0.9, of: 'layer' } },
  blur: { mode: 'blur', settings: { reach: 9, of: 'layer' }, hardness: 0.3 },
  'a square, mirrored': { tip: { shape: 'square', roundness: 0.5 }, mirror: { axes: ['x'], radial: 1, around: 'y' } },
};

/** Something for tools to work on. */
const pattern = (x: number, y: number) => [((x * 7) % 31) / 31, ((y * 5) % 17) / 17, ((x ^ y) % 13) / 13, x % 5 ? 1 : 0.5];

/** Texels of strokes on a canvas and on a cube. */
function strokesOf(name: string): Uint16Array[] {
  const flat = canvasEasel(200, true);
  const model = modelEasel(cubeModel(), 256);
  for (const easel of [flat, model]) {
    fillWith(easel, 'base-colour', pattern);
    fillWith(easel, 'roughness', (x, y) => pattern(y, x).slice(2));
  }
  const brush = brushFor({ size: 26, writes: WRITES, ...BRUSHES[name] });
  for (const seed of [1, 2]) strokeOn(flat, brush, [flatSample(10.3, 20), flatSample(120, 90 + seed), flatSample(199, 61)], seed);
  const samples = [-0.4, 0.1, 0.4].map((x) => rayTo([x * 2, 1, 3], [x, x, 0.5]));
  strokeOn(model, brushFor({ size: 180, sizeUnit: 'model', writes: WRITES, ...BRUSHES[name] }), samples);
  return [flat, model].flatMap((easel) => [texelsOf(easel, 'base-colour'), texelsOf(easel, 'roughness')]);
}

describe.each(Object.keys(BRUSHES))('whole strokes: %s', (name) => {
  const inShared = () => {
    const { memory } = shareMemory(() => 0)!(0);
    return { memory, texels: strokesOf(name) };
  };
  afterEach(() => void shareMemory(() => 0));

  test('are the same with SIMD, and without shared memory', () => {
    const { texels } = inShared();
    for (const which of ['wasm', 'twin'] as const) {
      chooseKernels(which);
      strokesOf(name).forEach((found, n) => expectSame(found, texels[n]));
    }
  });

  test('are the same when the shared memory is full in the middle of them', () => {
    const { memory, texels } = inShared();
    for (const kib of [100, 600, 1500, 4000]) {
      shareTexels(new Heap(memory, { budget: kib << 10 }));
      strokesOf(name).forEach((found, n) => expectSame(found, texels[n]));
    }
  });
});

test('planes that strokes give back are clean: the next stroke is as if it were the first', () => {
  const once = () => {
    const easel = canvasEasel(300, true);
    const texture = { of: 'made:sponge', fix: 'sheet', size: 40 };
    const stroke = strokeOn(easel, brushFor({ size: 60, flow: 0.3, writes: WRITES, texture }), [
      flatSample(5, 5),
      flatSample(290, 200),
    ]);
    const texels = texelsOf(easel, 'base-colour');
    expect(stroke.changes().length).toBeGreaterThan(4);
    // Over for good: what comes late paints nothing, and nobody's plane.
    expect(stroke.flush()).toEqual([]);
    stroke.cancel();
    return texels;
  };
  const first = once();
  expect(first.some((v) => v !== 0)).toBe(true);
  for (let n = 0; n < 3; n++) expectSame(once(), first);
});

test('a tile that a dab only comes near is not touched: its corner lies outside of the circle', () => {
  const easel = canvasEasel(256);
  // 26 texels from the corner where four tiles meet, 22 across the edges.
  const stroke = strokeOn(easel, brushFor({ size: 40, writes: WRITES }), [flatSample(110, 110)]);
  expect(new Set(stroke.changes().map(({ tile }) => tile))).toEqual(new Set([0, 1, 256]));
});
