/** Small sheets: a tip on the texel grid, lines without doubles, dithers, and paint that keeps to a palette. */
import { DITHER_TYPES, isCovered } from '../hand/dither';
import type { Sample } from '../hand/sample';
import { TexelPath } from '../hand/texelPath';
import { hexToSrgb } from '../colour/transfer';
import { brushFor, canvasEasel, fillWith, flatSample, modelEasel, rayTo, strokeOn, texelsOf, type Easel } from '../testing/hand';
import { cubeModel, seededRandom } from '../testing/models';

const WRITES = { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 } };
const onGrid = (over: object = {}) => {
  const { tip = {}, ...rest } = over as { tip?: object };
  return brushFor({ size: 1, sizeUnit: 'texel', writes: WRITES, tip: { shape: 'square', grid: true, ...tip }, ...rest });
};

/** What is painted: "x y" of texels, all of which must be opaque. */
function paintedOn(easel: Easel): Set<string> {
  const texels = texelsOf(easel, 'base-colour');
  const { width, height } = easel.sheet;
  const out = new Set<string>();
  let thin = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const alpha = texels[(y * width + x) * 4 + 3];
      if (alpha % 65535 !== 0) thin++;
      if (alpha) out.add(`${x} ${y}`);
    }
  expect(thin).toBe(0);
  return out;
}

/** Texels of a line in the order of a walk along it must touch by side or corner, and never make a corner of three. */
function doublesIn(way: readonly [number, number][]): number {
  let doubles = 0;
  for (let n = 2; n < way.length; n++) {
    const [a, b, c] = way.slice(n - 2, n + 1);
    const diagonal = Math.abs(a[0] - c[0]) === 1 && Math.abs(a[1] - c[1]) === 1;
    if (diagonal && (b[0] === a[0] || b[1] === a[1]) && (b[0] === c[0] || b[1] === c[1])) doubles++;
  }
  return doubles;
}

describe('the way of a tip on the grid', () => {
  test('has each texel once and no doubles at corners, wherever the pen goes', () => {
    const random = seededRandom(11);
    for (let run = 0; run < 40; run++) {
      const path = new TexelPath<[number, number]>();
      const way: [number, number][] = [];
      const lay = (at: [number, number] | null) => at && way.push(at);
      let [x, y, angle] = [32, 32, random() * 7];
      for (let n = 0; n < 400; n++) {
        angle += (random() - 0.5) * 0.4;
        [x, y] = [x + Math.cos(angle) / 4, y + Math.sin(angle) / 4];
        lay(path.add(x, y, [Math.round(x), Math.round(y)]));
      }
      lay(path.end());
      expect(doublesIn(way)).toBe(0);
      for (let n = 1; n < way.length; n++) {
        const by = Math.max(Math.abs(way[n][0] - way[n - 1][0]), Math.abs(way[n][1] - way[n - 1][1]));
        expect(by).toBe(1);
      }
    }
  });

  test('straight lines have one texel a column (or row), each within half a texel of the line and half a step', () => {
    for (let end = 0; end <= 48; end += 3) {
      const easel = canvasEasel(64);
      strokeOn(easel, onGrid(), [flatSample(6.5, 8.5), flatSample(54.5, 8.5 + end)]);
      const painted = [...paintedOn(easel)].map((t) => t.split(' ').map(Number));
      expect(painted.length).toBe(49);
      for (const [x, y] of painted) {
        const ideal = 8.5 + ((x + 0.5 - 6.5) / 48) * end;
        expect(Math.abs(y + 0.5 - ideal)).toBeLessThanOrEqual(0.63);
      }
    }
  });

  test('a corner of the hand stays a corner, however much smoothing the brush has', () => {
    const easel = canvasEasel(64);
    strokeOn(easel, onGrid({ smoothing: 1 }), [flatSample(4.5, 4.5), flatSample(20.5, 4.5), flatSample(20.5, 20.5)]);
    const painted = paintedOn(easel);
    expect(painted.has('19 4')).toBe(true);
    expect(painted.has('20 5')).toBe(true);
    expect(painted.has('20 20')).toBe(true);
    // The corner itself is a double: 16 along, 16 down, both without it.
    expect(painted.size).toBe(32);
  });

  test('a click lays one tip, at once', () => {
    for (const size of [1, 2, 3, 5]) {
      const easel = canvasEasel(64);
      strokeOn(easel, onGrid({ size }), [flatSample(10.3, 10.3)]);
      expect(paintedOn(easel).size).toBe(size * size);
    }
  });

  test('on the model it paints whole texels of the sheet', () => {
    const easel = modelEasel(cubeModel(), 64);
    const along = (t: number): Sample => rayTo([0, 0, 6], [-0.4 + t * 0.8, -0.3 + t * 0.5, 0.5]);
    strokeOn(
      easel,
      onGrid(),
      Array.from({ length: 30 }, (_, n) => along(n / 29)),
    );
    expect(paintedOn(easel).size).toBeGreaterThan(4);
  });

  test('wraps with the canvas', () => {
    const easel = canvasEasel(16, true);
    strokeOn(easel, onGrid(), [flatSample(12.5, 3.5), flatSample(19.5, 3.5)]);
    expect([...paintedOn(easel)].sort()).toEqual(['0 3', '1 3', '12 3', '13 3', '14 3', '15 3', '2 3', '3 3']);
  });
});

