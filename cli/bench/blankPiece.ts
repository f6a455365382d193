/** Opens a blank 4096² canvas with a number of empty layers, draws all of it once, prints the resident bytes. */
import { newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { TileStore } from '../../src/core/tile/tiles';
import { Renderer } from '../../src/engine/show/renderer';

const count = Number(process.argv[2]);
const sheet = newSheet('s', 'Canvas', 4096, 4096);
sheet.layers = Array.from({ length: count }, (_, i) => newPaintedLayer(`l${i}`, `Layer ${i}`));
const piece = newPiece('p', 'Blank', 'canvas', [sheet]);
const store = new TileStore();
const renderer = new Renderer(store);
renderer.renderAll(piece, () => undefined);
(globalThis as unknown as { gc: () => void }).gc();
process.stdout.write(String(process.memoryUsage().rss + store.bytes()));
