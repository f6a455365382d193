/**
 * Blend functions B(backdrop, source), values 0..1 in the map's stored encoding (the sRGB curve for colour, as
 * W3C compositing does). Formulas: W3C Compositing and Blending Level 1, section 10, where it has the mode;
 * the others say theirs. `src/kernels/assembly/blend.ts` has the same formulas in SIMD: keep the order of
 * `SEPARABLE_BLENDS`, its index is the mode's number there.
 */
export const SEPARABLE_BLENDS = [
  'normal',
  'multiply',
  'screen',
  'overlay',
  'darken',
  'lighten',
  'colour-dodge',
  'colour-burn',
  'hard-light',
  'soft-light',
  'difference',
  'exclusion',
  'add',
  'subtract',
  'divide',
  'linear-burn',
  'offset',
] as const;
export const WHOLE_BLENDS = ['hue', 'saturation', 'colour', 'luminosity', 'reorient'] as const;
export const BLEND_IDS = [...SEPARABLE_BLENDS, ...WHOLE_BLENDS] as const;
export type SeparableBlend = (typeof SEPARABLE_BLENDS)[number];
export type WholeBlend = (typeof WHOLE_BLENDS)[number];
export type BlendId = (typeof BLEND_IDS)[number];

/**
 * Where a formula branches at a backdrop of 0 or 1, what is that but for rounding counts as it: dividing by alpha may leave
 * 0.99999994 of 1, and a burn of it by black would be black instead of white. 2⁻²⁰ is far above the rounding of two divisions in
 * float32 (2⁻²²), and a sixteenth of the smallest step of 16 bits.
 */
export const LIMIT = 2 ** -20;

/** Per channel. Results are clamped to 0..1 by the caller, but for FREE_BLENDS. */
export const SEPARABLE: Record<SeparableBlend, (backdrop: number, source: number) => number> = {
  normal: (_b, s) => s,
  multiply: (b, s) => b * s,
  screen: (b, s) => b + s - b * s,
  // overlay(b, s) = hard-light(s, b)
  overlay: (b, s) => hardLight(s, b),
  darken: (b, s) => Math.min(b, s),
  lighten: (b, s) => Math.max(b, s),
  'colour-dodge': (b, s) => (b <= LIMIT ? 0 : s >= 1 ? 1 : Math.min(1, b / (1 - s))),
  'colour-burn': (b, s) => (b >= 1 - LIMIT ? 1 : s <= 0 ? 0 : 1 - Math.min(1, (1 - b) / s)),
  'hard-light': hardLight,
  'soft-light': softLight,
  difference: (b, s) => Math.abs(b - s),
  exclusion: (b, s) => b + s - 2 * b * s,
  add: (b, s) => Math.min(1, b + s),
  subtract: (b, s) => Math.max(0, b - s),
  /** b / s, with x / 0 = 1 but 0 / 0 = 0. */
  divide: (b, s) => (b <= LIMIT ? 0 : s <= b ? 1 : b / s),
  'linear-burn': (b, s) => Math.max(0, b + s - 1),
  /** For height: the source is an offset around 0.5. */
  offset: (b, s) => b + s - 0.5,
};

function hardLight(b: number, s: number): number {
  return s <= 0.5 ? 2 * b * s : 1 - 2 * (1 - b) * (1 - s);
}

function softLight(b: number, s: number): number {
  if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
  const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
  return b + (2 * s - 1) * (d - b);
}

type Triple = ArrayLike<number>;
type Out = { [index: number]: number };

/** W3C, 10.2: luminosity of encoded RGB. */
export const lum = (c: Triple) => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
const sat = (c: Triple) => Math.max(c[0], c[1], c[2]) - Math.min(c[0], c[1], c[2]);

/** W3C ClipColor(SetLum(c, l)). */
function setLum(c: Triple, l: number, out: Out): void {
  const d = l - lum(c);
  let r = c[0] + d;
  let g = c[1] + d;
  let b = c[2] + d;
  const n = Math.min(r, g, b);
  const x = Math.max(r, g, b);
  if (n < 0) {
    const k = l / (l - n);
    r = l + (r - l) * k;
    g = l + (g - l) * k;
    b = l + (b - l) * k;
  }
  if (x > 1) {
    const k = (1 - l) / (x - l);
    r = l + (r - l) * k;
    g = l + (g - l) * k;
    b = l + (b - l) * k;
  }
  out[0] = r;
  out[1] = g;
  out[2] = b;
}

/** W3C SetSat: the same hue with the saturation `s`. */
function setSat(c: Triple, s: number, out: Out): void {
  const low = Math.min(c[0], c[1], c[2]);
  const span = Math.max(c[0], c[1], c[2]) - low;
  for (let k = 0; k < 3; k++) out[k] = span > 0 ? ((c[k] - low) * s) / span : 0;
}

/**
 * Reoriented normal mapping (Barré-Brisebois and Hill, "Blending in Detail", 2012): turns the detail (source)
 * into the frame of the base (backdrop). Both encoded 0..1; flat is (0.5, 0.5, 1).
 */
