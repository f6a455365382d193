/** Sources by rule: the same bytes everywhere, periodic, seamless, with the statistics that they are documented to have. */
import { sha256 } from '../codec/tileBlob';
import { getKernels } from '../compute';
import type { Octave } from '../../kernels/kernels';
import { TILE, TILE_TEXELS, tileIndex, tilesOf } from '../tile/tiles';
import { madeTile } from '../strata/made';
import { PLAIN, placementSchema, type Placement } from '../kinds/placement';
import { uvMatrix } from '../strata/projections';
import { madeSchema, SOURCES, SOURCE_TYPES, type Made, type MadeOf } from '../kinds/sources';
import { stopsAt } from '../kinds/sources/gradient';
import { seededRandom } from '../testing/models';
import '../colour/blend';

type Extent = { width: number; height: number; wrapU: boolean; wrapV: boolean };
const SQUARE: Extent = { width: 256, height: 256, wrapU: true, wrapV: true };

/** A whole sheet of values, row by row. */
function sheetOf(made: Made, placement: Placement = PLAIN, extent: Extent = SQUARE): Float32Array {
  const out = new Float32Array(extent.width * extent.height);
  for (const tile of tilesOf(extent.width, extent.height)) {
    const values = madeTile(made, placement, extent, null, tile);
    const [x0, y0] = [(tile % 256) * TILE, Math.floor(tile / 256) * TILE];
    for (let y = 0; y < Math.min(TILE, extent.height - y0); y++)
      for (let x = 0; x < Math.min(TILE, extent.width - x0); x++) out[(y0 + y) * extent.width + x0 + x] = values[y * TILE + x];
  }
  return out;
}

function moments(values: ArrayLike<number>): { mean: number; deviation: number } {
  let sum = 0;
  let squares = 0;
  for (let i = 0; i < values.length; i++) {
    sum += values[i];
    squares += values[i] * values[i];
  }
  const mean = sum / values.length;
  return { mean, deviation: Math.sqrt(squares / values.length - mean * mean) };
}

