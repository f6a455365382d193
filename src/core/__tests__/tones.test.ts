/** OKLCH and tone steps. */
import { converter } from 'culori';
import { fromLch, inGamut, mostChroma, toLch } from '../colour/oklch';
import { COOL_HUE, toneSteps, TONES_EACH_WAY, turnToward, WARM_HUE } from '../colour/tones';
import { seededRandom } from '../testing/models';

const theirs = converter('oklch');
const random = seededRandom(9);
const colours = Array.from({ length: 200 }, () => [random(), random(), random()] as [number, number, number]);
const apart = (a: number, b: number) => Math.abs(((a - b + 540) % 360) - 180);

test('OKLCH is what culori says, and back', () => {
  for (const colour of colours) {
    const own = toLch(colour);
    const other = theirs({ mode: 'rgb', r: colour[0], g: colour[1], b: colour[2] });
    expect(own.l).toBeCloseTo(other.l, 3);
    expect(own.c).toBeCloseTo(other.c, 3);
    if (own.c > 0.02) expect(apart(own.h, other.h!)).toBeLessThan(0.5);
    fromLch(own).forEach((v, k) => expect(v).toBeCloseTo(colour[k], 4));
  }
});

test('the edge of sRGB is found: a hair less chroma is in, a hair more is out', () => {
  for (let h = 0; h < 360; h += 15)
    for (const l of [0.2, 0.5, 0.8]) {
      const c = mostChroma(l, h);
      expect(inGamut({ l, c: c - 1e-4, h })).toBe(true);
      expect(inGamut({ l, c: c + 2e-3, h })).toBe(false);
    }
  expect([mostChroma(0, 30), mostChroma(1, 30)]).toEqual([0, 0]);
});

test('what lies outside keeps its lightness and hue', () => {
  const far = { l: 0.6, c: 0.4, h: 200 };
  const near = toLch(fromLch(far));
  expect(near.l).toBeCloseTo(0.6, 2);
  expect(apart(near.h, 200)).toBeLessThan(1);
});

describe('tone steps', () => {
  test('lightness rises from the first to the last, all are in sRGB, the colour itself is in the middle', () => {
    for (const colour of colours) {
      const steps = toneSteps(colour);
      expect(steps).toHaveLength(11);
      expect(steps[TONES_EACH_WAY]).toEqual(colour);
      const ls = steps.map((s) => toLch(s).l);
      expect(ls.every((l, n) => n === 0 || l > ls[n - 1])).toBe(true);
      expect(steps.flat().every((v) => v >= 0 && v <= 1)).toBe(true);
    }
  });

  test('the hue turns toward cool in the shadow and toward warm in the light, as far as it is told', () => {
    for (const colour of colours) {
      const { h, c, l } = toLch(colour);
      if (c < 0.06 || l < 0.3 || l > 0.8) continue;
      const steps = toneSteps(colour, { turn: 30, amount: 0.5 }).map(toLch);
      for (const [n, to] of [
        [0, COOL_HUE],
        [10, WARM_HUE],
      ]) {
        const wanted = turnToward(h, to, 30);
        if (steps[n].c > 0.02) expect(apart(steps[n].h, wanted)).toBeLessThan(2);
        expect(apart(steps[n].h, to)).toBeLessThanOrEqual(apart(h, to) + 2);
      }
    }
  });

  test('it does not turn past them; no turn and no amount leave hue and colour as they are', () => {
    expect(turnToward(260, COOL_HUE, 40)).toBe(265);
    expect(turnToward(350, COOL_HUE, 30)).toBe(320);
    expect(turnToward(10, WARM_HUE, 30)).toBe(40);
    const plain = toneSteps([0.6, 0.3, 0.2], { turn: 0, amount: 0.6 }).map(toLch);
    for (const { h, c } of plain) if (c > 0.02) expect(apart(h, plain[5].h)).toBeLessThan(1);
    for (const step of toneSteps([0.6, 0.3, 0.2], { turn: 0, amount: 0 }))
      step.forEach((v, k) => expect(v).toBeCloseTo([0.6, 0.3, 0.2][k], 4));
  });

  test('greys become cool in the shadow and warm in the light', () => {
    const steps = toneSteps([0.5, 0.5, 0.5], { turn: 60, amount: 0.6 });
    expect(steps[0][2]).toBeGreaterThan(steps[0][0]);
    expect(steps[10][0]).toBeGreaterThan(steps[10][2]);
  });
});
