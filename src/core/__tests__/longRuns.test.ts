/**
 * Each kernel against its twin over a million numbers and more, among them those at the edges of float32: denormals, ±0, ±∞, NaN, the
 * largest and the least. A texel may never be NaN in one and a number in the other.
 */
import { getKernels } from '../compute';
import { SEPARABLE_BLENDS } from '../colour/blend';
import { TRANSFER } from '../colour/transfer';
import { widePlan } from '../kinds/filters/gaussian';
import { octaveIn } from '../kinds/sources/noise';
import type { Field } from '../kinds/sources/source';
import { powersOf } from '../../kernels/rules';
import { PLACE_PLANES, SEGMENT_NUMBERS } from '../../kernels/segments';
import type { Kernels, Octave } from '../../kernels/kernels';
import { seededRandom } from '../testing/models';

jest.setTimeout(300_000);
const [SIMD, TWIN] = [getKernels('wasm'), getKernels('twin')];
const N = 1 << 20;
const PART = 1 << 16;

const EDGES = [
  0,
  -0,
  1,
  -1,
  NaN,
  Infinity,
  -Infinity,
  3.4028234663852886e38,
  -3.4028234663852886e38,
  1.1754943508222875e-38,
  1e-45,
  -1e-45,
  1e-42,
  0.9999999403953552,
  1.0000001192092896,
  0.5,
  255.5 / 256,
  1e30,
  -1e30,
  65535.5 / 65536,
];
const random = seededRandom(11);
/** Mostly what planes hold; every tenth of any size, every twentieth an edge. */
const strange = (n: number, edges = true): Float32Array =>
  Float32Array.from({ length: n }, () => {
    const kind = random();
    if (edges && kind < 0.05) return EDGES[Math.floor(random() * EDGES.length)];
    if (kind < 0.15) return (random() - 0.5) * 10 ** ((random() - 0.5) * (edges ? 70 : 6));
    return random();
  });
const unit = (n: number): Float32Array => Float32Array.from({ length: n }, random);
const codes = (n: number): Uint16Array =>
  Uint16Array.from({ length: n }, () => (random() < 0.1 ? random() * 3 : random() < 0.2 ? 65535 : random() * 65536));

/** How far two results are apart: 0 the same (NaN too), 1 and more: beyond what was promised. */
function apart(a: ArrayLike<number>, b: ArrayLike<number>, within: number): number {
  let worst = 0;
  for (let i = 0; i < b.length; i++) {
    if (Object.is(a[i], b[i]) || a[i] === b[i]) continue;
    // Beyond this sums of float32 may overflow in one order and not in another.
    if (Math.abs(b[i]) > 1e30 && !Number.isNaN(a[i])) continue;
    const gap = Math.abs(a[i] - b[i]) / (within * Math.max(1, Math.abs(b[i])) || Number.MIN_VALUE);
    worst = Math.max(worst, Number.isNaN(gap) ? Infinity : gap);
    if (worst === Infinity) break;
  }
  return worst;
}

type Run = (k: Kernels) => ArrayLike<number>[];

/** `make` draws the input once, and gives what is to be run on it. */
function over(times: number, within: number, make: () => Run): void {
  for (let n = 0; n < times; n++) {
    const run = make();
    const [mine, twins] = [run(SIMD), run(TWIN)];
    mine.forEach((plane, p) => {
      const gap = apart(plane, twins[p], within);
      if (gap > 1) {
        const at = Array.from({ length: twins[p].length }, (_, i) => i).find(
          (i) => apart([plane[i]], [twins[p][i]], within) > 1,
        )!;
        throw new Error(`run ${n}, plane ${p}, number ${at}: ${plane[at]} instead of ${twins[p][at]}`);
      }
    });
  }
}
const TIMES = N / PART;
const fresh = (n: number) => new Float32Array(n);

test('affine, held or not, and mixing', () => {
  for (const held of [false, true])
    over(TIMES, 3e-7, () => {
      const [from, base, span] = [strange(PART), random(), random() * 4 - 2];
      return (k) => {
        const out = fresh(PART);
        k.affine(out, from, base, span, held);
        return [out];
      };
    });
  over(TIMES, 1e-6, () => {
    const [acc, other, mask] = [unit(PART), unit(PART), random() < 0.5 ? unit(PART) : null];
    const amount = random();
    return (k) => {
      const out = acc.slice();
      k.lerp(out, other, PART, 1, amount, mask);
      return [out];
    };
  });
});