describe('the lattices against their twin', () => {
  const random = seededRandom(5);
  const n = 4096;
  const [x, y, z] = [0, 1, 2].map(() => Float32Array.from({ length: n }, () => (random() - 0.5) * 20));
  const octave = (k: number, period: number): Octave => ({
    fx: 1.7 * 2 ** k,
    fy: 1.7 * 2 ** k,
    fz: 1.7 * 2 ** k,
    px: period,
    py: period,
    pz: period,
    amplitude: 0.5 ** k,
    seed: (k * 7919 + 3) | 0,
  });
  const [simd, twin] = [getKernels('wasm'), getKernels('twin')];
  const widest = (a: Float32Array, b: Float32Array) => a.reduce((m, v, i) => Math.max(m, Math.abs(v - b[i])), 0);

  test.each(['plain', 'ridges', 'billows'] as const)('%s, in space and in a plane, within 1 of 65,535', (mode) => {
    for (const depth of [z, null])
      for (const period of [0, 5]) {
        const [a, b] = [new Float32Array(n), new Float32Array(n)];
        const octaves = [0, 1, 2, 3, 4].map((k) => octave(k, period));
        simd.noiseFractal(a, x, y, depth, octaves, mode);
        twin.noiseFractal(b, x, y, depth, octaves, mode);
        expect(widest(a, b)).toBeLessThan(1 / 65535);
        expect(moments(a).deviation).toBeGreaterThan(0.1);
      }
  });

  test('grain is the same number; cells have the same distances, save where two points are equally near', () => {
    const [a, b] = [new Float32Array(n), new Float32Array(n)];
    simd.noiseHash(a, x, y, z, octave(2, 9));
    twin.noiseHash(b, x, y, z, octave(2, 9));
    expect(widest(a, b)).toBe(0);
    for (const flat of [true, false])
      for (const withEdges of [true, false]) {
        const of = (k: typeof simd) => {
          const [near, edge, id] = [0, 1, 2].map(() => new Float32Array(n));
          k.noiseCells(near, withEdges ? edge : null, id, x, y, z, octave(0, 7), 0.9, flat);
          return { near, edge, id };
        };
        const [p, q] = [of(simd), of(twin)];
        expect(widest(p.near, q.near)).toBeLessThan(1 / 65535);
        let ties = 0;
        for (let i = 0; i < n; i++) if (Math.abs(p.id[i] - q.id[i]) > 1e-6 || Math.abs(p.edge[i] - q.edge[i]) > 1e-3) ties++;
        expect(ties).toBeLessThan(5);
      }
  });

  test.each([
    [true, 0],
    [true, 3],
    [false, 0],
    [false, 4],
  ])('edges and distances of cells change no faster than the place does (flat: %s, period %d)', (flat, period) => {
    // Along a line that passes some hundred cells, 500 steps a cell.
    const steps = 60_000;
    const step = 1 / 500;
    const [dx, dy, dz] = [0.8, 0.6, 0].map((v, k) => (flat ? v : [0.64, 0.6, 0.48][k]));
    const line = [dx, dy, dz].map((d, k) => Float32Array.from({ length: steps }, (_, i) => (i * step + k * 3.7) * d));
    const [near, edge, id] = [0, 1, 2].map(() => new Float32Array(steps));
    simd.noiseCells(near, edge, id, line[0], line[1], line[2], { ...octave(0, period), fx: 1, fy: 1, fz: 1 }, 1, flat);
    let [worst, crossings] = [0, 0];
    for (let i = 1; i < steps; i++) {
      worst = Math.max(worst, Math.abs(edge[i] - edge[i - 1]), Math.abs(near[i] - near[i - 1]));
      if (id[i] === id[i - 1]) continue;
      crossings++;
      // Where one cell ends and another begins is an edge.
      expect(Math.max(edge[i], edge[i - 1])).toBeLessThan(step * 1.1);
    }
    // float32 at 100 cells has steps of 8e-6.
    expect(worst).toBeLessThan(step + 1e-4);
    expect(crossings).toBeGreaterThan(50);
    expect(Math.min(...edge)).toBeGreaterThanOrEqual(-1e-5);
  });

  test('cells agree with a search through all points of the lattice', () => {
    const [near, edge, id] = [0, 1, 2].map(() => new Float32Array(64));
    const [px, py, pz] = [x, y, z].map((a) => a.slice(0, 64));
    simd.noiseCells(near, edge, id, px, py, pz, octave(0, 0), 1, true);
    // Every cell within two of the point, not just the nine around it.
    const wide = getKernels('twin');
    for (let i = 0; i < 64; i++) {
      let best = 9;
      for (let dy = -2; dy <= 2; dy++)
        for (let dx = -2; dx <= 2; dx++) {
          const one = [0, 1, 2].map(() => new Float32Array(4));
          const at = [px[i] + dx / 1.7, py[i] + dy / 1.7].map((v) => new Float32Array(4).fill(v));
          wide.noiseCells(one[0], null, one[2], at[0], at[1], new Float32Array(4), octave(0, 0), 1, true);
          // How far that place's nearest point is bounds how near this one's can be.
          best = Math.min(best, one[0][0] + Math.hypot(dx, dy));
        }
      expect(near[i]).toBeLessThanOrEqual(best + 1e-4);
    }
  });
});

