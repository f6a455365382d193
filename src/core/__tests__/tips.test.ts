/** Tips with a shape, and brushes whose lines vary them, against plain formulas. */
import '../compute';
import { brushSchema, type Brush } from '../hand/brush';
import type { FlatSample, ModelSample } from '../hand/sample';
import { FALLOFF_STEPS } from '../../kernels/dabs';
import { Coverage, falloffTable } from '../hand/coverage';
import { dabFlat } from '../hand/dabFlat';
import { Imprint } from '../hand/imprint';
import { SAMPLE_HEIGHT, SAMPLE_WIDTH, sampleStroke } from '../hand/sampleStroke';
import { Stroke } from '../hand/stroke';
import { leaning, response, vary, varySchema, type Drive, type Vary } from '../hand/vary';
import { newPaintedLayer, newSheet } from '../document/factory';
import { PieceSurfaces } from '../strata/pieceSurfaces';
import { tileIndex, TileStore } from '../tile/tiles';
import { brushFor, canvasEasel, flatSample, strokeOn, texel } from '../testing/hand';
import { monotoneCurve } from '../kinds/filters/curves';
import { cubeModel, seededRandom } from '../testing/models';

const SIZE = 256;
const flat = (x: number, y: number, over: Partial<FlatSample> = {}): FlatSample => ({
  ...{ pane: 'flat', x, y, texelsPerPixel: 1, pressure: 1, tiltX: 0, tiltY: 0, time: 0 },
  ...over,
});
const line = (over: Partial<Vary> & Pick<Vary, 'what' | 'by' | 'amount'>): Vary => varySchema.parse(over);
const brushOf = (over: object): Brush =>
  brushSchema.parse({
    ...{ smoothing: 0, flow: 1, hardness: 1, size: 20, vary: [], writes: { roughness: { on: true, value: [1], amount: 1 } } },
    ...over,
  });

/** Coverage of every texel of a canvas after a stroke, row by row. */
function strokeOver(brush: Brush, samples: FlatSample[], seed = 1, wrap = false): Float32Array {
  const sheet = newSheet('s', 'Sheet', SIZE, SIZE, { wrapU: wrap, wrapV: wrap });
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const store = new TileStore();
  const stroke = new Stroke({ sheet, layerId: 'l', store, surface: null, seed }, brush);
  for (const sample of samples) stroke.add([sample]);
  stroke.end();
  stroke.flush();
  const out = new Float32Array(SIZE * SIZE);
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      const data = store.data('l/roughness', tileIndex(x >> 7, y >> 7));
      out[y * SIZE + x] = data ? data[((y & 127) * 128 + (x & 127)) * 2 + 1] / 65535 : 0;
    }
  return out;
}
const still: Drive = {
  ...{ pressure: 1, tilt: 0, tiltDirection: 0, direction: 0, speed: 0, dab: 0 },
  length: { diameters: 0, millimetres: 0, texels: 0 },
};
/** Where a row of texels is covered: how many. */
const thick = (at: Float32Array, x: number) => {
  let n = 0;
  for (let y = 0; y < SIZE; y++) n += at[y * SIZE + x];
  return n;
};

