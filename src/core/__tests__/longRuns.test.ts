/**
 * Each kernel against its twin over a million numbers and more, among them those at the edges of float32: denormals, ±0, ±∞, NaN, the
 * largest and the least. A texel may never be NaN in one and a number in the other. Lattices: latticeRuns.test.ts.
 */
import { SEPARABLE_BLENDS } from '../colour/blend';
import { TRANSFER } from '../colour/transfer';
import { widePlan } from '../kinds/filters/gaussian';
import { powersOf } from '../../kernels/rules';
import { PLACE_PLANES, SEGMENT_NUMBERS } from '../../kernels/segments';
import { codes, fresh, over, PART, random, SIMD, strange, TIMES, TWIN, unit } from '../testing/longRuns';

jest.setTimeout(300_000);

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
