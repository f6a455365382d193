/** Thirty painted layers at 4096², a tenth of their tiles painted on five maps, drawn once: resident bytes, and what was painted. */
import { newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { storedChannels, type MapId } from '../../src/core/kinds/maps';
import { planeKey } from '../../src/core/document/planes';
import { newTexels, TILE_TEXELS, tilesOf, TileStore } from '../../src/core/tile/tiles';
import { Renderer } from '../../src/engine/show/renderer';

const maps: MapId[] = ['base-colour', 'height', 'roughness', 'metallic', 'occlusion'];
const sheet = newSheet('s', 'Canvas', 4096, 4096, { maps });
sheet.layers = Array.from({ length: 30 }, (_, i) => newPaintedLayer(`l${i}`, `Layer ${i}`, maps));
const store = new TileStore();
let n = 0;
for (const layer of sheet.layers)
  for (const tile of tilesOf(4096, 4096)) {
    if (++n % 10 !== 0) continue;
    for (const map of maps) {
      const data = newTexels(TILE_TEXELS * storedChannels(map));
      data.fill(20000 + (n % 30000));
      store.set(planeKey(layer.id, map), tile, { data, hash: null });
    }
  }
const piece = newPiece('p', 'Painted', 'canvas', [sheet]);
const renderer = new Renderer(store);
renderer.renderAll(piece, () => undefined);
(globalThis as unknown as { gc: () => void }).gc();
process.stdout.write(
  JSON.stringify({ rss: process.memoryUsage().rss, allowed: store.bytes() + renderer.planes.cache.budgetBytes }),
);
