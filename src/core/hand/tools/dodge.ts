/**
 * Dodge and burn: makes what is there lighter or darker, by how light it is. Each channel goes a share of the way to
 * white (or to black), in the map's stored encoding, as a photographer holds light back from a print or lets more in.
 */
import { lum } from '../../colour/blend';
import { TONE_SHARE, type ToneRange } from '../../colour/ranges';
import { percent } from '../../kinds/control';
import { TILE, TILE_TEXELS } from '../../tile/tiles';
import { laySeen, looks, OF, seenAt, seenOf } from './taking';
import type { Patch, ToolContext, ToolDef } from './tool';

export const dodge: ToolDef = {
  type: 'dodge',
  label: 'Dodge and burn',
  hint: 'Makes what is there lighter or darker.',
  suitedBrush: 'shipped:soft-round',
  controls: [
    {
      kind: 'choice',
      key: 'way',
      label: 'Makes',
      options: [
        { value: 'lighter', label: 'lighter' },
        { value: 'darker', label: 'darker' },
      ],
    },
    {
      kind: 'choice',
      key: 'range',
      label: 'Mostly',
      options: [
        { value: 'all', label: 'all tones' },
        { value: 'shadows', label: 'shadows' },
        { value: 'middle', label: 'midtones' },
        { value: 'lights', label: 'lights' },
      ],
    },
    OF,
    percent('strength', 'Strength', 0.01),
  ],
  start: { way: 'lighter', range: 'all', of: 'layer', strength: 0.3 },
  onPaintOnly: (settings, map) => !looks(settings, map),
  begin: (context) => ({ flush: (patch) => dodgePatch(patch, context) }),
};

function dodgePatch(patch: Patch, { settings, visible, meant }: ToolContext): void {
  const { map, tile, channels, coverage, before, after, amount, x0, y0, x1, y1 } = patch;
  const colours = channels - 1;
  const all = looks(settings, map);
  const seen = all ? visible(seenOf(settings), map, tile) : null;
  const shown = all ? meant(map) : null;
  const joined = shown?.plain ? null : shown;
  joined?.inTile(tile);
  if (!seen && before === null) return;
  const share = TONE_SHARE[settings.range as ToneRange] ?? (() => 1);
  const towards = settings.way === 'darker' ? 0 : 1;
  const strength = Number(settings.strength);
  const c = [0, 0, 0];
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const i = y * TILE + x;
      const as = coverage[i] * amount;
      if (as <= 0) continue;
      const o = i * channels;
      const ab = before === null ? 0 : before[o + colours] / 65535;
      for (let k = 0; k < colours; k++)
        c[k] = seen ? (seen.data ? seen.data[k * TILE_TEXELS + i] : seen.uniform[k]) : before![o + k] / 65535;
      const by = strength * share(colours === 3 ? lum(c) : c[0]);
      if (joined) {
        const now = seenAt(joined, patch, i);
        if (!now) continue;
        for (let k = 0; k < colours; k++) now[k] += (c[k] + (towards - c[k]) * by - now[k]) * as;
        laySeen(joined, patch, i, as);
        continue;
      }
      // The layer's own paint keeps its cover; over what is seen it is laid as paint is (W3C Compositing, 5.1).
      const ao = seen ? as + ab * (1 - as) : ab;
      const ws = seen ? as / ao : as;
      for (let k = 0; k < colours; k++) {
        const changed = (c[k] + (towards - c[k]) * by) * 65535;
        after[o + k] = changed * ws + (before === null ? 0 : before[o + k]) * (1 - ws) + 0.5;
      }
      after[o + colours] = ao * 65535 + 0.5;
    }
}
