/** What an eye sees, in WebAssembly, gives the bits of its twin: every block of the lantern, from many sides, near and far. */
import { seenTwin } from '../src/kernels/seenTwin';
import type { EyeBuffer } from '../src/kernels/seen';
import { shareMemory } from '../src/core/compute';
import { newSheet } from '../src/core/document/factory';
import { Sight } from '../src/core/hand/sight';
import { kernels } from '../src/core/kernels';
import { BLOCK, BLOCKS_PER_SIDE, BLOCKS_PER_TILE } from '../src/core/mesh/surfaceMap/surfaceMap';
import { PieceSurfaces } from '../src/core/strata/pieceSurfaces';
import { seededRandom } from '../src/core/testing/models';
import { viewAround } from '../src/core/testing/views';
import { TILE } from '../src/core/tile/tiles';
import { lanternModel } from './lanternModel';

shareMemory(() => 0);

const eyeOf = (sight: Sight): EyeBuffer => (sight as unknown as { eye: EyeBuffer }).eye;

test('blocks are projected, and taken as wholes, as the twin does it', () => {
  expect(kernels().name).toBe('wasm');
  const model = lanternModel();
  const surface = new PieceSurfaces(model, 0).forSheet(newSheet('s', 'Sheet', 512, 512, { materialIndex: 0 }))!;
  const random = seededRandom(5);
  const found = new Set<number>();
  let [projected, hidden] = [0, 0];
  for (let n = 0; n < 6; n++) {
    const view = viewAround(model, [random() - 0.5, random() - 0.5, random() - 0.5], 300 + n * 90, 400);
    const layers = n === 5 ? 'all' : 'front';
    const [mine, twin] = [0, 1].map(() => eyeOf(new Sight(surface.map, surface.query, view, { layers, grazing: 0 })));
    for (const tile of surface.map.tiles.values())
      for (let b = 0; b < BLOCKS_PER_TILE; b++) {
        const first = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK * TILE + (b % BLOCKS_PER_SIDE) * BLOCK;
        const count = seenTwin.projectBlock(twin, tile, first, n % 2 === 0);
        const own = kernels().projectBlock(mine, tile, first, n % 2 === 0);
        if (own !== count) throw new Error(`block ${b}: ${own} texels, not ${count}`);
        let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
        for (let i = 0; i < count; i++) {
          for (const name of ['texel', 'x', 'y', 'near', 'seen'] as const)
            if (!Object.is(mine[name][i], twin[name][i]))
              throw new Error(`block ${b}, ${name} ${i}: ${mine[name][i]}, not ${twin[name][i]}`);
          [x0, x1] = [Math.min(x0, twin.x[i]), Math.max(x1, twin.x[i])];
          [y0, y1] = [Math.min(y0, twin.y[i]), Math.max(y1, twin.y[i])];
          if (twin.seen[i] === 0) hidden++;
        }
        projected += count;
        if (count === 0 || layers === 'all') continue;
        const whole = seenTwin.wholeBlock(twin, tile, first, x0, y0, x1, y1);
        if (kernels().wholeBlock(mine, tile, first, x0, y0, x1, y1) !== whole) throw new Error(`block ${b} is not ${whole}`);
        found.add(whole);
      }
  }
  // All that can come has come, so that it was compared.
  expect([...found].sort()).toEqual([0, 1, 2]);
  expect(hidden).toBeGreaterThan(1000);
  expect(projected).toBeGreaterThan(10 * hidden ** 0.5);
});
