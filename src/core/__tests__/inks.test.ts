/** Dabs with colours of their own, picture tips and textures, against plain formulas. */
import { shiftColour } from '../colour/shift';
import { DRAWN_PICTURES, drawnPicture } from '../hand/pictures';
import { joined, pictureAt, repeatedAt } from '../../kernels/dabShares';
import { textureFor, textureSchema } from '../hand/texture';
import { fittedPicture, levelFor, levelOf, tipPicture } from '../hand/tipPicture';
import { brushSchema } from '../hand/brush';
import { SOURCES } from '../kinds/sources';
import { brushFor, canvasEasel, flatSample, modelEasel, rayTo, strokeOn, texel, texelsOf } from '../testing/hand';
import { cubeModel, seededRandom } from '../testing/models';

const DARK = [0.1, 0.2, 0.1];
const LIGHT = [0.9, 1, 0.7];
const colour = (value: number[]) => ({ 'base-colour': { on: true, value, amount: 1 } });
const cover = { roughness: { on: true, value: [1], amount: 1 } };

describe('colours of dabs', () => {
  test('nothing asked gives the same numbers; all of the mix gives the other colour; hue turns keep lightness', () => {
    const still = { mix: 0, hue: 0, saturation: 1, value: 1 };
    expect(shiftColour(DARK, LIGHT, still)).toEqual(DARK);
    expect(shiftColour(DARK, LIGHT, { ...still, mix: 1 })).toEqual(LIGHT);
    const turned = shiftColour([0.5, 0.45, 0.42], LIGHT, { ...still, hue: 360 });
    turned.forEach((v, k) => expect(v).toBeCloseTo([0.5, 0.45, 0.42][k], 6));
    const grey = shiftColour([0.6, 0.3, 0.2], LIGHT, { ...still, saturation: 0 });
    expect(Math.max(...grey) - Math.min(...grey)).toBeLessThan(1e-3);
    for (const hue of [-170, 40, 95])
      for (const v of shiftColour([1, 0, 0], LIGHT, { ...still, hue })) expect(v >= 0 && v <= 1).toBe(true);
  });

  test('one gesture tapers and runs from one well to the other: a blade with a dark root and a light tip', () => {
    const easel = canvasEasel(256);
    const over = { by: 'length', over: 200, unit: 'texels' };
    const brush = brushFor({
      ...{ size: 30, spacing: 0.03, second: LIGHT, writes: colour(DARK) },
      vary: [
        { what: 'size', amount: -1, ...over },
        { what: 'mix', amount: 1, ...over },
      ],
    });
    strokeOn(easel, brush, [flatSample(20, 128), flatSample(230, 128)]);
    const at = (x: number) => texel(easel, 'base-colour', x, 128);
    expect(at(8)[3]).toBe(1);
    DARK.forEach((v, k) => expect(at(8)[k]).toBeCloseTo(v, 1));
    // At 180 of 200 texels the newest dab that reached here was up to its own radius further on.
    const expected = shiftColour(DARK, LIGHT, { mix: 0.9, hue: 0, saturation: 1, value: 1 });
    expected.forEach((v, k) => expect(at(200)[k]).toBeCloseTo(v, 1));
    for (const [a, b] of [
      [30, 90],
      [90, 150],
      [150, 205],
    ])
      expect(at(a)[0]).toBeLessThan(at(b)[0]);
    // Nothing is left where it has come to nothing.
    expect(at(226)[3]).toBe(0);
  });

  test('a newer dab lies over older ones, however often the stroke has been there; the cap holds', () => {
    const easel = canvasEasel(128);
    const brush = brushFor({
      size: 20,
      opacity: 0.5,
      second: LIGHT,
      writes: colour(DARK),
      vary: [{ what: 'mix', by: 'pressure', amount: 1 }],
    });
    // There and back: what comes last has all of the mix.
    const [from, there, back] = [
      flatSample(40, 60, { pressure: 0 }),
      flatSample(100, 60, { pressure: 1 }),
      flatSample(30, 60, { pressure: 1 }),
    ];
    strokeOn(easel, brush, [from, there, back]);
    const [r, g, b, a] = texel(easel, 'base-colour', 45, 60);
    expect(a).toBeCloseTo(0.5, 4);
    [r, g, b].forEach((v, k) => expect(v).toBeCloseTo(LIGHT[k], 3));
  });

  test('chance of hue and value is the same for the same seed, another for another, and leaves other maps alone', () => {
    const brush = brushFor({
      ...{ size: 12, spacing: 1, writes: { ...colour([0.7, 0.3, 0.2]), height: { on: true, value: [0.8], amount: 1 } } },
      vary: [
        { what: 'hue', by: 'dab', amount: 40 },
        { what: 'value', by: 'dab', amount: 0.2 },
      ],
    });
    const run = (seed: number) => {
      const easel = canvasEasel(128);
      strokeOn(easel, brush, [flatSample(10, 60), flatSample(120, 60)], seed);
      return easel;
    };
    const [a, b, c] = [1, 1, 2].map(run);
    expect(texelsOf(b, 'base-colour')).toEqual(texelsOf(a, 'base-colour'));
    expect(texelsOf(c, 'base-colour')).not.toEqual(texelsOf(a, 'base-colour'));
    expect(texelsOf(c, 'height')).toEqual(texelsOf(a, 'height'));
    const hues = new Set([10, 22, 34, 46, 58].map((x) => texel(a, 'base-colour', x, 60).join()));
    expect(hues.size).toBe(5);
  });
});