describe('tips in the flat sheet', () => {
  test.each([
    ['an ellipse', 'round', 0.4, 0.5],
    ['a square', 'square', 1, 0],
    ['a turned bar', 'square', 0.25, -0.8],
  ] as const)(
    '%s equals its formula at every texel, over the border of a wrapping sheet too',
    (_what, shape, roundness, angle) => {
      const falloff = falloffTable(0.3);
      for (const [x0, y0] of [
        [128.3, 120.9],
        [1.2, 254.6],
      ]) {
        const coverage = new Coverage(SIZE, SIZE);
        const tip = { shape, roundness, angle };
        const imprint = new Imprint(SIZE, SIZE);
        dabFlat(imprint, { x: x0, y: y0, radiusTexels: 25.5, tip }, falloff, { wrapU: true, wrapV: true });
        coverage.lay(imprint, 0.8, 0.9);
        let worst = 0;
        for (let y = 0; y < SIZE; y++)
          for (let x = 0; x < SIZE; x++) {
            const around = (d: number) => ((((d + SIZE / 2) % SIZE) + SIZE) % SIZE) - SIZE / 2;
            const [dx, dy] = [around(x + 0.5 - x0), around(y + 0.5 - y0)];
            const u = (dx * Math.cos(angle) + dy * Math.sin(angle)) / 25.5;
            const v = (dy * Math.cos(angle) - dx * Math.sin(angle)) / (25.5 * roundness);
            const d2 = shape === 'round' ? u * u + v * v : Math.max(u * u, v * v);
            const expected = d2 < 1 ? 0.9 * 0.8 * falloff[Math.floor(d2 * FALLOFF_STEPS)] : 0;
            worst = Math.max(worst, Math.abs(coverage.tile(x >> 7, y >> 7).values[(y & 127) * 128 + (x & 127)] - expected));
          }
        expect(worst).toBeLessThan(1 / 255);
      }
    },
  );

  test('on the grid a tip of three covers nine texels wholly and nothing else, wherever it is put down', () => {
    const brush = brushOf({ size: 3, tip: { shape: 'square', grid: true, angle: 30 } });
    for (const [x, y] of [
      [50.1, 60.9],
      [50.9, 60.2],
      [50.5, 60.5],
    ]) {
      const at = strokeOver(brush, [flat(x, y)]);
      expect(at.reduce((sum, v) => sum + v, 0)).toBe(9);
      expect(at[60 * SIZE + 50]).toBe(1);
    }
    const dot = strokeOver(brushOf({ size: 1, tip: { shape: 'round', grid: true } }), [flat(10.3, 20.7)]);
    expect([dot.reduce((sum, v) => sum + v, 0), dot[20 * SIZE + 10]]).toEqual([1, 1]);
  });
});

describe('tips on the model', () => {
  const onto = (point: number[], right?: [number, number, number]): ModelSample => {
    const origin: [number, number, number] = [2, 0, 2];
    const d = point.map((v, k) => v - origin[k]);
    const direction = d.map((v) => v / Math.hypot(...d)) as [number, number, number];
    return { pane: 'model', origin, direction, pixelSpread: 0.001, right, pressure: 1, tiltX: 0, tiltY: 0, time: 0 };
  };
  const dab = (tip: object, sample: ModelSample, size = 300) => {
    const sheet = newSheet('s', 'Sheet', 256, 256, { materialIndex: 0 });
    sheet.layers = [newPaintedLayer('l', 'Hand')];
    const surface = new PieceSurfaces(cubeModel(), 0).forSheet(sheet)!;
    const store = new TileStore();
    const stroke = new Stroke({ sheet, layerId: 'l', store, surface }, brushOf({ size, sizeUnit: 'model', hardness: 0, tip }));
    stroke.add([sample]);
    stroke.end();
    stroke.flush();
    const out: { at: number[]; face: number; cover: number }[] = [];
    for (const [index, tile] of surface.map.tiles) {
      const data = store.data('l/roughness', index);
      for (let i = 0; i < tile.face.length; i++)
        if (tile.face[i] >= 0)
          out.push({
            at: [...tile.position.subarray(i * 3, i * 3 + 3)],
            face: tile.face[i] >> 1,
            cover: data ? data[i * 2 + 1] / 65535 : 0,
          });
    }
    return out;
  };

  test('a square one seen head-on covers what lies in the square, turned as the eye sees it', () => {
    const front: ModelSample = { ...onto([0, 0, 0.5]), origin: [0, 0, 3], direction: [0, 0, -1], right: [0.6, 0.8, 0] };
    for (const { at, face, cover } of dab({ shape: 'square', roundness: 0.5 }, front)) {
      if (face !== 0) continue;
      const u = (at[0] * 0.6 + at[1] * 0.8) / 0.15;
      const v = (at[0] * 0.8 - at[1] * 0.6) / 0.075;
      const d = Math.max(Math.abs(u), Math.abs(v), Math.abs(at[2] - 0.5) / 0.15);
      const expected = d < 1 ? falloffTable(0)[Math.floor(d * d * FALLOFF_STEPS)] : 0;
      expect(Math.abs(cover - expected)).toBeLessThan(1 / 255 + 0.006);
    }
  });

  test('over an edge equal places get equal paint, whichever island they are on, in the gutter too', () => {
    const texels = dab({ shape: 'square', roundness: 0.4, angle: 25 }, onto([0.5, 0.05, 0.5]));
    const key = (at: number[]) => at.map((v) => v.toFixed(2)).join();
    const front = new Map(texels.filter((t) => t.face === 0).map((t) => [key(t.at), t]));
    let met = 0;
    for (const t of texels) {
      const other = t.face === 2 && front.get(key(t.at));
      if (!other) continue;
      const apart = Math.hypot(...t.at.map((v, k) => v - other.at[k]));
      // The steepest that a soft tip falls over its short half side of 60 mm is 1.5 / 0.06 a metre.
      expect(Math.abs(t.cover - other.cover)).toBeLessThan(apart * 26 + 1 / 255);
      if (t.cover > 0.1) met++;
    }
    expect(met).toBeGreaterThan(5);
  });
});

