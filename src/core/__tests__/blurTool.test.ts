/** The blur tool against sums over all texels, in linear light: in the sheet, over its border, and over seams of a model. */
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import type { MapId } from '../kinds/maps';
import { brushFor, canvasEasel, fillWith, flatSample, modelEasel, strokeOn, texel, type Easel } from '../testing/hand';
import { quadModel, seededRandom } from '../testing/models';

const blurAll = (easel: Easel, map: MapId, reach: number, at: [number, number], size: number): void => {
  const writes = { [map]: { on: true, value: map === 'height' ? [0.5] : [0, 0, 0], amount: 1 } };
  strokeOn(easel, brushFor({ mode: 'blur', settings: { reach, of: 'layer' }, size, writes }), [flatSample(...at)]);
};

/** The Gaussian mean around a texel of a canvas, from its definition; σ is half the reach. */
function meanOf(values: (x: number, y: number) => number | null, x: number, y: number, reach: number): number {
  const sigma = reach / 2;
  const far = Math.ceil(sigma * 4);
  let [sum, weights] = [0, 0];
  for (let dy = -far; dy <= far; dy++)
    for (let dx = -far; dx <= far; dx++) {
      const value = values(x + dx, y + dy);
      if (value === null) continue;
      const weight = Math.exp(-(dx * dx + dy * dy) / (2 * sigma * sigma));
      sum += weight * value;
      weights += weight;
    }
  return sum / weights;
}

const SIDE = 256;
const random = seededRandom(5);
const noise = Float32Array.from({ length: SIDE * SIDE }, () => Math.round(random() * 65535) / 65535);
const PATTERNS: Record<string, (x: number, y: number) => number> = {
  noise: (x, y) => noise[y * SIDE + x],
  'lines of period 16': (x) => (x % 16 < 8 ? 1 : 0),
  'a dot': (x, y) => (Math.hypot(x - 120, y - 120) < 3 ? 1 : 0),
};

describe.each([0.5, 2, 4, 7, 16, 40, 64])('reach %d', (reach) => {
  test.each(Object.keys(PATTERNS))('of %s in colours: within 2/255 of the sum in linear light', (name) => {
    const easel = canvasEasel(SIDE);
    const grey = PATTERNS[name];
    fillWith(easel, 'base-colour', (x, y) => [grey(x, y), 0, 1, 1]);
    blurAll(easel, 'base-colour', reach, [128, 128], 90);
    let worst = 0;
    for (const [x, y] of [
      [120, 120],
      [127, 128],
      [128, 127],
      [101, 140],
      [131, 113],
      [150, 150],
    ]) {
      const inside = (px: number, py: number) => px >= 0 && py >= 0 && px < SIDE && py < SIDE;
      const mean = meanOf((px, py) => (inside(px, py) ? srgbToLinear(grey(px, py)) : null), x, y, reach);
      worst = Math.max(worst, Math.abs(texel(easel, 'base-colour', x, y)[0] - linearToSrgb(mean)));
    }
    expect(worst).toBeLessThan(2 / 255);
  });
});

test('heights are averaged as they are; empty texels weigh nothing', () => {
  const easel = canvasEasel(SIDE);
  const there = (x: number, y: number) => (x + y) % 3 > 0;
  fillWith(easel, 'height', (x, y) => [noise[y * SIDE + x], there(x, y) ? 1 : 0]);
  blurAll(easel, 'height', 16, [128, 128], 60);
  for (const [x, y] of [
    [128, 128],
    [140, 121],
  ]) {
    const alpha = meanOf((px, py) => (there(px, py) ? 1 : 0), x, y, 16);
    const value = meanOf((px, py) => (there(px, py) ? noise[py * SIDE + px] : 0), x, y, 16);
    const [v, a] = texel(easel, 'height', x, y);
    expect(Math.abs(a - alpha)).toBeLessThan(2 / 255);
    expect(Math.abs(v - value / alpha)).toBeLessThan(2 / 255);
  }
});

test.each([
  ['ends there', false],
  ['wraps', true],
] as const)('at the border of a canvas that %s', (_, wrap) => {
  const easel = canvasEasel(128, wrap);
  fillWith(easel, 'height', (x, y) => [noise[y * SIDE + x], 1]);
  blurAll(easel, 'height', 24, [4, 64], 60);
  for (const [x, y] of [
    [0, 64],
    [5, 60],
  ]) {
    const at = (px: number, py: number) =>
      px >= 0 && px < 128 ? noise[py * SIDE + px] : wrap ? noise[py * SIDE + ((px + 128) % 128)] : null;
    expect(Math.abs(texel(easel, 'height', x, y)[0] - meanOf(at, x, y, 24))).toBeLessThan(2 / 255);
  }
});

