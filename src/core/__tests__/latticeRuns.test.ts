/** Noise, grain and cells over long runs: against their twins, and what a lattice must be whatever its numbers are. */
import { octaveIn } from '../kinds/sources/noise';
import type { Field } from '../kinds/sources/source';
import type { Octave } from '../../kernels/kernels';
import { apart, fresh, N, over, PART, random, SIMD, TIMES, TWIN } from '../testing/longRuns';

jest.setTimeout(300_000);

function correlation(a: Float32Array, b: Float32Array): number {
  const mean = (v: Float32Array) => v.reduce((sum, n) => sum + n, 0) / v.length;
  const [ma, mb] = [mean(a), mean(b)];
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    ab += (a[i] - ma) * (b[i] - mb);
    aa += (a[i] - ma) ** 2;
    bb += (b[i] - mb) ** 2;
  }
  return ab / Math.sqrt(aa * bb);
}

describe('lattices', () => {
  const places = (reach: number) => [0, 1, 2].map(() => Float32Array.from({ length: PART }, () => (random() - 0.5) * reach));
  const octave = (period: number): Octave => ({
    fx: 1 + Math.floor(random() * 9),
    fy: 1 + Math.floor(random() * 9),
    fz: 1 + Math.floor(random() * 9),
    px: period,
    py: period,
    pz: 0,
    amplitude: 1,
    seed: (random() * 2 ** 32) | 0,
  });
  test.each([20, 2000, 100_000])('within ±%i: noise and grain', (reach) => {
    over(TIMES, 2e-5, () => {
      const [x, y, z] = places(reach);
      const one = [octave(0), octave(7)];
      const mode = (['plain', 'ridges', 'billows'] as const)[Math.floor(random() * 3)];
      return (k) => {
        const [solid, flat, hash] = [fresh(PART), fresh(PART), fresh(PART)];
        k.noiseFractal(solid, x, y, z, one, mode);
        k.noiseFractal(flat, x, y, null, one, mode);
        k.noiseHash(hash, x, y, z, one[1]);
        return [solid, flat, hash];
      };
    });
  });

  test('cells: distances, and which cell, save where two points are equally near', () => {
    for (let n = 0; n < 8; n++) {
      const [x, y, z] = places(60).map((plane) => plane.subarray(0, PART / 8));
      const [one, jitter, flat] = [octave(random() < 0.5 ? 0 : 7), random(), random() < 0.5];
      const [mine, twins] = [SIMD, TWIN].map((k) => {
        const [near, edge, id] = [0, 1, 2].map(() => fresh(PART / 8));
        k.noiseCells(near, edge, id, x, y, z, one, jitter, flat);
        return { near, edge, id };
      });
      expect(apart(mine.near, twins.near, 2e-5)).toBeLessThanOrEqual(1);
      expect(apart(mine.edge, twins.edge, 2e-5)).toBeLessThanOrEqual(1);
      // Which one is nearest is not decided where the next is as near.
      const decided = (_: number, i: number) => twins.edge[i] > 1e-3;
      expect(mine.id.filter(decided)).toEqual(twins.id.filter(decided));
    }
  });

  test('a lattice that repeats does so at every one of its cells, below zero too', () => {
    const [x, y, z] = [0, 1, 2].map(() => Float32Array.from({ length: PART }, () => Math.floor(random() * 7 * 256) / 256));
    for (const period of [1, 2, 7])
      for (const times of [1, -1, 3, -40]) {
        const one = { ...octave(period), fx: 1, fy: 1, fz: 1 };
        const moved = x.map((v) => v + period * times);
        for (const run of [
          (at: Float32Array, out: Float32Array) => SIMD.noiseFractal(out, at, y, z, [one], 'plain'),
          (at: Float32Array, out: Float32Array) => SIMD.noiseFractal(out, at, y, null, [one], 'plain'),
          (at: Float32Array, out: Float32Array) => SIMD.noiseHash(out, at, y, z, one),
          (at: Float32Array, out: Float32Array) => SIMD.noiseCells(out, null, fresh(PART), at, y, z, one, 1, true),
        ]) {
          const [here, there] = [fresh(PART), fresh(PART)];
          run(x, here);
          run(moved, there);
          expect(apart(there, here, 2e-5)).toBeLessThanOrEqual(1);
        }
      }
  });

  test('seeds that are neighbours have nothing to do with each other', () => {
    const [x, y, z] = places(40);
    const of = (seed: number) => {
      const out = fresh(PART);
      // As sources make an octave of a seed.
      const field = { period: [0, 0], flat: false } as unknown as Field;
      SIMD.noiseFractal(out, x, y, z, [octaveIn(field, 1, 1, seed)], 'plain');
      return out;
    };
    for (const seed of [0, 1, 7, 1000, -5, 2 ** 31 - 2]) {
      const a = of(seed);
      // 40³ cells, some 65,000 places: chance alone gives about 0.01.
      for (const other of [1, 2, 7919, 2 ** 16]) expect(Math.abs(correlation(a, of((seed + other) | 0)))).toBeLessThan(0.05);
    }
  });

  test('no noise is its own mirror image, turned or with its axes exchanged', () => {
    // Grain has one number a cell: places that lie in few cells would tell little.
    const [x, y, z] = places(300);
    const minus = (a: Float32Array) => a.map((v) => -v);
    const one = { ...octave(0), fx: 1, fy: 1, fz: 1 };
    const noises: Record<string, (x: Float32Array, y: Float32Array, z: Float32Array, out: Float32Array) => void> = {
      'noise in a plane': (x, y, _z, out) => SIMD.noiseFractal(out, x, y, null, [one], 'plain'),
      'noise in space': (x, y, z, out) => SIMD.noiseFractal(out, x, y, z, [one], 'plain'),
      // Whole numbers are mirrored, not the cells between them.
      'grain in a plane': (x, y, z, out) => SIMD.noiseHash(out, x.map(Math.round), y.map(Math.round), z.fill(0), one),
      'grain in space': (x, y, z, out) => SIMD.noiseHash(out, x.map(Math.round), y.map(Math.round), z.map(Math.round), one),
      'tones of cells': (x, y, z, out) => SIMD.noiseCells(fresh(PART), null, out, x, y, z, one, 0, true),
    };
    for (const [name, noise] of Object.entries(noises)) {
      const of = (...at: [Float32Array, Float32Array, Float32Array]) => {
        const out = fresh(PART);
        noise(at[0].slice(), at[1].slice(), at[2].slice(), out);
        return out;
      };
      const here = of(x, y, z);
      const others = {
        'x mirrored': of(minus(x), y, z),
        'x and y mirrored': of(minus(x), minus(y), z),
        'all mirrored': of(minus(x), minus(y), minus(z)),
        'x and y exchanged': of(y, x, z),
      };
      for (const [how, there] of Object.entries(others))
        if (Math.abs(correlation(here, there)) > 0.05) throw new Error(`${name}, ${how}: ${correlation(here, there)}`);
    }
  });

  test('noise in a plane and in space goes on without a jump over a million steps', () => {
    const step = 1 / 256;
    const line = (k: number) =>
      Float32Array.from({ length: N }, (_, i) => (i % PART) * step * [0.8, 0.6, 0.3][k] + Math.floor(i / PART) * 3.7);
    const [x, y, z] = [0, 1, 2].map(line);
    for (const depth of [z, null]) {
      const out = fresh(N);
      SIMD.noiseFractal(out, x, y, depth, [{ ...octave(5), fx: 1, fy: 1, fz: 1 }], 'plain');
      let worst = 0;
      for (let i = 1; i < N; i++) if (i % PART) worst = Math.max(worst, Math.abs(out[i] - out[i - 1]));
      // A slope of gradient noise is at most some 5 a cell.
      expect(worst).toBeLessThan(5 * step * 1.1);
      expect(Math.max(...out.subarray(0, PART))).toBeGreaterThan(0.4);
    }
  });
});