describe('what varies', () => {
  const of = (lines: Vary[], over: Partial<Drive> = {}, seed = 1) => vary(lines, { ...still, ...over }, seed);

  test('shares hang on their driver, by its response', () => {
    expect(of([line({ what: 'size', by: 'pressure', amount: 1 })], { pressure: 0.3 }).size).toBe(0.3);
    expect(of([line({ what: 'flow', by: 'pressure', amount: 0.4 })], { pressure: 0.5 }).flow).toBeCloseTo(0.8, 12);
    expect(of([line({ what: 'opacity', by: 'speed', amount: -0.5 })], { speed: 1 }).opacity).toBeCloseTo(0.5, 12);
    const bent = line({ what: 'size', by: 'pressure', amount: 1, bend: 0.5 });
    expect(of([bent], { pressure: 0.25 }).size).toBeCloseTo(0.25 ** 0.5, 12);
    for (const bend of [-1, -0.3, 0.6, 1]) {
      expect([response(0, bend), response(1, bend)]).toEqual([0, 1]);
      expect(response(response(0.37, bend), -bend)).toBeCloseTo(0.37, 12);
    }
  });

  test('lines for one thing are multiplied, turns and shifts are added', () => {
    const half = line({ what: 'size', by: 'pressure', amount: 0.5 });
    expect(of([half, half], { pressure: 0 }).size).toBe(0.25);
    const turn = line({ what: 'angle', by: 'tilt', amount: 90 });
    const along = line({ what: 'angle', by: 'direction', amount: 0 });
    expect(of([turn, along], { tilt: 0.5, direction: -Math.PI / 2 }).angle).toBeCloseTo(45 + 270, 9);
  });

  test('over a length of the stroke, in the unit that is named', () => {
    const fade = line({ what: 'size', by: 'length', amount: -1, over: 60, unit: 'millimetres' });
    const at = (millimetres: number) => of([fade], { length: { diameters: 0, millimetres, texels: 0 } }).size;
    expect([at(0), at(15), at(60), at(90)]).toEqual([1, 0.75, 0, 0]);
  });

  test('chance is even, by the dab or by the stroke, and the same for the same seed', () => {
    const jitter = line({ what: 'angle', by: 'dab', amount: 30 });
    const drawn = Array.from({ length: 20_000 }, (_, dab) => of([jitter], { dab }).angle);
    expect(Math.max(...drawn.map(Math.abs))).toBeLessThanOrEqual(30);
    expect(Math.abs(drawn.reduce((a, b) => a + b) / drawn.length)).toBeLessThan(0.5);
    // Sixty bins: 333 a bin, √333 ≈ 18 is one standard deviation; χ² with 59 degrees stays under 110 in all but 1 of 10,000.
    const bins = new Array<number>(60).fill(0);
    for (const angle of drawn) bins[Math.min(59, Math.floor(angle + 30))]++;
    expect(bins.reduce((sum, n) => sum + (n - drawn.length / 60) ** 2 / (drawn.length / 60), 0)).toBeLessThan(110);
    expect(of([jitter], { dab: 7 }, 5)).toEqual(of([jitter], { dab: 7 }, 5));
    expect(of([jitter], { dab: 7 }, 5)).not.toEqual(of([jitter], { dab: 7 }, 6));
    const once = line({ what: 'angle', by: 'stroke', amount: 30 });
    expect(new Set([0, 1, 2, 3].map((dab) => of([once], { dab }).angle)).size).toBe(1);
    // Two lines with the same words do not move together.
    expect(of([jitter], { dab: 3 }).angle * 2).not.toBeCloseTo(of([jitter, jitter], { dab: 3 }).angle, 6);
  });

  test('a pen upright leans nowhere; its tilts give how flat it lies and where to', () => {
    expect(leaning(0, 0).tilt).toBe(0);
    expect(leaning(45, 0)).toEqual({ tilt: expect.closeTo(0.5, 9) as number, direction: 0 });
    expect(leaning(0, 30)).toEqual({ tilt: expect.closeTo(1 / 3, 9) as number, direction: Math.PI / 2 });
    expect(leaning(90, -90).tilt).toBeLessThanOrEqual(1);
  });

  test.each([
    [{ what: 'size', by: 'pressure', amount: 3 }, /amount/],
    [{ what: 'angle', by: 'wind', amount: 3 }, /by/],
    [{ what: 'along', by: 'dab', amount: NaN }, /amount/],
  ])('a wrong line is refused: %j', (wrong, where) => {
    const result = brushSchema.safeParse({ vary: [wrong] });
    expect(result.success).toBe(false);
    expect(result.error!.issues[0].path.join('.')).toMatch(where);
  });
});

