import { BLEND_IDS, BLENDS, composite, type BlendId } from '../colour/blend';
import { hexToSrgb, LINEAR_OF_SRGB8, linearToSrgb, linearToSrgb8, srgbToHex, srgbToLinear } from '../colour/transfer';

/** The formulas once more, written straight from the W3C text (Compositing and Blending Level 1, section 10.1). */
const w3c: Record<Exclude<BlendId, 'add'>, (cb: number, cs: number) => number> = {
  normal: (_cb, cs) => cs,
  multiply: (cb, cs) => cb * cs,
  screen: (cb, cs) => 1 - (1 - cb) * (1 - cs),
  overlay: (cb, cs) => hardLight(cs, cb),
  'soft-light': (cb, cs) => {
    const d = cb <= 0.25 ? ((16 * cb - 12) * cb + 4) * cb : Math.sqrt(cb);
    return cs <= 0.5 ? cb - (1 - 2 * cs) * cb * (1 - cb) : cb + (2 * cs - 1) * (d - cb);
  },
};
function hardLight(cb: number, cs: number): number {
  return cs <= 0.5 ? w3c.multiply(cb, 2 * cs) : w3c.screen(cb, 2 * cs - 1);
}

const steps = [0, 0.1, 0.25, 0.3, 0.5, 0.55, 0.75, 0.9, 1];

describe('blend modes', () => {
  test.each(BLEND_IDS.filter((b) => b !== 'add'))('%s equals the formula of the W3C text', (id) => {
    for (const b of steps) for (const s of steps) expect(BLENDS[id].fn(b, s)).toBeCloseTo(w3c[id as keyof typeof w3c](b, s), 12);
  });

  test('add moves height by the offset from one half', () => {
    expect(BLENDS.add.fn(0.4, 0.62)).toBeCloseTo(0.52, 12);
    expect(BLENDS.add.fn(0.4, 0.5)).toBe(0.4);
  });

  test('compositing with partial alpha follows co·αo of section 5.1 and 10', () => {
    for (const id of BLEND_IDS)
      for (const ab of [0, 0.3, 1])
        for (const as of [0, 0.4, 1]) {
          const [cb, cs] = [0.7, 0.2];
          const [co, ao] = composite(id, cb, ab, cs, as);
          expect(ao).toBeCloseTo(as + ab - as * ab, 12);
          // Cs' = (1 − αb)·Cs + αb·B(Cb, Cs), then source-over.
          const blended = (1 - ab) * cs + ab * BLENDS[id].fn(cb, cs);
          expect(co * ao).toBeCloseTo(as * blended + (1 - as) * ab * cb, 12);
        }
  });

  test('two transparent layers stay transparent without dividing by zero', () => {
    expect(composite('overlay', 0.3, 0, 0.9, 0)).toEqual([0, 0]);
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
});