test.each(SEPARABLE_BLENDS.map((name, mode) => [name, mode] as const))('blend %s, floats and stored', (_name, mode) => {
  for (const opaque of [false, true])
    over(2, 2e-5, () => {
      const texels = PART / 4;
      const [acc, source, mask] = [unit(PART), unit(PART), random() < 0.5 ? unit(texels) : null];
      const opacity = random();
      if (opaque) acc.fill(1, texels * 3);
      return (k) => {
        const out = acc.slice();
        k.blendFloat(out, 3, source, texels, mode, opacity, mask, opaque);
        return [out];
      };
    });
  over(2, 2e-5, () => {
    const texels = PART / 4;
    const [acc, data] = [unit(PART), codes(PART)];
    const opacity = random();
    return (k) => {
      const out = acc.slice();
      const source = { data, offset: 0, stride: 128, width: 128, rows: texels / 128 };
      k.blendStored(out, 3, [{ source, mode, opacity, mask: null }], false);
      return [out];
    };
  });
});

test('painted masks, and what becomes codes', () => {
  over(TIMES, 1e-6, () => {
    const [data, ground, invert] = [codes(PART * 2), random(), random() < 0.5];
    return (k) => {
      const out = fresh(PART);
      k.maskValues(out, { data, offset: 0, stride: 128, width: 128, rows: PART / 128 }, ground, invert);
      return [out];
    };
  });
  over(TIMES, 0, () => {
    const from = strange(PART);
    return (k) => {
      const mark = k.mark();
      const sixteen = Uint16Array.from(k.toUint16(from));
      k.release(mark);
      return [sixteen];
    };
  });
  over(TIMES, 0, () => {
    const planes = strange(PART * 3);
    return (k) => {
      const mark = k.mark();
      const sixteen = Uint16Array.from(k.interleave16(planes, PART));
      const [from, to] = [k.floats(PART * 3), k.bytes(PART * 4)];
      from.set(planes);
      to.fill(0);
      k.interleave8(from, PART, 3, 0, to);
      const bytes = Uint8Array.from(to);
      k.release(mark);
      return [sixteen, bytes];
    };
  });
});

test('colours turned in OKLab', () => {
  over(TIMES, 1e-4, () => {
    const data = unit(PART * 3);
    const angle = random() * 7;
    const scale = random() * 2;
    const turn = [
      [Math.cos(angle) * scale, -Math.sin(angle) * scale],
      [Math.sin(angle) * scale, Math.cos(angle) * scale],
    ] as const;
    const how = { lift: random() - 0.5, turn, tint: [random() * 0.1, -random() * 0.1] as const, roomy: random() < 0.5 };
    return (k) => {
      const out = data.slice();
      k.turnInOklab(out, PART, how, TRANSFER);
      return [out];
    };
  });
});

test('blurs and normals', () => {
  for (const axis of ['x', 'y'] as const)
    over(TIMES / 2, 1e-5, () => {
      const radius = 1 + Math.floor(random() * 9);
      const side = Float32Array.from({ length: radius + 1 }, (_, i) => Math.exp(-i * i * 0.2) / 3);
      const [w, h] = [128, 128];
      const source = strange((w + (axis === 'x' ? radius * 2 : 0)) * (h + (axis === 'y' ? radius * 2 : 0)), false);
      return (k) => {
        const out = fresh(w * h);
        k.blur(source, w, h, side, axis, out);
        return [out];
      };
    });
  over(TIMES, 1e-5, () => {
    const radius = 2;
    const field = strange((128 + 4) * (128 + 4), false);
    return (k) => {
      const out = fresh(128 * 128 * 3);
      const weights = [Float32Array.of(0.1, 0.2, 0.4, 0.2, 0.1), Float32Array.of(-0.2, -0.3, 0, 0.3, 0.2)];
      k.normals(field, 128, 128, weights[0], weights[1], out);
      expect(weights[0].length).toBe(radius * 2 + 1);
      return [out];
    };
  });
});

test('levels, powers, lines, fields that are pushed', () => {
  over(TIMES, 0, () => {
    const data = strange(PART);
    const [black, white, low, span] = [random(), random() + 0.01, random(), random() - 0.5];
    const gamma = 10 ** (random() * 2 - 1);
    const powers = powersOf(gamma);
    return (k) => {
      const [one, two] = [data.slice(), data.slice()];
      k.stretched(one, black, white, low, span);
      k.powered(two, black, white, low, span, powers);
      return [one, two];
    };
  });
  over(TIMES, 0, () => {
    const [x, y, z] = [0, 1, 2].map(() => strange(PART));
    const line = { gx: random(), gy: -random(), gz: random(), start: random(), low: 0.1, high: 0.8, smooth: random() < 0.5 };
    return (k) => {
      const [one, two] = [fresh(PART), fresh(PART)];
      k.alongLine(one, { x, y, z }, line);
      k.pushed(two, x, y, 0.3);
      return [one, two];
    };
  });
});