function reorient(b: Triple, s: Triple, out: Out): void {
  const tx = b[0] * 2 - 1;
  const ty = b[1] * 2 - 1;
  const tz = b[2] * 2;
  const ux = 1 - s[0] * 2;
  const uy = 1 - s[1] * 2;
  const uz = s[2] * 2 - 1;
  const k = (tx * ux + ty * uy + tz * uz) / Math.max(tz, 1e-6);
  const x = tx * k - ux;
  const y = ty * k - uy;
  const z = tz * k - uz;
  const l = 1 / Math.max(1e-6, Math.sqrt(x * x + y * y + z * z));
  out[0] = x * l * 0.5 + 0.5;
  out[1] = y * l * 0.5 + 0.5;
  out[2] = z * l * 0.5 + 0.5;
}

const scratch = [0, 0, 0];
/** Over all three channels at once. `out` may not be `b` or `s`. */
export const WHOLE: Record<WholeBlend, (b: Triple, s: Triple, out: Out) => void> = {
  hue: (b, s, out) => {
    setSat(s, sat(b), scratch);
    setLum(scratch, lum(b), out);
  },
  saturation: (b, s, out) => {
    setSat(b, sat(s), scratch);
    setLum(scratch, lum(b), out);
  },
  colour: (b, s, out) => setLum(s, lum(b), out),
  luminosity: (b, s, out) => setLum(b, lum(s), out),
  reorient,
};

/** One number's worth of a mode: whole-colour modes take their source on single values. */
export function blendValue(blend: BlendId, b: number, s: number): number {
  return blend in SEPARABLE ? SEPARABLE[blend as SeparableBlend](b, s) : s;
}

export const BLEND_LABELS: Record<BlendId, string> = {
  normal: 'Normal',
  multiply: 'Multiply',
  screen: 'Screen',
  overlay: 'Overlay',
  darken: 'Darken',
  lighten: 'Lighten',
  'colour-dodge': 'Colour dodge',
  'colour-burn': 'Colour burn',
  'hard-light': 'Hard light',
  'soft-light': 'Soft light',
  difference: 'Difference',
  exclusion: 'Exclusion',
  add: 'Add',
  subtract: 'Subtract',
  divide: 'Divide',
  'linear-burn': 'Linear burn',
  offset: 'Add around level',
  hue: 'Hue',
  saturation: 'Saturation',
  colour: 'Colour',
  luminosity: 'Luminosity',
  reorient: 'Reoriented',
};

/** What an artist can choose, in the order and groups of the list. */
export const BLEND_GROUPS: Record<'colour' | 'value' | 'height' | 'normal', readonly (readonly BlendId[])[]> = {
  colour: [
    ['normal'],
    ['multiply', 'darken', 'colour-burn', 'linear-burn', 'subtract'],
    ['screen', 'lighten', 'colour-dodge', 'add', 'divide'],
    ['overlay', 'soft-light', 'hard-light'],
    ['difference', 'exclusion'],
    ['hue', 'saturation', 'colour', 'luminosity'],
  ],
  value: [
    ['normal'],
    ['multiply', 'darken', 'colour-burn', 'linear-burn', 'subtract'],
    ['screen', 'lighten', 'colour-dodge', 'add', 'divide'],
    ['overlay', 'soft-light', 'hard-light'],
    ['difference', 'exclusion'],
  ],
  height: [['offset', 'lighten', 'darken', 'normal', 'multiply', 'screen', 'overlay']],
  normal: [['reorient', 'normal']],
};

/** Names that say more on height than the general ones. */
export const HEIGHT_LABELS: Partial<Record<BlendId, string>> = {
  offset: 'Add',
  lighten: 'Highest (max)',
  darken: 'Lowest (min)',
  normal: 'Replace',
};

/** Heights join by these, and go beyond 0..1 between layers: they are held once, when all have been laid. */
export const FREE_BLENDS: ReadonlySet<BlendId> = new Set<BlendId>(['offset', 'normal', 'lighten', 'darken']);

/**
 * Source-over with a blend mode, straight alpha (W3C, section 5.1 with 10), for one channel or three:
 *   co·αo = cs·αs·(1−αb) + cb·αb·(1−αs) + αs·αb·B(cb, cs),   αo = αs + αb·(1−αs)
 * The oracle for everything faster. Returns [...co, αo].
 */
export function composite(blend: BlendId, cb: readonly number[], ab: number, cs: readonly number[], as: number): number[] {
  const ao = as + ab * (1 - as);
  if (ao === 0) return [...cb.map(() => 0), 0];
  const mixed = [0, 0, 0];
  if (cb.length === 3 && blend in WHOLE) WHOLE[blend as WholeBlend](cb, cs, mixed);
  else cb.forEach((b, k) => (mixed[k] = blendValue(blend, b, cs[k])));
  const out = cb.map((b, k) => (cs[k] * as * (1 - ab) + b * ab * (1 - as) + as * ab * mixed[k]) / ao);
  return [...(cb.length === 1 && FREE_BLENDS.has(blend) ? out : out.map((v) => Math.min(1, Math.max(0, v)))), ao];
}
