import { converter } from 'culori';
import { composite, SEPARABLE, SEPARABLE_BLENDS, WHOLE, type BlendId, type SeparableBlend } from '../colour/blend';
import { linearToOklab, oklabToLinear } from '../colour/oklab';
import { toLch } from '../colour/oklch';
import { seededRandom } from '../testing/models';
import {
  fastLinear,
  fastSrgb,
  hexToSrgb,
  LINEAR_OF_SRGB8,
  linearToSrgb,
  linearToSrgb8,
  srgbToHex,
  srgbToLinear,
} from '../colour/transfer';

/** The formulas once more, written straight from the W3C text (Compositing and Blending Level 1, section 10). */
const w3c: Partial<Record<BlendId, (cb: number, cs: number) => number>> = {
  normal: (_cb, cs) => cs,
  multiply: (cb, cs) => cb * cs,
  screen: (cb, cs) => 1 - (1 - cb) * (1 - cs),
  overlay: (cb, cs) => hardLight(cs, cb),
  darken: (cb, cs) => (cb < cs ? cb : cs),
  lighten: (cb, cs) => (cb < cs ? cs : cb),
  'colour-dodge': (cb, cs) => (cb === 0 ? 0 : cs === 1 ? 1 : Math.min(1, cb / (1 - cs))),
  'colour-burn': (cb, cs) => (cb === 1 ? 1 : cs === 0 ? 0 : 1 - Math.min(1, (1 - cb) / cs)),
  'hard-light': (cb, cs) => hardLight(cb, cs),
  'soft-light': (cb, cs) => {
    const d = cb <= 0.25 ? ((16 * cb - 12) * cb + 4) * cb : Math.sqrt(cb);
    return cs <= 0.5 ? cb - (1 - 2 * cs) * cb * (1 - cb) : cb + (2 * cs - 1) * (d - cb);
  },
  difference: (cb, cs) => Math.abs(cb - cs),
  exclusion: (cb, cs) => cb + cs - 2 * cb * cs,
};
function hardLight(cb: number, cs: number): number {
  return cs <= 0.5 ? w3c.multiply!(cb, 2 * cs) : w3c.screen!(cb, 2 * cs - 1);
}

type Rgb = [number, number, number];
const Lum = (c: Rgb) => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
function ClipColor(c: Rgb): Rgb {
  const [l, n, x] = [Lum(c), Math.min(...c), Math.max(...c)];
  let out = c;
  if (n < 0) out = out.map((v) => l + ((v - l) * l) / (l - n)) as Rgb;
  if (x > 1) out = out.map((v) => l + ((v - l) * (1 - l)) / (x - l)) as Rgb;
  return out;
}
const SetLum = (c: Rgb, l: number) => ClipColor(c.map((v) => v + l - Lum(c)) as Rgb);
const Sat = (c: Rgb) => Math.max(...c) - Math.min(...c);
/** As the text has it: sort the channels, then set the least, the middle and the greatest. */
function SetSat(c: Rgb, s: number): Rgb {
  const order = [0, 1, 2].toSorted((i, j) => c[i] - c[j]);
  const out: Rgb = [0, 0, 0];
  const [min, mid, max] = order;
  if (c[max] > c[min]) {
    out[mid] = ((c[mid] - c[min]) * s) / (c[max] - c[min]);
    out[max] = s;
  }
  return out;
}
const whole: Partial<Record<BlendId, (cb: Rgb, cs: Rgb) => Rgb>> = {
  hue: (cb, cs) => SetLum(SetSat(cs, Sat(cb)), Lum(cb)),
  saturation: (cb, cs) => SetLum(SetSat(cb, Sat(cs)), Lum(cb)),
  colour: (cb, cs) => SetLum(cs, Lum(cb)),
  luminosity: (cb, cs) => SetLum(cb, Lum(cs)),
};

const steps = [0, 0.1, 0.25, 0.3, 0.5, 0.55, 0.75, 0.9, 1];