test('rows that are copied, ramps, pictures made larger and wide blurs', () => {
  over(TIMES, 0, () => {
    const from = strange(PART);
    const [columns, rows, at] = [128, 120, Math.floor(random() * 300)];
    return (k) => {
      const out = fresh(PART);
      k.copyRows({ data: from, at, stride: 131 }, { data: out, at: 7, stride: 128 }, columns, rows);
      return [out];
    };
  });
  over(TIMES, 0, () => {
    const values = strange(PART);
    const some = () => [random(), random() - 0.5, random()] as const;
    const pieces = [0.1, 0.3, 0.3, 0.9, Infinity].map((high) => ({ high, colour: some(), gain: some() }));
    return (k) => {
      const out = fresh(PART * 3);
      k.alongRamp(out, values, pieces);
      return [out];
    };
  });
  over(TIMES, 0, () => {
    const [width, height] = [1 + Math.floor(random() * 60), 1 + Math.floor(random() * 60)];
    const from = Uint8Array.from({ length: width * height * 4 }, () => random() * 256);
    const between = (count: number, small: number) => ({
      left: Int32Array.from({ length: count }, () => random() * small).sort(),
      share: Int32Array.from({ length: count }, () => (random() < 0.1 ? 255 : random() * 256)),
    });
    const [columns, rows] = [between(256, width), between(64, height)];
    return (k) => {
      const out = new Uint8Array(256 * 64 * 4);
      k.enlarge(from, width, columns, rows, out);
      return [out];
    };
  });
  for (const sigma of [8, 40, 200])
    over(4, 1e-5, () => {
      const plan = widePlan(sigma)!;
      const [w, h] = [128, 32];
      const source = strange((w + plan.radius * 2) * h, false);
      return (k) => {
        const out = fresh(w * h);
        k.blurWide(source, w, h, plan, 'x', out);
        return [out];
      };
    });
});

test('weighted sums are the same bits with both kernels, and those of a sum over the whole square', () => {
  const [across, down] = [140, 60];
  for (const taps of [1, 2, 7, 23]) {
    const radius = taps - 1;
    const weights = Float32Array.from({ length: taps }, random);
    const plane = Float64Array.from({ length: across * down }, () => (random() - 0.5) * 10 ** (random() * 6 - 3));
    const [columns, rows] = [across - 2 * radius, down - 2 * radius];
    const [mine, twins] = [SIMD, TWIN].map((k) => {
      const out = new Float64Array(columns * rows);
      k.separableSums(plane, across, down, weights, out);
      return out;
    });
    expect(mine).toEqual(twins);
    for (let n = 0; n < 50; n++) {
      const [x, y] = [Math.floor(random() * columns), Math.floor(random() * rows)];
      let sum = 0;
      for (let dy = -radius; dy <= radius; dy++)
        for (let dx = -radius; dx <= radius; dx++)
          sum += weights[Math.abs(dx)] * weights[Math.abs(dy)] * plane[(y + radius + dy) * across + x + radius + dx];
      expect(mine[y * columns + x]).toBeCloseTo(sum, 6);
    }
  }
});

test('distances over rows are those to the nearest texel of all, exactly, with few, many and none', () => {
  const [width, height] = [128, 64];
  for (const share of [0, 1e-4, 0.003, 0.1, 0.9]) {
    const within = Uint8Array.from({ length: width * height }, () => (random() < share ? 1 : 0));
    const far = 1000;
    // How far the next texel above lies, as the kernel is given it.
    const above = new Float32Array(width * height);
    for (let x = 0; x < width; x++)
      for (let y = 0, d = far; y < height; y++) above[y * width + x] = d = within[y * width + x] ? 0 : Math.min(far, d + 1);
    const [mine, twins] = [SIMD, TWIN].map((k) => {
      const out = above.slice();
      k.distanceRows(out, width, far, 1e9);
      return out;
    });
    expect(mine).toEqual(twins);
    const there = [...within.keys()].filter((i) => within[i]);
    for (let n = 0; n < 400; n++) {
      const [x, y] = [Math.floor(random() * width), Math.floor(random() * height)];
      const squares = there.map((i) => ((i % width) - x) ** 2 + (Math.floor(i / width) - y) ** 2);
      expect(mine[y * width + x]).toBe(squares.length ? squares.reduce((a, b) => Math.min(a, b)) : 1e9);
    }
  }
});

test('distances to segments over a quarter of a million pairs', () => {
  over(TIMES, 0, () => {
    const [count, listed, reach] = [512, 32, 0.2 + random() * 2];
    const places = strange(count * PLACE_PLANES, false);
    const list = strange(listed * SEGMENT_NUMBERS, false);
    return (k) => {
      const out = fresh(count);
      k.segments(places, count, count, list, listed, reach, out);
      return [out];
    };
  });
});

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
