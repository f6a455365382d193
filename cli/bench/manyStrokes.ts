/**
 * A thousand strokes at 4096², as the engine has them: resident bytes beside what may be held: the painted tiles, the budget
 * for undo, and what the process had before. In a process of its own, which is given time to let go.
 */
import { shareMemory } from '../../src/core/compute';
import type { Edit } from '../../src/core/document/edits';
import { newPaintedLayer, newSheet } from '../../src/core/document/factory';
import { brushSchema } from '../../src/core/hand/brush';
import type { FlatSample } from '../../src/core/hand/sample';
import { Stroke } from '../../src/core/hand/stroke';
import { seededRandom } from '../../src/core/testing/models';
import { TileStore } from '../../src/core/tile/tiles';
import { History, HISTORY_BUDGET_BYTES } from '../../src/engine/changes/history';
import type { Remote } from '../../src/engine/remote';

const STROKES = 1000;
const SIDE = 4096;

// What was let go rests for a second before it is used again: strokes come one after the other here, by hand every half second.
const STROKE_MS = 500;
let clock = 0;
shareMemory(() => clock);
const collect = (globalThis as unknown as { gc: () => void }).gc;
const rest = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const sheet = newSheet('s', 'Canvas', SIDE, SIDE);
sheet.layers = [newPaintedLayer('l', 'Hand')];
const store = new TileStore();
const history = new History('p', [], 0, {} as Remote, store);
const write = { on: true, value: [0.4], amount: 1 };
const brush = brushSchema.parse({
  ...{ size: 64, sizeUnit: 'texel', vary: [] },
  writes: { 'base-colour': { on: true, value: [0.8, 0.4, 0.1], amount: 1 }, roughness: write, height: write },
});
const random = seededRandom(5);
/** What the process takes by itself, once it has stroked a little. */
let before = 0;
const WARM = 30;
for (let n = 0; n < STROKES; n++) {
  if (n === WARM) {
    collect();
    before = process.memoryUsage().rss - store.bytes();
  }
  const stroke = new Stroke({ sheet, layerId: 'l', store, surface: null, seed: n }, brush);
  let [x, y, turn] = [random() * SIDE, random() * SIDE, random() * 7];
  for (let i = 0; i < 40; i++) {
    turn += random() - 0.5;
    [x, y] = [x + 16 * Math.cos(turn), y + 16 * Math.sin(turn)];
    const sample: FlatSample = { pane: 'flat', x, y, texelsPerPixel: 1, pressure: 1, tiltX: 0, tiltY: 0, time: i * 8 };
    stroke.add([sample]);
    if (i % 4 === 3) stroke.flush();
  }
  stroke.end();
  stroke.flush();
  const changes = stroke.changes();
  // As if they were kept at once: what the server has may be let go.
  for (const { after } of changes) if (after) after.hash = `${n}`;
  history.push(`${n}`, 'Stroke', {} as Edit, changes);
  clock += STROKE_MS;
  // Pens are lifted between strokes.
  if (n % 10 === 9) await rest(20);
}
for (let n = 0; n < 4; n++) {
  collect();
  await rest(50);
}
const { rss } = process.memoryUsage();
process.stdout.write(JSON.stringify({ rss, allowed: before + store.bytes() + HISTORY_BUDGET_BYTES }));