describe('over seams', () => {
  /** A plane of 2 × 1 in two islands, the right one at another place of the sheet, turned by a quarter where `turned`. */
  const side = 512;
  const SCALE = 200;
  const plane = (turned: boolean) => {
    const corners = (x0: number): [number, number, number][] => [
      [x0, 0, 0],
      [x0 + 1, 0, 0],
      [x0 + 1, 1, 0],
      [x0, 1, 0],
    ];
    const at = (u: number, v: number) => [u / side, v / side] as const;
    const left = { corners: corners(0), uv: [...at(20, 20), ...at(20 + SCALE, 20 + SCALE)] };
    const right = { corners: corners(1), uv: [...at(280, 260), ...at(280 + SCALE, 260 + SCALE)] };
    const model = quadModel([left, right] as never);
    if (turned) {
      // Turns the right island's square by a quarter: (u, v) → (v, 1 − u) within it.
      const uv = model.uvs[0];
      for (let n = 4; n < 8; n++) {
        const [u, v] = [uv[n * 2] * side - 280, uv[n * 2 + 1] * side - 260];
        uv[n * 2] = (280 + v) / side;
        uv[n * 2 + 1] = (260 + SCALE - u) / side;
      }
    }
    return modelEasel(model, side);
  };
  const wave = (x: number, y: number) => 0.5 + 0.25 * Math.sin(x * 9 + 1) + 0.24 * Math.cos(y * 7 + x * 23);

  test.each([
    [4, false],
    [16, false],
    [64, false],
    [16, true],
    [64, true],
  ])('reach %d, turned: %s: within 4/255 of the integral over the plane', (reach, turned) => {
    const easel = plane(turned);
    const { tiles } = easel.surface!.map;
    const placeAt = (x: number, y: number) => {
      const tile = [...tiles.values()].find((t) => t.x === x >> 7 && t.y === y >> 7)!;
      const i = (y & 127) * 128 + (x & 127);
      return tile && tile.face[i] >= 0 ? [tile.position[i * 3], tile.position[i * 3 + 1]] : null;
    };
    fillWith(easel, 'height', (x, y) => {
      const place = placeAt(x, y);
      return place ? [wave(place[0], place[1]), 1] : [0, 0];
    });
    const sigma = reach / 2 / easel.surface!.map.texelsPerMetre;
    const expected = (x: number, y: number) => {
      let [sum, weights] = [0, 0];
      for (let dy = -4; dy <= 4; dy += 0.08)
        for (let dx = -4; dx <= 4; dx += 0.08) {
          const [px, py] = [x + dx * sigma, y + dy * sigma];
          if (px < 0 || px > 2 || py < 0 || py > 1) continue;
          const weight = Math.exp(-(dx * dx + dy * dy) / 2);
          sum += weight * wave(px, py);
          weights += weight;
        }
      return sum / weights;
    };
    // At the left island's right border, at its corner too, and well inside.
    const texels: [number, number][] = [
      [20 + SCALE - 1, 120],
      [20 + SCALE - 6, 150],
      [20 + SCALE - 20, 60],
      [20 + SCALE - 2, 22],
      [100, 100],
    ];
    for (const [x, y] of texels) {
      blurAll(easel, 'height', reach, [x + 0.5, y + 0.5], 3);
      const place = placeAt(x, y)!;
      expect(Math.abs(texel(easel, 'height', x, y)[0] - expected(place[0], place[1]))).toBeLessThan(4 / 255);
    }
  });

  test('hidden faces are not read, from the very next stroke on; shown again they are', () => {
    const easel = plane(false);
    const { query, map } = easel.surface!;
    const isLeft = (x: number) => x < 250;
    const atBorder = () => {
      fillWith(easel, 'height', (x) => [isLeft(x) ? 0.1 : 0.9, 1]);
      blurAll(easel, 'height', 16, [20 + SCALE - 0.5, 120.5], 3);
      return texel(easel, 'height', 20 + SCALE - 1, 120)[0];
    };
    const shown = atBorder();
    expect(shown).toBeGreaterThan(0.4);
    const right = [...map.tiles.values()].flatMap(({ face, x }) => (x > 1 ? [...face].filter((f) => f >= 0) : []));
    query.hide([], [[Math.min(...right), Math.max(...right)]]);
    expect(atBorder()).toBeCloseTo(0.1, 3);
    query.hide([]);
    expect(atBorder()).toBe(shown);
  });
});