describe('blend modes', () => {
  test.each(Object.keys(w3c) as SeparableBlend[])('%s equals the formula of the W3C text', (id) => {
    for (const b of steps) for (const s of steps) expect(SEPARABLE[id](b, s)).toBeCloseTo(w3c[id]!(b, s), 12);
  });

  test.each(Object.keys(whole) as (keyof typeof WHOLE)[])('%s equals the formula of the W3C text', (id) => {
    const random = seededRandom(4);
    for (let n = 0; n < 500; n++) {
      const [cb, cs] = [0, 1].map(() => [random(), random(), n % 7 === 0 ? 0 : random()] as Rgb);
      const out = [0, 0, 0];
      WHOLE[id](cb, cs, out);
      whole[id]!(cb, cs).forEach((v, k) => expect(out[k]).toBeCloseTo(v, 10));
    }
  });

  test('the offset moves height by what lies over one half; add, subtract, divide and linear burn end at the range', () => {
    expect(SEPARABLE.offset(0.4, 0.62)).toBeCloseTo(0.52, 12);
    expect(SEPARABLE.offset(0.4, 0.5)).toBe(0.4);
    expect([SEPARABLE.add(0.7, 0.6), SEPARABLE.subtract(0.3, 0.6), SEPARABLE['linear-burn'](0.3, 0.6)]).toEqual([1, 0, 0]);
    expect([SEPARABLE.divide(0.2, 0.4), SEPARABLE.divide(0.4, 0.2), SEPARABLE.divide(0, 0)]).toEqual([0.5, 1, 0]);
  });

  test('reoriented: a flat detail changes nothing, on a flat base the detail is what shows, and lengths stay 1', () => {
    const flat = [0.5, 0.5, 1];
    const random = seededRandom(9);
    const out = [0, 0, 0];
    for (let n = 0; n < 50; n++) {
      const v = [random() - 0.5, random() - 0.5, 0.6 + random()];
      const l = Math.hypot(...v);
      const tilted = v.map((x) => (x / l) * 0.5 + 0.5);
      WHOLE.reorient(tilted, flat, out);
      tilted.forEach((x, k) => expect(out[k]).toBeCloseTo(x, 6));
      WHOLE.reorient(flat, tilted, out);
      tilted.forEach((x, k) => expect(out[k]).toBeCloseTo(x, 6));
    }
  });

  test('compositing with partial alpha follows co·αo of section 5.1 and 10', () => {
    for (const id of SEPARABLE_BLENDS)
      for (const ab of [0, 0.3, 1])
        for (const as of [0, 0.4, 1]) {
          const [cb, cs] = [0.7, 0.6];
          const [co, ao] = composite(id, [cb], ab, [cs], as);
          expect(ao).toBeCloseTo(as + ab - as * ab, 12);
          // Cs' = (1 − αb)·Cs + αb·B(Cb, Cs), then source-over.
          const blended = (1 - ab) * cs + ab * SEPARABLE[id](cb, cs);
          expect(co * ao).toBeCloseTo(as * blended + (1 - as) * ab * cb, 12);
        }
  });

  test('two transparent layers stay transparent without dividing by zero', () => {
    expect(composite('overlay', [0.3], 0, [0.9], 0)).toEqual([0, 0]);
  });
});

describe('OKLab', () => {
  test('agrees with an independent implementation, there and back', () => {
    const random = seededRandom(3);
    const lab = { l: 0, a: 0, b: 0 };
    const back = [0, 0, 0];
    const toOklab = converter('oklab');
    for (let n = 0; n < 200; n++) {
      const [r, g, b] = [random(), random(), random()];
      linearToOklab(r, g, b, lab);
      const known = toOklab({ mode: 'lrgb', r, g, b });
      expect(lab.l).toBeCloseTo(known.l, 5);
      expect(lab.a).toBeCloseTo(known.a, 5);
      expect(lab.b).toBeCloseTo(known.b, 5);
      oklabToLinear(lab, back);
      [r, g, b].forEach((v, k) => expect(back[k]).toBeCloseTo(v, 5));
    }
  });
});

describe('the sRGB curve', () => {
  test('every 8-bit code comes back from linear light, directly and through the table', () => {
    for (let code = 0; code < 256; code++) {
      expect(Math.round(linearToSrgb(srgbToLinear(code / 255)) * 255)).toBe(code);
      expect(linearToSrgb8(LINEAR_OF_SRGB8[code])).toBe(code);
    }
  });

  test('every 16-bit code comes back from linear light', () => {
    for (let code = 0; code < 65536; code++) expect(Math.round(linearToSrgb(srgbToLinear(code / 65535)) * 65535)).toBe(code);
  });

  test('known values: middle grey 0.5 is 0.2140 in light, and the toe is straight', () => {
    expect(srgbToLinear(0.5)).toBeCloseTo(0.21404, 5);
    expect(srgbToLinear(0.04)).toBeCloseTo(0.04 / 12.92, 12);
  });

  test('hex codes go back and forth', () => {
    for (const hex of ['#000000', '#ffffff', '#b87333', '#0102fe']) expect(srgbToHex(hexToSrgb(hex))).toBe(hex);
  });

  test('the tables for whole pictures agree with the curve within a twentieth of a 16-bit step', () => {
    for (let n = 0; n <= 20000; n++) {
      const v = (n / 20000) ** 2;
      expect(Math.abs(fastLinear(v) - srgbToLinear(v))).toBeLessThan(0.05 / 65535);
      expect(Math.abs(fastSrgb(v) - linearToSrgb(v))).toBeLessThan(0.05 / 65535);
    }
    for (let code = 0; code < 65536; code++) expect(Math.round(fastSrgb(fastLinear(code / 65535)) * 65535)).toBe(code);
  });
});

test('a call that mixes up colour spaces does not compile', () => {
  const [red] = hexToSrgb('#ff8040');
  const light = srgbToLinear(red);
  expect(linearToSrgb(light)).toBeCloseTo(1, 6);
  const lab = { l: 0, a: 0, b: 0 };
  // @ts-expect-error Linear already.
  srgbToLinear(light);
  // @ts-expect-error Encoded already.
  linearToSrgb(red);
  // @ts-expect-error OKLab is computed from light.
  linearToOklab(red, red, red, lab);
  // @ts-expect-error Hues are told of encoded colours.
  toLch([light, light, light]);
  // @ts-expect-error Codes are encoded.
  srgbToHex([light, light, light]);
});