describe('every source', () => {
  test.each(SOURCE_TYPES)('%s: its start is sound, its values lie in 0 … 1 and differ', (type) => {
    const def = SOURCES[type];
    expect(madeSchema.safeParse(def.start).success).toBe(true);
    const values = sheetOf(def.start);
    let [low, high] = [1, 0];
    let odd = 0;
    for (const v of values) {
      if (!Number.isFinite(v)) odd++;
      low = Math.min(low, v);
      high = Math.max(high, v);
    }
    expect(odd).toBe(0);
    expect(low).toBeGreaterThanOrEqual(-1e-6);
    expect(high).toBeLessThanOrEqual(1 + 1e-6);
    expect(high - low).toBeGreaterThan(0.3);
  });

  test.each(SOURCE_TYPES)('%s: another turn of the canvas gives the same, whatever the placement', (type) => {
    const made = SOURCES[type].start;
    const strip: Extent = { width: 256, height: 128, wrapU: true, wrapV: true };
    const random = seededRandom(9);
    for (const extent of [SQUARE, strip])
      for (let n = 0; n < 3; n++) {
        const placement = placementSchema.parse({
          by: 'uv',
          repeats: n === 0 ? 1 : 0.4 + random() * 4,
          turn: n === 0 ? 0 : random() * 180 - 90,
          offset: [random(), random()],
          mirrorX: n === 2,
        });
        // The tile that lies one whole canvas further on: as if the sheet went on.
        const round = [extent.width / TILE, extent.height / TILE];
        const here = madeTile(made, placement, extent, null, tileIndex(0, 0));
        for (const [dx, dy] of [
          [round[0], 0],
          [0, round[1]],
        ]) {
          const there = madeTile(made, placement, extent, null, tileIndex(dx, dy));
          let off = 0;
          for (let i = 0; i < TILE_TEXELS; i++) if (Math.abs(here[i] - there[i]) > 2e-3) off++;
          // Float32 places differ in their last bits, which hard edges and single grains show on a few texels.
          expect(off / TILE_TEXELS).toBeLessThan(0.01);
        }
      }
  });

  test.each(SOURCE_TYPES)('%s: a seed gives fixed bytes; seeds of any integer work', async (type) => {
    const start = SOURCES[type].start as unknown as Record<string, unknown>;
    const of = (seed: number) => {
      const values = madeTile(
        { ...start, ...('seed' in start ? { seed } : {}), ...('vary' in start ? { vary: 0.5 } : {}) } as unknown as Made,
        PLAIN,
        SQUARE,
        null,
        0,
      );
      return sha256(new Uint8Array(values.buffer));
    };
    expect(await of(7)).toBe(await of(7));
    if ('seed' in start) {
      expect(await of(7)).not.toBe(await of(8));
      for (const seed of [-1, 2 ** 31, -(2 ** 40), Number.MAX_SAFE_INTEGER]) expect(await of(seed)).toHaveLength(64);
    }
  });

  test('clouds at seed 1 are these bytes on every machine and in every thread', async () => {
    const values = madeTile(SOURCES.clouds.start, PLAIN, SQUARE, null, 0);
    const codes = Uint16Array.from(values, (v) => v * 65535 + 0.5);
    expect((await sha256(new Uint8Array(codes.buffer))).slice(0, 16)).toBe('6fe315c85d906e29');
  });

  test('a scale of zero is refused where the document is read', () => {
    expect(madeSchema.safeParse({ ...SOURCES.clouds.start, scale: 0 }).success).toBe(false);
    expect(placementSchema.safeParse({ by: 'box', size: 0 }).success).toBe(false);
    expect(placementSchema.safeParse({ by: 'uv', repeats: 0 }).success).toBe(false);
  });
});

test('marble without a bend is a sine’s bands, whole ones where the sheet comes round; sharper ones have thinner veins', () => {
  const start = SOURCES.marble.start as MadeOf<'marble'>;
  const straight = sheetOf({ ...start, bands: 3.2, bend: 0, sharpness: 0 });
  for (let x = 0; x < 256; x += 5)
    expect(straight[77 * 256 + x]).toBeCloseTo(Math.abs(Math.sin((Math.PI * 3 * (x + 0.5)) / 256)), 5);
  const dark = (sharpness: number) => sheetOf({ ...start, sharpness }).filter((v) => v < 0.3).length;
  expect(dark(0.9)).toBeLessThan(dark(0) / 10);
});