describe('dithers', () => {
  test.each(DITHER_TYPES)('%s covers as many of sixteen texels as the flow says, more with more', (dither) => {
    let before = new Set<string>();
    for (let n = 0; n <= 16; n++) {
      const covered = new Set<string>();
      for (let y = 0; y < 4; y++) for (let x = 0; x < 4; x++) if (isCovered(dither, n / 16, x, y)) covered.add(`${x} ${y}`);
      expect(covered.size).toBe(n);
      for (const texel of before) expect(covered).toContain(texel);
      before = covered;
    }
  });

  test.each(DITHER_TYPES)('%s: strokes beside each other go on in one pattern', (dither) => {
    const easel = canvasEasel(32);
    const brush = onGrid({ size: 8, flow: 0.5, tip: { dither } });
    for (const y of [4, 11, 17, 23, 28]) strokeOn(easel, brush, [flatSample(-2, y), flatSample(34, y)]);
    const painted = paintedOn(easel);
    for (let y = 1; y < 31; y++) for (let x = 0; x < 32; x++) expect(painted.has(`${x} ${y}`)).toBe(isCovered(dither, 0.5, x, y));
  });

  test('a gradient from well to well has those two colours, and no other', () => {
    const easel = canvasEasel(64);
    const area = { type: 'gradient' };
    const tip = { dither: 'even' };
    strokeOn(easel, onGrid({ area, tip, second: [0, 0, 1] }), [flatSample(0, 32), flatSample(64, 32)]);
    const texels = texelsOf(easel, 'base-colour');
    let second = 0;
    for (let o = 0; o < texels.length; o += 4) {
      expect(texels[o] + texels[o + 2]).toBe(65535);
      if (texels[o + 2]) second++;
    }
    expect(Math.abs(second - 2048)).toBeLessThan(64);
  });

  test('a gradient that fades becomes texels whose share follows it', () => {
    const easel = canvasEasel(64);
    const area = { type: 'gradient', ends: 'fade' };
    strokeOn(easel, onGrid({ area, tip: { dither: 'even' } }), [flatSample(0, 32), flatSample(64, 32)]);
    const painted = paintedOn(easel);
    const share = (from: number) => [...painted].filter((t) => Math.floor(Number(t.split(' ')[0]) / 4) === from / 4).length / 256;
    const ends = [share(0), share(60)];
    const rising = ends[0] < ends[1];
    for (let x = 0; x < 64; x += 4) {
      const ideal = (x + 2) / 64;
      expect(Math.abs(share(x) - (rising ? ideal : 1 - ideal))).toBeLessThan(1 / 8);
    }
  });
});

test('shapes of a brush on the grid have whole texels', () => {
  const easel = canvasEasel(64);
  const area = { type: 'shape', figure: 'ellipse' };
  strokeOn(easel, onGrid({ area }), [flatSample(10, 10), flatSample(40.3, 33.7)]);
  const painted = paintedOn(easel).size;
  expect(painted / (Math.PI * 15.15 * 11.85)).toBeCloseTo(1, 1);
});

describe('only the colours of a palette', () => {
  const only = ['#1d2b34', '#e7d8b0', '#b5482f', '#3f8f8a'];
  const allowed = new Set(
    only.map((hex) =>
      hexToSrgb(hex)
        .map((v) => Math.round(v * 65535))
        .join(),
    ),
  );
  const kept = (easel: Easel) => {
    const texels = texelsOf(easel, 'base-colour');
    const seen = new Set<string>();
    for (let o = 0; o < texels.length; o += 4) {
      expect([0, 65535]).toContain(texels[o + 3]);
      if (texels[o + 3]) seen.add(texels.subarray(o, o + 3).join());
    }
    for (const colour of seen) expect(allowed).toContain(colour);
    return seen.size;
  };

  test('whatever a soft, varied brush lays, and whatever is smeared or blurred of it', () => {
    const easel = canvasEasel(64);
    const soft = {
      ...{ only, size: 24, hardness: 0, flow: 0.5, second: hexToSrgb('#3f8f8a') },
      vary: [{ what: 'mix', by: 'dab', amount: 1 }],
      writes: { 'base-colour': { on: true, value: hexToSrgb('#b5482f'), amount: 1 } },
    };
    strokeOn(easel, brushFor(soft), [flatSample(8, 20), flatSample(56, 20)]);
    strokeOn(easel, brushFor({ ...soft, writes: { 'base-colour': { on: true, value: [0.9, 0.9, 0.7], amount: 1 } } }), [
      flatSample(30, 4),
      flatSample(30, 60),
    ]);
    expect(kept(easel)).toBeGreaterThan(1);
    for (const mode of ['smear', 'blur', 'erase']) {
      strokeOn(easel, brushFor({ ...soft, mode, vary: [] }), [flatSample(10, 10), flatSample(40, 40)]);
      kept(easel);
    }
  });

  test('what the stroke does not reach stays as it is', () => {
    const easel = canvasEasel(64);
    fillWith(easel, 'base-colour', () => [0.3, 0.4, 0.5, 0.4]);
    const before = texelsOf(easel, 'base-colour');
    strokeOn(easel, onGrid({ only, size: 4 }), [flatSample(10, 10)]);
    const after = texelsOf(easel, 'base-colour');
    let changed = 0;
    for (let o = 0; o < after.length; o += 4) if (after.subarray(o, o + 4).join() !== before.subarray(o, o + 4).join()) changed++;
    expect(changed).toBe(16);
  });
});
