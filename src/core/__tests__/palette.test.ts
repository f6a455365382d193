/** Palettes: colours out of pictures, their order, files of them. */
import { differenceEuclidean } from 'culori';
import {
  coloursOf,
  PaletteMatch,
  PALETTE_FORMATS,
  readPalette,
  sortedSwatches,
  writePalette,
  type Swatch,
} from '../colour/palette';
import { hexToSrgb, srgbToHex } from '../colour/transfer';
import { seededRandom } from '../testing/models';

/** Pixels of so many of each colour, with a little noise. */
function pixelsOf(counts: Record<string, number>, noise = 0, seed = 1): Uint8ClampedArray {
  const random = seededRandom(seed);
  const out: number[] = [];
  for (const [hex, n] of Object.entries(counts))
    for (let i = 0; i < n; i++) out.push(...hexToSrgb(hex).map((v) => v * 255 + (random() - 0.5) * noise), 255);
  return Uint8ClampedArray.from(out);
}

test('colours that are there are found, with their shares, those of which there is most first', () => {
  const found = coloursOf(pixelsOf({ '#203040': 600, '#c07030': 300, '#e8e0c8': 100 }), 3);
  expect(found.map((s) => s.colour)).toEqual(['#203040', '#c07030', '#e8e0c8']);
  expect(found.map((s) => Math.round(s.weight! * 100))).toEqual([60, 30, 10]);
});

test('noise around them does not matter much; fewer colours than asked give fewer', () => {
  const found = coloursOf(pixelsOf({ '#203040': 3000, '#c07030': 2000, '#e8e0c8': 1000 }, 16), 3);
  for (const [n, hex] of ['#203040', '#c07030', '#e8e0c8'].entries())
    hexToSrgb(found[n].colour).forEach((v, k) => expect(Math.abs(v - hexToSrgb(hex)[k])).toBeLessThan(0.02));
  expect(coloursOf(pixelsOf({ '#804020': 50 }), 8)).toEqual([{ colour: '#804020', weight: 1 }]);
  expect(coloursOf(new Uint8ClampedArray(64), 4)).toEqual([]);
});

test('the order of pixels does not matter, nor how often it is done', () => {
  const random = seededRandom(8);
  const pixels = Array.from({ length: 4000 }, () => [random() * 255, random() * 255, random() * 255, 255].map(Math.floor));
  const straight = coloursOf(Uint8ClampedArray.from(pixels.flat()), 8, 5);
  const shuffled = coloursOf(Uint8ClampedArray.from(pixels.toSorted((a, b) => a[1] - b[1]).flat()), 8, 5);
  expect(shuffled.map((s) => s.colour)).toEqual(straight.map((s) => s.colour));
  expect(straight).toHaveLength(8);
  expect(straight.reduce((sum, s) => sum + s.weight!, 0)).toBeCloseTo(1, 9);
});

test('by lightness from dark to light; by hue with greys first', () => {
  const swatches: Swatch[] = ['#ffffff', '#ff0000', '#000000', '#00ff00', '#808080', '#0000ff'].map((colour) => ({ colour }));
  expect(sortedSwatches(swatches, 'lightness').map((s) => s.colour)).toEqual([
    '#000000',
    '#0000ff',
    '#808080',
    '#ff0000',
    '#00ff00',
    '#ffffff',
  ]);
  expect(sortedSwatches(swatches, 'hue').map((s) => s.colour)).toEqual([
    '#000000',
    '#808080',
    '#ffffff',
    '#ff0000',
    '#00ff00',
    '#0000ff',
  ]);
});

describe('the nearest colour', () => {
  const of = (hex: string) => hexToSrgb(hex).map((v) => Math.round(v * 65535)) as [number, number, number];
  test('is the nearest to the eye, of equals the first', () => {
    const match = new PaletteMatch(['#00ff00', '#ff0000', '#0000ff', '#ff0000']);
    expect(match.nearest(...of('#fe1010'))).toBe(1);
    expect([...match.colours.slice(3, 6)]).toEqual([65535, 0, 0]);
  });
  test('agrees with culori’s distance in OKLab', () => {
    const random = seededRandom(3);
    const hex = () => srgbToHex([random(), random(), random()]);
    const palette = Array.from({ length: 12 }, hex);
    const match = new PaletteMatch(palette);
    const apart = differenceEuclidean('oklab');
    for (let n = 0; n < 200; n++) {
      const wanted = hex();
      const best = palette.map((c) => apart(c, wanted));
      expect(best[match.nearest(...of(wanted))]).toBeCloseTo(Math.min(...best), 6);
    }
  });
});

describe('files', () => {
  const swatches: Swatch[] = [
    { colour: '#102030', weight: 0.75 },
    { colour: '#a0b0c0', weight: 0.25 },
  ];

  test.each(PALETTE_FORMATS)('%s comes back as it went out', (format) => {
    const read = readPalette(writePalette('Quay at dusk', swatches, format));
    expect(read).toMatchObject({ ok: true, name: format === 'json' ? 'Quay at dusk' : null });
    expect(read.ok && read.swatches.map((s) => s.colour)).toEqual(['#102030', '#a0b0c0']);
    if (format === 'json') expect(read.ok && read.swatches).toEqual(swatches);
  });

  test('short colours, bare digits and lists of JSON are read', () => {
    for (const [text, colours] of [
      ['#fa0 and #00F', ['#ffaa00', '#0000ff']],
      ['102030\nA0B0C0', ['#102030', '#a0b0c0']],
      ['["#102030","#a0b0c0"]', ['#102030', '#a0b0c0']],
    ] as const) {
      const read = readPalette(text);
      expect(read.ok && read.swatches.map((s) => s.colour)).toEqual(colours);
    }
  });

  test.each([
    ['nothing in it', 'hello', /no colour in this file/],
    ['JSON of something else', '{"format":"other"}', /no palette of Brindle/],
    ['broken JSON', '{"format":', /cannot be read/],
    ['too many', Array.from({ length: 300 }, (_, n) => `#${n.toString(16).padStart(6, '0')}`).join(), /300 colours.*up to 256/],
    ['nothing at all', '', /no colour/],
  ])('%s is said in one sentence', (_, text, message) => {
    const read = readPalette(text);
    expect(read.ok).toBe(false);
    expect(read.ok ? '' : read.message).toMatch(message);
  });

  test('anything is read or refused, never thrown', () => {
    const random = seededRandom(3);
    for (let n = 0; n < 300; n++) {
      const text = Array.from({ length: 40 }, () => '#{}[]":,0af \n'[Math.floor(random() * 13)]).join('');
      expect(typeof readPalette(text).ok).toBe('boolean');
    }
  });
});
