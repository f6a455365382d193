/**
 * Palettes: colours out of a picture by clustering in OKLab, their order, and files of them. Clustering is k-means (Lloyd 1982)
 * from k-means++ (Arthur and Vassilvitskii 2007) over a histogram: the same picture gives the same colours, in whatever order
 * its pixels come.
 */
import { issueInWords } from '../issue';
import { z } from 'zod';
import { linearToOklab, oklabToLinear, type Lab } from './oklab';
import { toLch } from './oklch';
import { hexToSrgb, LINEAR_OF_SRGB8, linearToSrgb, srgbToHex, srgbToLinear } from './transfer';

export const MOST_COLOURS = 256;
export const MOST_CLUSTERS = 32;

const hexSchema = z.string().regex(/^#[0-9a-f]{6}$/, 'a colour is written as #rrggbb');
export const swatchSchema = z.object({
  colour: hexSchema,
  /** Its share of the picture that it came from. */
  weight: z.number().min(0).max(1).optional(),
});
export type Swatch = z.infer<typeof swatchSchema>;

/** Bits of each channel of the histogram's bins. */
const BITS = 5;
const BINS = 1 << (3 * BITS);
const ROUNDS = 24;

function random(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Colours that are there, four numbers each: L, a, b and how much of it there is. */
function bins(pixels: ArrayLike<number>): Float64Array {
  const count = new Float64Array(BINS);
  const sums = new Float64Array(BINS * 3);
  const shift = 8 - BITS;
  for (let o = 0; o < pixels.length; o += 4) {
    const alpha = pixels[o + 3];
    if (alpha === 0) continue;
    const r = pixels[o];
    const g = pixels[o + 1];
    const b = pixels[o + 2];
    const bin = ((r >> shift) << (2 * BITS)) | ((g >> shift) << BITS) | (b >> shift);
    count[bin] += alpha;
    sums[bin * 3] += LINEAR_OF_SRGB8[r] * alpha;
    sums[bin * 3 + 1] += LINEAR_OF_SRGB8[g] * alpha;
    sums[bin * 3 + 2] += LINEAR_OF_SRGB8[b] * alpha;
  }
  const out: number[] = [];
  const lab: Lab = { l: 0, a: 0, b: 0 };
  for (let bin = 0; bin < BINS; bin++) {
    const n = count[bin];
    if (n === 0) continue;
    linearToOklab(sums[bin * 3] / n, sums[bin * 3 + 1] / n, sums[bin * 3 + 2] / n, lab);
    out.push(lab.l, lab.a, lab.b, n);
  }
  return Float64Array.from(out);
}

const apart = (a: ArrayLike<number>, i: number, b: ArrayLike<number>, k: number): number =>
  (a[i] - b[k]) ** 2 + (a[i + 1] - b[k + 1]) ** 2 + (a[i + 2] - b[k + 2]) ** 2;

/** First middles, far from each other, by chance from the seed. */
function firstMiddles(points: Float64Array, k: number, seed: number): Float64Array {
  const chance = random(seed);
  const middles = new Float64Array(k * 3);
  const nearest = new Float64Array(points.length / 4).fill(Infinity);
  let sum = 0;
  for (let i = 3; i < points.length; i += 4) sum += points[i];
  let weights = (i: number) => points[i * 4 + 3];
  for (let m = 0; m < k; m++) {
    let left = chance() * sum;
    let chosen = 0;
    for (let i = 0; i < nearest.length; i++) {
      left -= weights(i);
      if (weights(i) > 0) chosen = i;
      if (left <= 0 && weights(i) > 0) break;
    }
    middles.set(points.subarray(chosen * 4, chosen * 4 + 3), m * 3);
    sum = 0;
    for (let i = 0; i < nearest.length; i++) {
      nearest[i] = Math.min(nearest[i], apart(points, i * 4, middles, m * 3));
      sum += nearest[i] * points[i * 4 + 3];
    }
    weights = (i) => nearest[i] * points[i * 4 + 3];
    if (sum === 0) return middles.slice(0, (m + 1) * 3);
  }
  return middles;
}

/**
 * So many colours out of a picture (RGBA, 8 bits, sRGB), those of which there is most first; fewer where it has fewer. What is
 * see-through counts as much as it covers.
 */
export function coloursOf(pixels: ArrayLike<number>, k: number, seed = 1): Swatch[] {
  const points = bins(pixels);
  if (points.length === 0) return [];
  const middles = firstMiddles(points, Math.min(MOST_CLUSTERS, Math.max(1, k)), seed);
  const count = middles.length / 3;
  const weight = new Float64Array(count);
  const sums = new Float64Array(count * 3);
  for (let round = 0; round < ROUNDS; round++) {
    weight.fill(0);
    sums.fill(0);
    for (let i = 0; i < points.length; i += 4) {
      let [best, least] = [0, Infinity];
      for (let m = 0; m < count; m++) {
        const d = apart(points, i, middles, m * 3);
        if (d < least) [best, least] = [m, d];
      }
      weight[best] += points[i + 3];
      for (let c = 0; c < 3; c++) sums[best * 3 + c] += points[i + c] * points[i + 3];
    }
    let moved = 0;
    for (let m = 0; m < count; m++)
      if (weight[m] > 0)
        for (let c = 0; c < 3; c++) {
          const next = sums[m * 3 + c] / weight[m];
          moved = Math.max(moved, Math.abs(next - middles[m * 3 + c]));
          middles[m * 3 + c] = next;
        }
    if (moved < 1e-6) break;
  }
  const all = weight.reduce((a, b) => a + b, 0);
  const rgb = [0, 0, 0];
  return [...weight.keys()]
    .filter((m) => weight[m] > 0)
    .map((m): Swatch => {
      oklabToLinear({ l: middles[m * 3], a: middles[m * 3 + 1], b: middles[m * 3 + 2] }, rgb);
      return { colour: srgbToHex(rgb.map((v) => linearToSrgb(Math.min(1, Math.max(0, v))))), weight: weight[m] / all };
    })
    .sort((a, b) => b.weight! - a.weight! || (a.colour < b.colour ? -1 : 1));
}

export type PaletteOrder = 'lightness' | 'hue' | 'weight';

/** Greys come first where colours go by hue. */
export function sortedSwatches(swatches: readonly Swatch[], by: PaletteOrder): Swatch[] {
  const keyed = swatches.map((swatch) => ({ swatch, lch: toLch(hexToSrgb(swatch.colour)) }));
  const order = {
    lightness: (a: (typeof keyed)[0], b: (typeof keyed)[0]) => a.lch.l - b.lch.l,
    hue: (a: (typeof keyed)[0], b: (typeof keyed)[0]) => {
      const [ga, gb] = [a.lch.c < 0.02, b.lch.c < 0.02];
      return ga === gb ? (ga ? a.lch.l - b.lch.l : a.lch.h - b.lch.h) : ga ? -1 : 1;
    },
    weight: (a: (typeof keyed)[0], b: (typeof keyed)[0]) => (b.swatch.weight ?? 0) - (a.swatch.weight ?? 0),
  }[by];
  return keyed.sort(order).map(({ swatch }) => swatch);
}

/** Finds the colour of a palette that looks most like one, by distance in OKLab; of equals the first. */
export class PaletteMatch {
  /** Three numbers each, the sRGB curve in 16 bits. */
  readonly colours: Uint16Array;
  private readonly labs: Float64Array;
  private readonly known = new Map<number, number>();

  /** `palette`: #rrggbb, at least one. */
  constructor(palette: readonly string[]) {
    this.colours = Uint16Array.from(palette.flatMap(hexToSrgb), (v) => Math.round(v * 65535));
    this.labs = Float64Array.from(
      palette.flatMap((_, n) => labOf(this.colours[n * 3], this.colours[n * 3 + 1], this.colours[n * 3 + 2])),
    );
  }

  /** Of a colour in 16 bits of the sRGB curve: which it is. */
  nearest(r: number, g: number, b: number): number {
    const key = (r * 65536 + g) * 65536 + b;
    const known = this.known.get(key);
    if (known !== undefined) return known;
    const wanted = labOf(r, g, b);
    let [best, least] = [0, Infinity];
    for (let n = 0; n * 3 < this.labs.length; n++) {
      const d = apart(this.labs, n * 3, wanted, 0);
      if (d < least) [best, least] = [n, d];
    }
    if (this.known.size >= MOST_KNOWN) this.known.clear();
    this.known.set(key, best);
    return best;
  }
}
const MOST_KNOWN = 65536;

function labOf(r: number, g: number, b: number): [number, number, number] {
  const lab: Lab = { l: 0, a: 0, b: 0 };
  linearToOklab(srgbToLinear(r / 65535), srgbToLinear(g / 65535), srgbToLinear(b / 65535), lab);
  return [lab.l, lab.a, lab.b];
}

// ── Files ──────────────────────────────────────────────────────────────────────────────────────────────────

export const PALETTE_FORMATS = ['hex', 'json', 'css'] as const;
export type PaletteFormat = (typeof PALETTE_FORMATS)[number];

const fileSchema = z.object({
  format: z.literal('brindle-palette'),
  version: z.literal(1),
  name: z.string().trim().min(1).max(120),
  colours: z.array(swatchSchema).min(1).max(MOST_COLOURS),
});

/** A name as a custom property of CSS may have it. */
const cssName = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '') || 'colour';

/** `hex`: a colour a line. `css`: custom properties (CSS Custom Properties Level 1). */
export function writePalette(name: string, swatches: readonly Swatch[], format: PaletteFormat): string {
  if (format === 'hex') return `${swatches.map((s) => s.colour).join('\n')}\n`;
  if (format === 'css') return `:root {\n${swatches.map((s, n) => `  --${cssName(name)}-${n + 1}: ${s.colour};\n`).join('')}}\n`;
  return `${JSON.stringify({ format: 'brindle-palette', version: 1, name, colours: swatches }, null, 1)}\n`;
}

export type ReadPalette = { ok: true; name: string | null; swatches: Swatch[] } | { ok: false; message: string };

/** Reads all that is written here, and any text in which colours stand as #rgb or #rrggbb. Never throws. */
export function readPalette(text: string): ReadPalette {
  const start = text.trimStart();
  if (start.startsWith('{') || start.startsWith('[')) {
    try {
      const json: unknown = JSON.parse(text);
      if (!Array.isArray(json)) {
        const read = fileSchema.safeParse(json);
        if (read.success) return { ok: true, name: read.data.name, swatches: read.data.colours };
        return { ok: false, message: `This is no palette of Brindle: ${issueInWords(read.error)}.` };
      }
    } catch {
      return { ok: false, message: 'This palette cannot be read: it begins as JSON and is none.' };
    }
  }
  const found = [...text.matchAll(/#([0-9a-f]{6}|[0-9a-f]{3})(?![0-9a-f])/gi)].map(([, digits]) => {
    const long = digits.length === 3 ? [...digits].map((d) => d + d).join('') : digits;
    return `#${long.toLowerCase()}`;
  });
  // Lists of plain digits, a colour a line.
  const bare = found.length > 0 ? [] : text.split(/[\s,;]+/).filter((w) => /^[0-9a-f]{6}$/i.test(w));
  const colours = [...found, ...bare.map((w) => `#${w.toLowerCase()}`)];
  if (colours.length === 0) return { ok: false, message: 'There is no colour in this file: colours are written as #rrggbb.' };
  if (colours.length > MOST_COLOURS)
    return { ok: false, message: `This file has ${colours.length} colours: a palette holds up to ${MOST_COLOURS}.` };
  return { ok: true, name: null, swatches: colours.map((colour) => ({ colour })) };
}
