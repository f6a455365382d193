/** What an eye sees of the demo's models, against rays: 20 seeded views of the lantern and of the tortoise. */
import { modelEasel, brushFor, strokeOn, texelsOf } from '../src/core/testing/hand';
import { seededRandom } from '../src/core/testing/models';
import { pixelOf, sampleAt, viewAround } from '../src/core/testing/views';
import { texelGraphOf } from '../src/core/mesh/texels';
import type { Model } from '../src/core/mesh/model';
import { Sight } from '../src/core/hand/sight';
import { lanternModel } from './lanternModel';
import { tortoiseModel } from './tortoiseModel';

const SIDE = 512;
const VIEWS = 10;

/** Up to two pixels around: of the pane, which are nearly those of the buffer here. */
const AROUND = Array.from({ length: 48 }, (_, n) => {
  const [r, a] = [[0.7, 1.4, 2][n >> 4], (n * Math.PI) / 8];
  return [r * Math.cos(a), r * Math.sin(a)];
});

function directions(seed: number): number[][] {
  const random = seededRandom(seed);
  return Array.from({ length: VIEWS }, () => [random() - 0.5, random() - 0.5, random() - 0.5]);
}

/** Whether a ray from the eye to a place meets something well before it; null: it lies so near that either is right. */
function before(
  query: NonNullable<ReturnType<typeof modelEasel>['surface']>['query'],
  eye: readonly number[],
  place: number[],
): boolean | null {
  const way = place.map((v, k) => v - eye[k]);
  const distance = Math.hypot(...way);
  const hit = query.raycast(eye, way);
  const gap = hit === null ? 0 : 1 - hit.distance / distance;
  return gap > 1e-5 && gap < 4e-5 ? null : gap >= 4e-5;
}

describe.each([
  ['lantern', lanternModel(), 11],
  ['tortoise', tortoiseModel(), 12],
] as [string, Model, number][])('the %s', (_, model, seed) => {
  const easel = modelEasel(model, SIDE);
  const { map, query, islands } = easel.surface!;
  const graph = texelGraphOf(map, query, islands);
  const random = seededRandom(seed);

  test.each(directions(seed).map((d, n) => [n, d] as const))(
    'view %i: what is seen by the buffer is what rays see',
    (n, direction) => {
      const view = viewAround(model, direction, 700, 700);
      const sight = new Sight(map, query, view, { layers: 'front', grazing: 0 });
      let [asked, wrong, seenCount] = [0, 0, 0];
      for (const [index, { position, face, x, y }] of map.tiles) {
        const tile = sight.tile(index);
        for (let i = 0; i < face.length; i++) {
          if (face[i] < 0 || random() > 0.02) continue;
          const t = (y * 128 + (i >> 7)) * SIDE + x * 128 + (i & 127);
          if (!graph.own[t]) continue;
          const place = [0, 1, 2].map((k) => position[i * 3 + k]);
          const o = face[i] * 3;
          const turned = [0, 1, 2].reduce((sum, k) => sum + query.faceNormal[o + k] * (view.eye[k] - place[k]), 0) > 0;
          const seen = (tile?.share[i] ?? 0) > 0;
          if (!turned) {
            expect(seen).toBe(false);
            continue;
          }
          asked++;
          if (seen) seenCount++;
          const covered = before(query, view.eye, place);
          if (covered === null || seen === !covered) continue;
          // Beside an edge, within the stated tolerance, either is right.
          const [px, py] = pixelOf(view, place);
          const distance = Math.hypot(...place.map((v, k) => v - view.eye[k]));
          const near = AROUND.some(([dx, dy]) => {
            const ray = sampleAt(view, px + dx, py + dy);
            const hit = query.raycast(ray.origin, ray.direction);
            const free = hit === null || hit.distance > distance * 0.99;
            return free === seen;
          });
          if (!near) wrong++;
        }
      }
      expect(asked).toBeGreaterThan(100);
      expect(seenCount).toBeGreaterThan(50);
      expect({ n, wrong }).toEqual({ n, wrong: 0 });
    },
  );

  test('a shape gives what its texels, asked one by one, are given: blocks that are taken whole change nothing', () => {
    const view = viewAround(model, directions(seed)[3], 700, 700);
    const sight = new Sight(map, query, view, { layers: 'front', grazing: 0 });
    const disc = (x: number, y: number) => Math.hypot(x - 350, y - 350) - 150;
    const wanted = {
      even: (x: number, y: number, radius: number) => (disc(x, y) > radius + 2 ? 0 : disc(x, y) < -radius - 2 ? 1 : null),
      at: (x: number, y: number) => (disc(x, y) < 0 ? 1 : 0),
    };
    let [both, differ] = [0, 0];
    for (const index of map.tiles.keys()) {
      const out = new Float32Array(128 * 128);
      sight.raise(index, () => out, wanted);
      const tile = sight.tile(index);
      for (let i = 0; i < out.length; i++) {
        const want = tile && tile.share[i] > 0 ? wanted.at(tile.x[i], tile.y[i]) : 0;
        if (want > 0) both++;
        if (want !== out[i]) differ++;
      }
    }
    expect(both).toBeGreaterThan(500);
    // A few texels of thin rims, in thousands.
    expect(differ / both).toBeLessThan(0.003);
  });

  test('an ellipse through the eye covers what lies in it and is seen, its edge within a texel', () => {
    const view = viewAround(model, directions(seed)[1], 700, 700);
    const writes = { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 } };
    const area = { type: 'shape', figure: 'ellipse' };
    const brush = brushFor({ writes, view, area });
    const stroke = strokeOn(easel, brush, [sampleAt(view, 200, 260), sampleAt(view, 500, 440)]);
    const painted = texelsOf(easel, 'base-colour');
    const sight = new Sight(map, query, view, { layers: 'front', grazing: 0 });
    const spread = Math.hypot(...view.matrix.slice(0, 3)) / map.texelsPerMetre;
    let [inside, missing] = [0, 0];
    for (const [index, { x, y }] of map.tiles) {
      const tile = sight.tile(index);
      for (let i = 0; i < 128 * 128; i++) {
        const t = (y * 128 + (i >> 7)) * SIDE + x * 128 + (i & 127);
        const alpha = painted[t * 4 + 3];
        if (!tile || tile.share[i] === 0) continue;
        const k = Math.hypot((tile.x[i] - 350) / 150, (tile.y[i] - 350) / 90);
        // A texel, in pixels, where it is nearest to the eye and square to it: no texel spans more.
        const texel = spread * 1.5;
        const off = (k - 1) * 90;
        if (off > texel / view.matrix[11]) expect(k > 1 + (2 * texel) / 90 ? alpha : 0).toBe(0);
        if (k < 1 - (2 * texel) / 90) {
          inside++;
          if (alpha < 60000) missing++;
        }
      }
    }
    expect(inside).toBeGreaterThan(200);
    // Buffers of other pixels differ at edges that something lies behind.
    expect(missing / inside).toBeLessThan(0.01);
    stroke.cancel();
  });
});