describe('dabs a step, and by time', () => {
  test('each step lays so many dabs, of which lines leave a share', () => {
    const lay = (over: object) =>
      strokeOn(canvasEasel(128), brushFor({ size: 10, spacing: 1, dabs: 4, writes: cover, ...over }), [flatSample(20, 60)]);
    expect(lay({}).dabCount).toBe(4);
    const easel = canvasEasel(128);
    const scatter = [
      { what: 'across', by: 'dab', amount: 3 },
      { what: 'along', by: 'dab', amount: 3 },
    ];
    strokeOn(easel, brushFor({ size: 6, spacing: 1, dabs: 16, writes: cover, vary: scatter }), [flatSample(60, 60)]);
    const painted = texelsOf(easel, 'roughness').filter((v, i) => i % 2 === 1 && v > 0).length;
    // One dab of 6 covers 28 texels: of sixteen, most lie apart.
    expect(painted).toBeGreaterThan(28 * 6);
  });

  test('a resting pen lays dabs at its rate, and none without one', () => {
    const rest = Array.from({ length: 11 }, (_, n) => flatSample(60, 60, { time: n * 100 }));
    const count = (rate: number) => strokeOn(canvasEasel(128), brushFor({ rate, writes: cover }), rest).dabCount;
    // One when it is put down, then ten a second for a second; the path’s own end adds none.
    expect(count(10)).toBe(11);
    expect(count(0)).toBe(1);
    const [quick, slow] = [1, 10].map((every) => {
      const easel = canvasEasel(128);
      strokeOn(
        easel,
        brushFor({ rate: 20, flow: 0.05, writes: cover }),
        rest.filter((_, n) => n % every === 0),
      );
      return texel(easel, 'roughness', 60, 60)[1];
    });
    expect(slow).toBeCloseTo(quick, 4);
  });

  test('a string pulls the tip after the pen and leaves it where it is', () => {
    const easel = canvasEasel(256);
    strokeOn(easel, brushFor({ size: 4, string: 40, writes: cover }), [
      flatSample(20, 100),
      flatSample(40, 100),
      flatSample(200, 100),
    ]);
    const there = (x: number) => texel(easel, 'roughness', x, 100)[1];
    expect([there(20), there(155), there(166)]).toEqual([1, 1, 0]);
  });
});