describe('statistics', () => {
  test('clouds have mean 0.5 and standard deviation 0.18 over seeds, octaves and both kinds of field', () => {
    const all: number[] = [];
    for (let seed = 1; seed <= 5; seed++)
      for (const octaves of [1, 3, 6]) {
        const made = { ...(SOURCES.clouds.start as MadeOf<'clouds'>), seed, octaves, scale: 24 };
        all.push(...sheetOf(made).filter((_, i) => i % 7 === 0));
      }
    const { mean, deviation } = moments(all);
    expect(mean).toBeGreaterThan(0.485);
    expect(mean).toBeLessThan(0.515);
    expect(deviation).toBeGreaterThan(0.17);
    expect(deviation).toBeLessThan(0.19);
  });

  test('the spectrum of clouds falls with about the third power of the frequency', () => {
    // Mean power of Fourier terms along rows, at two frequencies three octaves apart.
    const n = 256;
    const power = (values: Float32Array, k: number) => {
      let sum = 0;
      for (let y = 0; y < n; y += 4) {
        let [re, im] = [0, 0];
        for (let x = 0; x < n; x++) {
          re += values[y * n + x] * Math.cos((2 * Math.PI * k * x) / n);
          im += values[y * n + x] * Math.sin((2 * Math.PI * k * x) / n);
        }
        sum += re * re + im * im;
      }
      return sum;
    };
    let [low, high] = [0, 0];
    for (let seed = 1; seed <= 8; seed++) {
      const values = sheetOf({ ...(SOURCES.clouds.start as MadeOf<'clouds'>), seed, scale: 4, octaves: 6 });
      for (let d = -1; d <= 1; d++) {
        low += power(values, 6 + d);
        high += power(values, 48 + d * 8);
      }
    }
    const slope = Math.log(low / high) / Math.log(8);
    // Along a row of a plane whose spectrum falls as f^-3 the power falls as f^-2.
    expect(slope).toBeGreaterThan(1.6);
    expect(slope).toBeLessThan(3.2);
  });

  test('grain is even over 0 … 1', () => {
    const values = sheetOf({ ...(SOURCES.grain.start as MadeOf<'grain'>), soften: 0, scale: 256 });
    const { mean, deviation } = moments(values);
    expect(mean).toBeCloseTo(0.5, 2);
    expect(deviation).toBeCloseTo(1 / Math.sqrt(12), 2);
  });

  test('smudges cover about the share that they are asked for', () => {
    for (const amount of [0.2, 0.5, 0.8]) {
      const values = sheetOf({ ...(SOURCES.smudges.start as MadeOf<'smudges'>), amount, soften: 0, scale: 12 });
      const share = values.filter((v) => v > 0.2).length / values.length;
      expect(Math.abs(share - amount)).toBeLessThan(0.2);
    }
  });
});

describe('gradients and placements', () => {
  test('one stop is the same all over; stops are met, and eased in between', () => {
    expect(stopsAt([{ at: 0.3, value: 0.7 }], true, 0.9)).toBe(0.7);
    const two = [
      { at: 0.2, value: 0 },
      { at: 0.8, value: 1 },
    ];
    expect(stopsAt(two, true, 0.1)).toBe(0);
    expect(stopsAt(two, true, 0.5)).toBeCloseTo(0.5, 6);
    expect(stopsAt(two, false, 0.35)).toBeCloseTo(0.25, 6);
    expect(stopsAt(two, true, 0.35)).toBeLessThan(0.25);
  });

  test('on a wrapping canvas the matrix to repeats is whole and never lies flat', () => {
    const random = seededRandom(3);
    for (let n = 0; n < 200; n++) {
      const p = placementSchema.parse({ by: 'uv', repeats: 0.05 + random() * 8, turn: random() * 360 - 180 });
      const m = uvMatrix(p, { width: 512, height: [512, 128, 1024][n % 3], wrapU: true, wrapV: true });
      for (const v of Object.values(m)) expect(Number.isInteger(v)).toBe(true);
      expect(m.a * m.d - m.b * m.c).not.toBe(0);
    }
  });

  test('without wrapping a turn is a turn: repeats along a row are as far apart as they should be', () => {
    const p = placementSchema.parse({ by: 'uv', repeats: 4, turn: 30 });
    const m = uvMatrix(p, { width: 512, height: 512, wrapU: false, wrapV: false });
    expect(Math.hypot(m.a, m.c)).toBeCloseTo(4, 9);
    expect(Math.atan2(-m.c, m.a)).toBeCloseTo(Math.PI / 6, 9);
  });
});