describe('strokes of brushes that vary', () => {
  test('a stroke tapers to nothing over the length that is set', () => {
    const brush = brushOf({
      ...{ size: 40, spacing: 0.02 },
      vary: [line({ what: 'size', by: 'length', amount: -1, over: 160, unit: 'texels' })],
    });
    const at = strokeOver(brush, [flat(40, 128), flat(240, 128)]);
    // Where it has come s texels its half width is that of the circles around there: 20 · (1 − s/160), a cone’s outline.
    for (const s of [20, 60, 100, 140]) {
      const slope = 20 / 160;
      const half = (20 * (1 - s / 160)) / Math.sqrt(1 - slope * slope);
      expect(Math.abs(thick(at, 40 + s) - 2 * half)).toBeLessThan(1.5);
    }
  });

  test('a tip that turns with the stroke draws as thick down as across, from its first dab on', () => {
    const brush = brushOf({
      ...{ size: 40, spacing: 0.05, tip: { shape: 'square', roundness: 0.2 } },
      vary: [line({ what: 'angle', by: 'direction', amount: 0 })],
    });
    const across = strokeOver(brush, [flat(40, 128), flat(200, 128)]);
    const down = strokeOver(brush, [flat(128, 40), flat(128, 200)]);
    const differs = across.filter((v, i) => Math.abs(v - down[(i % SIZE) * SIZE + Math.floor(i / SIZE)]) > 1 / 255).length;
    expect(differs).toBe(0);
    expect(thick(across, 60)).toBeCloseTo(8, 0);
    // One that is only put down still lays its dab.
    expect(strokeOver(brush, [flat(128, 128)])[128 * SIZE + 128]).toBeGreaterThan(0.9);
  });

  test('scattered dabs stay within the reach that is set, on both sides of the way', () => {
    const brush = brushOf({ size: 6, spacing: 0.5, vary: [line({ what: 'across', by: 'dab', amount: 4 })] });
    const at = strokeOver(brush, [flat(20, 128), flat(236, 128)], 3);
    const rows = Array.from({ length: SIZE }, (_, y) => at.subarray(y * SIZE, (y + 1) * SIZE).some((v) => v > 0));
    const [first, last] = [rows.indexOf(true), rows.lastIndexOf(true)];
    // The tip's own radius, and the texel that its rim lies in.
    expect(first).toBeGreaterThanOrEqual(128 - 4 * 6 - 4);
    expect(last).toBeLessThanOrEqual(128 + 4 * 6 + 4);
    expect([first < 112, last > 144]).toEqual([true, true]);
  });

  test('the same seed gives the same texels, another one others; the cap holds; by parts as at once', () => {
    const random = seededRandom(4);
    const samples = Array.from({ length: 20 }, (_, n) =>
      flat(random() * SIZE, random() * SIZE, { time: n * 8, tiltX: random() * 60 }),
    );
    const brush = brushOf({
      ...{ size: 24, opacity: 0.6, flow: 0.5, hardness: 0.4, tip: { shape: 'square', roundness: 0.6 } },
      vary: [
        line({ what: 'size', by: 'dab', amount: 0.5 }),
        line({ what: 'flow', by: 'speed', amount: -0.7 }),
        line({ what: 'angle', by: 'direction', amount: 0 }),
        line({ what: 'roundness', by: 'tilt', amount: -0.5, bend: 0.4 }),
        line({ what: 'along', by: 'dab', amount: 1 }),
        line({ what: 'opacity', by: 'stroke', amount: 1 }),
      ],
    });
    const [a, b, c] = [1, 1, 2].map((seed) => strokeOver(brush, samples, seed, true));
    expect(b).toEqual(a);
    expect(c).not.toEqual(a);
    const capped = strokeOver({ ...brush, vary: brush.vary.slice(0, 5) }, samples, 1, true);
    expect(capped.reduce((most, v) => Math.max(most, v), 0)).toBeLessThanOrEqual(0.6 + 1 / 65535);
  });

  test('painting at an offset and shifting back gives the same bytes on a wrapping canvas', () => {
    const brush = brushOf({
      size: 30,
      tip: { shape: 'square', roundness: 0.5, angle: 20 },
      vary: [line({ what: 'size', by: 'dab', amount: 0.4 })],
    });
    const way = (dx: number, dy: number) => [flat(60 + dx, 70 + dy), flat(150 + dx, 110 + dy), flat(90 + dx, 180 + dy)];
    const here = strokeOver(brush, way(0, 0), 1, true);
    const there = strokeOver(brush, way(128, 192), 1, true);
    const back = here.map((_, i) => there[((Math.floor(i / SIZE) + 192) % SIZE) * SIZE + (((i % SIZE) + 128) % SIZE)]);
    expect(back).toEqual(here);
  });
});