describe('pictures of tips', () => {
  const random = seededRandom(7);
  const noisy = tipPicture(
    16,
    Float32Array.from({ length: 256 }, () => random()),
  );

  test('smaller copies keep the mean; the nearest is taken; outside there is nothing', () => {
    const mean = (a: Float32Array) => a.reduce((s, v) => s + v, 0) / a.length;
    for (const level of noisy.levels) expect(mean(level)).toBeCloseTo(mean(noisy.levels[0]), 5);
    expect([16, 8, 5, 1, 1000].map((texels) => levelFor(noisy, texels))).toEqual([0, 1, 2, 4, 0]);
    const finest = levelOf(noisy, 0);
    expect([pictureAt(finest, 1.2, 0), pictureAt(finest, 0, -1.2), pictureAt(finest, NaN, 0)]).toEqual([0, 0, 0]);
    // In the middle of a texel of the picture its own value.
    expect(pictureAt(finest, (2 * 3.5) / 16 - 1, (2 * 5.5) / 16 - 1)).toBeCloseTo(noisy.levels[0][5 * 16 + 3], 6);
    expect(repeatedAt(finest, 0.3, 0.7)).toBeCloseTo(repeatedAt(finest, 4.3, -2.3), 5);
  });

  test('a picture of any shape is fitted whole into the middle of a square', () => {
    const bar = fittedPicture(40, 10, new Float32Array(400).fill(1));
    expect(bar.side).toBe(32);
    const all = bar.levels[0].reduce((s, v) => s + v, 0) / 32 ** 2;
    expect(all).toBeCloseTo(0.25, 5);
    expect([pictureAt(levelOf(bar, 0), 0, 0), pictureAt(levelOf(bar, 0), 0, 0.8)]).toEqual([1, 0]);
    expect(fittedPicture(1, 1, Float32Array.of(0.5)).levels[0]).toEqual(Float32Array.of(0.5));
    expect(fittedPicture(5000, 3, new Float32Array(15000)).side).toBe(2048);
  });

  test.each(DRAWN_PICTURES)('%s is drawn the same each time, has paint in it, and leaves its corners free', (name) => {
    const picture = drawnPicture(`made:${name}`)!;
    expect(picture).toBe(drawnPicture(`made:${name}`));
    const values = picture.levels[0];
    const mean = values.reduce((s, v) => s + v, 0) / values.length;
    expect(mean).toBeGreaterThan(0.001);
    expect(mean).toBeLessThan(0.75);
    for (const v of values) if (!(v >= 0 && v <= 1)) throw new Error(`${v}`);
    expect([values[0], values[255 * 256 + 255]]).toEqual([0, 0]);
  });

  test('a turned and squashed picture equals its formula at every texel', () => {
    const easel = canvasEasel(128);
    const [roundness, angle, radius] = [0.5, 30, 32];
    const brush = brushFor({
      size: 2 * radius,
      tip: { shape: 'picture', picture: 'made:leaf', roundness, angle },
      writes: cover,
    });
    strokeOn(easel, brush, [flatSample(64.25, 63.5)]);
    const picture = drawnPicture('made:leaf')!;
    const level = levelOf(picture, levelFor(picture, 2 * radius));
    const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
    let worst = 0;
    for (let y = 0; y < 128; y++)
      for (let x = 0; x < 128; x++) {
        const [dx, dy] = [x + 0.5 - 64.25, y + 0.5 - 63.5];
        const [u, v] = [(dx * c + dy * s) / radius, (dy * c - dx * s) / (radius * roundness)];
        // Two reads, each half a texel of the sheet's side apart.
        const apart = 1 / (radius * roundness) / 2;
        const expected = (pictureAt(level, u, v - apart / 2) + pictureAt(level, u, v + apart / 2)) / 2;
        worst = Math.max(worst, Math.abs(texel(easel, 'roughness', x, y)[1] - expected));
      }
    expect(worst).toBeLessThan(1 / 1000);
  });

  test('in a mirror a picture is seen from its other side', () => {
    const easel = canvasEasel(128);
    const tip = { shape: 'picture', picture: 'made:grass', angle: 20 };
    strokeOn(easel, brushFor({ size: 50, tip, writes: cover, mirror: { axes: ['x'], radial: 1, around: 'z' } }), [
      flatSample(34.5, 60),
    ]);
    for (let y = 34; y < 86; y++)
      for (let x = 8; x < 60; x++)
        expect(Math.abs(texel(easel, 'roughness', x, y)[1] - texel(easel, 'roughness', 127 - x, y)[1])).toBeLessThan(1 / 255);
    expect(texel(easel, 'roughness', 34, 70)[1]).toBeGreaterThan(0.1);
  });

  test('a picture that is not there is painted with a round tip', () => {
    const [a, b] = [{ shape: 'picture', picture: 'a'.repeat(64) }, { shape: 'round' }].map((tip) => {
      const easel = canvasEasel(128);
      strokeOn(easel, brushFor({ tip, writes: cover }), [flatSample(60, 60)]);
      return texelsOf(easel, 'roughness');
    });
    expect(a).toEqual(b);
  });

  test.each(['../etc/passwd', 'made:', 'made:../x', 'http://x', 5])('%s names no picture', (picture) => {
    expect(brushSchema.safeParse({ tip: { shape: 'picture', picture } }).success).toBe(false);
  });
});

