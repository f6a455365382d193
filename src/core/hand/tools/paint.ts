/**
 * Paint: the brush's values over what was there. Source-over with straight alpha (W3C Compositing, 5.1) in the map's
 * stored encoding; 16-bit in, 16-bit out. Always computed from the tile as it was when the stroke began. With a blend
 * mode the brush blends with the layer's own paint, as layers do (10); behind: only where that does not cover (9, Porter
 * and Duff's destination over).
 */
import { BLEND_LABELS, SEPARABLE, SEPARABLE_BLENDS, type SeparableBlend } from '../../colour/blend';
import { TILE } from '../../tile/tiles';
import type { Patch, ToolDef } from './tool';

const BEHIND = 'behind';

export const paint: ToolDef = {
  type: 'paint',
  label: 'Paint',
  hint: 'Lays colour and values down.',
  controls: [
    {
      kind: 'choice',
      key: 'blend',
      label: 'Blend',
      options: [
        { value: 'normal', label: BLEND_LABELS.normal },
        { value: BEHIND, label: 'Behind' },
        ...SEPARABLE_BLENDS.filter((id) => id !== 'normal').map((value) => ({ value, label: BLEND_LABELS[value] })),
      ],
    },
  ],
  start: { blend: 'normal' },
  begin: ({ settings: { blend } }) => {
    if (blend === BEHIND) return { flush: (patch) => blendPatch(patch, (b) => b) };
    const mode = SEPARABLE[blend as SeparableBlend] as (typeof SEPARABLE)[SeparableBlend] | undefined;
    return { flush: mode && blend !== 'normal' ? (patch) => blendPatch(patch, mode) : layPatch };
  },
};

/** `mode`: what the brush makes of the paint that is there, both 0 … 1. */
function blendPatch(patch: Patch, mode: (backdrop: number, source: number) => number): void {
  const { coverage, before, after, channels, value, colours: own, amount, x0, y0, x1, y1 } = patch;
  const colours = channels - 1;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const i = y * TILE + x;
      const as = coverage[i] * amount;
      if (as <= 0) continue;
      const o = i * channels;
      const ab = before === null ? 0 : before[o + colours] / 65535;
      const ao = as + ab * (1 - as);
      for (let c = 0; c < colours; c++) {
        const b = before === null ? 0 : before[o + c] / 65535;
        const v = own === null ? value[c] : own[i * 3 + c];
        const both = Math.min(1, Math.max(0, mode(b, v)));
        after[o + c] = ((v * as * (1 - ab) + b * ab * (1 - as) + both * as * ab) / ao) * 65535 + 0.5;
      }
      after[o + colours] = ao * 65535 + 0.5;
    }
}

const layPatch = (patch: Patch): void => (patch.before === null && patch.colours === null ? paintBare(patch) : paintPatch(patch));

/** Where there was nothing: the brush's values as they are, and as much of them as the stroke gives. */
function paintBare({ coverage, after, channels, value, amount, x0, y0, x1, y1 }: Patch): void {
  const a = channels - 1;
  const v0 = (value[0] * 65535 + 0.5) | 0;
  const v1 = a === 3 ? (value[1] * 65535 + 0.5) | 0 : 0;
  const v2 = a === 3 ? (value[2] * 65535 + 0.5) | 0 : 0;
  for (let y = y0; y < y1; y++)
    for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
      const as = coverage[i] * amount;
      if (as <= 0) continue;
      const o = i * channels;
      after[o] = v0;
      if (a === 3) {
        after[o + 1] = v1;
        after[o + 2] = v2;
      }
      after[o + a] = (as * 65535 + 0.5) | 0;
    }
}

function paintPatch({ coverage, before, after, channels, value, colours: own, amount, x0, y0, x1, y1 }: Patch): void {
  const colours = channels - 1;
  let v0 = value[0] * 65535;
  let v1 = colours === 3 ? value[1] * 65535 : 0;
  let v2 = colours === 3 ? value[2] * 65535 : 0;
  for (let y = y0; y < y1; y++) {
    for (let x = x0; x < x1; x++) {
      const i = y * TILE + x;
      const as = coverage[i] * amount;
      if (as <= 0) continue;
      const o = i * channels;
      const a = o + colours;
      const ab = before === null ? 0 : before[a] / 65535;
      const ao = as + ab * (1 - as);
      const ws = as / ao;
      const wb = 1 - ws;
      if (own !== null) {
        v0 = own[i * 3] * 65535;
        v1 = own[i * 3 + 1] * 65535;
        v2 = own[i * 3 + 2] * 65535;
      }
      if (before === null) {
        after[o] = v0 + 0.5;
        if (colours === 3) {
          after[o + 1] = v1 + 0.5;
          after[o + 2] = v2 + 0.5;
        }
      } else {
        after[o] = v0 * ws + before[o] * wb + 0.5;
        if (colours === 3) {
          after[o + 1] = v1 * ws + before[o + 1] * wb + 0.5;
          after[o + 2] = v2 * ws + before[o + 2] * wb + 0.5;
        }
      }
      after[a] = ao * 65535 + 0.5;
    }
  }
}