test('recordings of before brushes had lines mean what they meant', () => {
  const lines = (brush: object) => brushSchema.parse(brush).vary.map(({ what, by, amount }) => [what, by, amount]);
  expect(lines({})).toEqual([['size', 'pressure', 1]]);
  expect(lines({ pressureSize: false, pressureOpacity: true })).toEqual([['opacity', 'pressure', 1]]);
  expect(lines({ pressureSize: false })).toEqual([]);
  expect(lines({ vary: [] })).toEqual([]);
  expect(brushSchema.parse({ pressureSize: true })).not.toHaveProperty('pressureSize');
});

test('a brush’s sample stroke has its colour, is thin where it is pressed lightly, and is the same each time', () => {
  const colour = { 'base-colour': { on: true, value: [1, 0.2, 0], amount: 1 } };
  const brush = brushSchema.parse({ size: 400, sizeUnit: 'model', hardness: 1, flow: 1, writes: colour });
  const picture = sampleStroke(brush);
  const thickness = (x: number) =>
    Array.from({ length: SAMPLE_HEIGHT }, (_, y) => picture[(y * SAMPLE_WIDTH + x) * 4 + 3]).filter((a) => a > 128).length;
  // Over all three tiles that it lies in, light, hard, light; nothing at the rims.
  expect([thickness(2), thickness(SAMPLE_WIDTH - 3)]).toEqual([0, 0]);
  expect(thickness(SAMPLE_WIDTH / 2)).toBeGreaterThan(2 * thickness(40));
  expect(thickness(SAMPLE_WIDTH / 2)).toBeGreaterThan(2 * thickness(SAMPLE_WIDTH - 40));
  for (const x of [60, 127, 128, 255, 256, 270]) expect(thickness(x)).toBeGreaterThan(0);
  const middle = (SAMPLE_HEIGHT / 2) * SAMPLE_WIDTH * 4 + (SAMPLE_WIDTH / 2) * 4;
  expect([...picture.slice(middle, middle + 4)]).toEqual([255, 51, 0, 255]);
  expect(sampleStroke(brush)).toEqual(picture);
});

test('hardness along a curve: each texel gets what the curve says at its way to the rim, which stays a texel soft', () => {
  const easel = canvasEasel(128);
  const edge = [
    [0, 0.2],
    [0.5, 1],
    [1, 0.6],
  ];
  strokeOn(
    easel,
    brushFor({ size: 80, hardness: 0, tip: { edge }, writes: { roughness: { on: true, value: [1], amount: 1 } } }),
    [flatSample(64, 64)],
  );
  const curve = monotoneCurve(edge as [number, number][]);
  for (let x = 20; x < 64; x++) {
    const way = Math.hypot(x + 0.5 - 64, 0.5) / 40;
    const given = texel(easel, 'roughness', x, 64)[1];
    if (way < 0.97) expect(Math.abs(given - curve(way))).toBeLessThan(1 / 255);
    else if (way < 1) expect(given).toBeLessThan(0.62);
    else if (way < 1.02) expect(given).toBeLessThan(0.35);
    else expect(given).toBe(0);
  }
  expect(brushSchema.safeParse({ vary: [], tip: { edge: [[0.5, 1], [0.2, 0]] } }).success).toBe(false); // prettier-ignore
});