describe('textures', () => {
  const texture = (over: object) => textureSchema.parse({ of: 'made:sponge', ...over });

  test('of no depth changes nothing; what it takes away grows with its depth', () => {
    const at = (depth: number, join: string) =>
      textureFor(texture({ depth, join }), drawnPicture('made:sponge')!, 1000, { radiusTexels: 10, depth: 1, x: 0, y: 0 });
    for (const join of ['times', 'lighten', 'height']) {
      for (const share of [0, 0.2, 0.7, 1]) expect(joined(at(0, join), share, 0.3)).toBeCloseTo(share, 6);
      for (const t of [0, 0.4, 1]) for (const share of [0, 0.1, 1]) expect(joined(at(1, join), share, t)).toBeLessThanOrEqual(1);
      expect(joined(at(1, join), 0, 1)).toBe(0);
    }
    expect(joined(at(0.5, 'times'), 0.8, 0)).toBeCloseTo(0.4, 6);
    // Light places are filled by a light touch, dark ones only by a full one.
    const fills = at(1, 'height');
    expect([joined(fills, 0.5, 0.9), joined(fills, 0.5, 0.2), joined(fills, 1, 0.05)]).toEqual([
      1,
      0,
      expect.closeTo(1, 1) as number,
    ]);
  });

  test('fixed to the sheet it is where it is, whatever the strokes; it repeats at its size', () => {
    // A canvas counts as one metre: 256 texels, so 250 mm are 64 texels.
    const brush = brushFor({ size: 120, texture: texture({ fix: 'sheet', size: 250, depth: 1 }), writes: cover });
    const run = (x: number, y: number) => {
      const easel = canvasEasel(256);
      strokeOn(easel, brush, [flatSample(x, y)]);
      return easel;
    };
    const [a, b] = [run(100, 100), run(110, 95)];
    for (const [x, y] of [
      [90, 90],
      [105, 120],
      [120, 80],
    ])
      expect(texel(b, 'roughness', x, y)).toEqual(texel(a, 'roughness', x, y));
    const wide = run(128, 128);
    for (let n = 0; n < 20; n++)
      expect(texel(wide, 'roughness', 84 + n, 100)[1]).toBeCloseTo(texel(wide, 'roughness', 148 + n, 100)[1], 4);
  });

  test('fixed to the surface, and by pictures, equal places on both sides of a seam are alike', () => {
    for (const over of [
      { texture: texture({ fix: 'surface', size: 400, depth: 0.8 }), hardness: 0 },
      { tip: { shape: 'picture', picture: 'made:cloud' } },
    ]) {
      const easel = modelEasel(cubeModel(), 256);
      const brush = brushFor({ size: 500, sizeUnit: 'model', writes: cover, ...over });
      strokeOn(easel, brush, [rayTo([2, 0, 2], [0.5, 0.03, 0.5])]);
      const texels = [...easel.surface!.map.tiles].flatMap(([index, tile]) =>
        Array.from({ length: tile.face.length }, (_, i) => ({
          at: [...tile.position.subarray(i * 3, i * 3 + 3)],
          face: tile.face[i] >> 1,
          cover: (easel.store.data('l/roughness', index)?.[i * 2 + 1] ?? 0) / 65535,
        })),
      );
      // A cube’s faces meet at a right angle: places on the edge itself lie within half a texel of it on both.
      const edge = (face: number) =>
        texels.filter((t) => t.face === face && Math.abs(t.at[0] - 0.5) < 0.006 && Math.abs(t.at[2] - 0.5) < 0.006);
      const fronts = edge(0);
      let met = 0;
      for (const t of edge(2)) {
        const other = fronts.toSorted((p, q) => Math.abs(p.at[1] - t.at[1]) - Math.abs(q.at[1] - t.at[1]))[0];
        if (!other || Math.abs(other.at[1] - t.at[1]) > 0.004) continue;
        if (!('texture' in over)) expect(Math.abs(t.cover - other.cover)).toBeLessThan(0.06);
        if (t.cover > 0.1) met++;
      }
      expect(met).toBeGreaterThan(5);
    }
  });

  test('a brush keeps a rule as its texture, and a wrong one is refused', () => {
    const easel = canvasEasel(128);
    const plain = brushFor({ size: 60, writes: cover });
    const brush = brushFor({
      size: 60,
      texture: { of: { ...SOURCES.checks.start }, size: 1000, fix: 'sheet', depth: 1 },
      writes: cover,
    });
    strokeOn(easel, brush, [flatSample(64, 64)]);
    const covers = texelsOf(easel, 'roughness').filter((_, i) => i % 2 === 1);
    const other = canvasEasel(128);
    strokeOn(other, plain, [flatSample(64, 64)]);
    const whole = texelsOf(other, 'roughness').filter((v, i) => i % 2 === 1 && v > 60000).length;
    const filled = covers.filter((v) => v > 60000).length;
    expect(filled / whole).toBeGreaterThan(0.35);
    expect(filled / whole).toBeLessThan(0.65);
    expect(brushSchema.safeParse({ texture: { of: { type: 'nonsense' } } }).success).toBe(false);
    expect(brushSchema.safeParse({ texture: { of: 'made:sponge', depth: 3 } }).success).toBe(false);
  });
});
