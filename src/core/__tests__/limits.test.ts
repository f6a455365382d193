/** Blends at their limits: 0, 1 and the values next to them, in groups, where dividing by alpha leaves rounding behind. */
import '../compute';
import { BLEND_IDS, composite, type BlendId } from '../colour/blend';
import { newGroup, newPaintedLayer, newSheet } from '../document/factory';
import { planeKey } from '../document/planes';
import { Evaluator } from '../strata/evaluator';
import { programOf } from '../strata/program';
import { TILE_TEXELS, TileStore } from '../tile/tiles';

const MOST = 65535;
const VALUES = [0, 1, MOST - 1, MOST];
const GROUND = [0.5, 0.5, 0.5];

/** Alphas of the three layers in a texel: all sorts, among them the largest and the smallest. */
const alphaAt = (i: number, layer: number): number =>
  [1 + ((i * 4) % MOST), 1 + ((i * 2749 + 7) % MOST), MOST - ((i * 31) % 60000)][layer];

function stack(mode: BlendId, below: number, above: number) {
  const layers = ['a', 'b', 'c'].map((id, n) => ({
    ...newPaintedLayer(id, id, ['base-colour']),
    parent: 'g',
    ...(n === 2 ? { blend: mode } : {}),
  }));
  const group = newGroup('g', 'G', ['base-colour']);
  const sheet = newSheet('s', 'S', 128, 128, { layers: [...layers, group] });
  const store = new TileStore();
  layers.forEach(({ id }, n) => {
    const data = new Uint16Array(TILE_TEXELS * 4);
    const v = n === 2 ? above : below;
    for (let i = 0; i < TILE_TEXELS; i++) data.set([v, v, v, alphaAt(i, n)], i * 4);
    store.set(planeKey(id, 'base-colour'), 0, { data, hash: null });
  });
  return { sheet, store };
}

test.each(BLEND_IDS.filter((b) => b !== 'offset' && b !== 'reorient'))('%s', (mode) => {
  let worst = 0;
  for (const below of VALUES)
    for (const above of VALUES) {
      const { sheet, store } = stack(mode, below, above);
      const { data, uniform } = new Evaluator({ sheet, store }).tile(programOf(sheet, 'base-colour'), 0);
      for (let i = 0; i < TILE_TEXELS; i += 3) {
        const [a, b, c] = [0, 1, 2].map((n) => alphaAt(i, n) / MOST);
        // Two soft layers of one colour are that colour, whatever their alphas.
        const [v, s] = [below / MOST, above / MOST];
        const under = a + b - a * b;
        const [x, , , alpha] = composite(mode, [v, v, v], under, [s, s, s], c);
        const wanted = composite('normal', GROUND, 1, [x, x, x], alpha)[0];
        const got = data ? data[i] : uniform![0];
        // One step under white burned by one step over black is (1 − b) / s = 1: rounding b by 2⁻²³ moves it by 0.8 %.
        const steep = mode === 'colour-burn' && below === MOST - 1 && above === 1;
        if (steep) expect(Math.abs(got - wanted)).toBeLessThan(0.008);
        else worst = Math.max(worst, Math.abs(got - wanted));
      }
    }
  // Half a step of 16 bits.
  expect(worst).toBeLessThan(0.5 / MOST);
});
