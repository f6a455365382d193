/**
 * Blend functions B(backdrop, source), per channel, values 0..1 in the map's stored encoding (the sRGB curve
 * for colour, as W3C compositing does). Formulas: W3C Compositing and Blending Level 1, section 10.
 * `add` is ours for height: the source is an offset around 0.5.
 */
export const BLEND_IDS = ['normal', 'multiply', 'screen', 'overlay', 'soft-light', 'add'] as const;
export type BlendId = (typeof BLEND_IDS)[number];

export const BLENDS: Record<BlendId, { label: string; fn: (backdrop: number, source: number) => number }> = {
  normal: { label: 'Normal', fn: (_b, s) => s },
  multiply: { label: 'Multiply', fn: (b, s) => b * s },
  screen: { label: 'Screen', fn: (b, s) => b + s - b * s },
  // overlay(b, s) = hard-light(s, b)
  overlay: { label: 'Overlay', fn: (b, s) => (b <= 0.5 ? 2 * b * s : 1 - 2 * (1 - b) * (1 - s)) },
  'soft-light': { label: 'Soft light', fn: softLight },
  add: { label: 'Add offset', fn: (b, s) => b + s - 0.5 },
};

function softLight(b: number, s: number): number {
  if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
  const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
  return b + (2 * s - 1) * (d - b);
}

/**
 * Source-over with a blend mode, straight alpha (W3C, section 5.1 with 10):
 *   co·αo = cs·αs·(1−αb) + cb·αb·(1−αs) + αs·αb·B(cb, cs),   αo = αs + αb·(1−αs)
 * Returns [co, αo].
 */
export function composite(blend: BlendId, cb: number, ab: number, cs: number, as: number): [number, number] {
  const ao = as + ab * (1 - as);
  if (ao === 0) return [0, 0];
  const mixed = BLENDS[blend].fn(cb, cs);
  return [(cs * as * (1 - ab) + cb * ab * (1 - as) + as * ab * mixed) / ao, ao];
}

/** Blend modes an artist can choose for a layer; `add` belongs to the height map only. */
export const LAYER_BLENDS: readonly BlendId[] = ['normal', 'multiply', 'screen', 'overlay', 'soft-light'];
