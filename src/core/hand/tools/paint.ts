/**
 * Paint: the brush's values over what was there. Source-over with straight alpha (W3C Compositing, 5.1) in the map's
 * stored encoding; 16-bit in, 16-bit out. Always computed from the tile as it was when the stroke began. With a blend
 * mode the brush blends with the layer's own paint, as layers do (10); behind: only where that does not cover (9, Porter
 * and Duff's destination over).
 */
import { BLEND_LABELS, SEPARABLE, SEPARABLE_BLENDS, type SeparableBlend } from '../../colour/blend';
import { kernels } from '../../kernels';
import { TILE, TILE_TEXELS } from '../../tile/tiles';
import type { Patch, ToolDef } from './tool';

const BEHIND = 'behind';

export const paint: ToolDef = {
  type: 'paint',
  usesWell: true,
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
        const v = own === null ? value[c] : own[c * TILE_TEXELS + i];
        const both = Math.min(1, Math.max(0, mode(b, v)));
        after[o + c] = ((v * as * (1 - ab) + b * ab * (1 - as) + both * as * ab) / ao) * 65535 + 0.5;
      }
      after[o + colours] = ao * 65535 + 0.5;
    }
}

const layPatch = (patch: Patch): void => kernels().paintOver(patch, patch);
