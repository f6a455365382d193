/** What is sent to the panes, against a display that draws everything anew. */
import '../../../core/colour/blend';
import { newPiece } from '../../../core/document/factory';
import { type Piece, type Sheet } from '../../../core/document/schema';
import { planeKey } from '../../../core/document/planes';
import {
  newTexels,
  TILE,
  TILE_TEXELS,
  tileIndex,
  tilesOf,
  WHOLE_TILE,
  type TileIndex,
  type TileStore,
} from '../../../core/tile/tiles';
import { partsOf, putRows } from '../../../core/tile/mips';
import { renderPlane } from '../../../core/strata/displayPlanes';
import { Evaluator } from '../../../core/strata/evaluator';
import { seededRandom } from '../../../core/testing/models';
import { randomStack } from '../../../core/testing/stacks';
import type { DrawJob } from '../helper';
import { Renderer } from '../renderer';
import type { PixelPatch } from '../../protocol';

const over = { width: 300, height: 260, wrapU: true, wrapV: true };
const pieceOf = (sheet: Sheet): Piece => newPiece('p', 'P', 'canvas', [sheet]);

/** The panes' own copies: every level of every plane, put together from patches. */
class Panes {
  levels = new Map<string, Uint8Array>();

  constructor(private sheet: Sheet) {}

  take(patches: readonly PixelPatch[]): void {
    for (const patch of patches) {
      const { plane, data } = patch;
      const whole = (n: number) => ({
        x: 0,
        y: 0,
        width: Math.max(1, this.sheet.width >> n),
        height: Math.max(1, this.sheet.height >> n),
      });
      // All of the plane has one texel.
      if (patch.first === 0)
        for (let n = 0; n === 0 || Math.max(whole(n - 1).width, whole(n - 1).height) > 1; n++) {
          const level = new Uint8Array(whole(n).width * whole(n).height * 4);
          this.levels.set(
            `${plane} ${n}`,
            level.map((_, i) => data[i % 4]),
          );
        }
      for (const { level: n, rect, texels } of partsOf(patch)) {
        const width = Math.max(1, this.sheet.width >> n);
        const height = Math.max(1, this.sheet.height >> n);
        const key = `${plane} ${n}`;
        const level = this.levels.get(key) ?? new Uint8Array(width * height * 4);
        this.levels.set(key, level);
        putRows(texels, rect.width, rect, { width, data: level });
      }
    }
  }

  /** How many bytes differ, and by how much on the whole. */
  against(other: Panes): { differing: number; mean: number } {
    expect([...this.levels.keys()].sort()).toEqual([...other.levels.keys()].sort());
    let [differing, sum, count] = [0, 0, 0];
    for (const [key, level] of this.levels) {
      const wanted = other.levels.get(key)!;
      for (let i = 0; i < level.length; i++) {
        if (level[i] !== wanted[i]) differing++;
        sum += Math.abs(level[i] - wanted[i]);
      }
      count += level.length;
    }
    return { differing, mean: sum / count };
  }
}

/** Panes in which every level is its own mean all over: what anything that calls itself a picture has to beat. */
function evenCopy(of: Panes, sheet: Sheet): Panes {
  const copy = new Panes(sheet);
  for (const [key, level] of of.levels) {
    const sums = [0, 0, 0, 0];
    level.forEach((v, i) => (sums[i % 4] += v));
    copy.levels.set(
      key,
      level.map((_, i) => sums[i % 4] / (level.length / 4)),
    );
  }
  return copy;
}

function rendererOf(store: TileStore): Renderer {
  const renderer = new Renderer(store);
  renderer.planes.focus = 's';
  return renderer;
}

/** A slice of work that renders everything here, or as `until` has it; nothing is shown coarsely first. */
const slice = ({ renderer, until = () => false }: { renderer: Renderer; until?: () => boolean }): PixelPatch[] =>
  renderer.work({ until, phase: 'live', stroking: true }).patches;

function fromScratch(piece: Piece, store: TileStore): Panes {
  const renderer = rendererOf(store);
  const panes = new Panes(piece.sheets[0]);
  renderer.refresh(piece);
  panes.take(slice({ renderer }));
  expect(renderer.planes.pending).toBe(0);
  return panes;
}

/** Paints all over one tile of a layer, as a stroke that has landed would. */
function repaint(store: TileStore, key: string, tile: TileIndex, channels: number, seed: number): void {
  const random = seededRandom(seed);
  const data = newTexels(TILE_TEXELS * channels);
  for (let i = 0; i < data.length; i++) data[i] = random() * 65535;
  store.set(key, tile, { data, hash: null });
}

describe('drawing for the panes', () => {
  test.each([1, 2, 3, 4])('after edits and strokes everything is as if drawn from scratch (stack %i)', (seed) => {
    const { sheet, store } = randomStack(seed, { over, layers: 7, rules: seed % 2 === 0 });
    const renderer = rendererOf(store);
    const panes = new Panes(sheet);
    const random = seededRandom(seed * 77);
    let piece = pieceOf(sheet);
    const show = () => {
      renderer.refresh(piece);
      // In pieces, as between two messages.
      while (renderer.planes.pending > 0) panes.take(slice({ renderer, until: () => random() < 0.3 }));
    };
    show();
    for (let n = 0; n < 4; n++) {
      const now = piece.sheets[0];
      if (n % 2 === 0) {
        const at = Math.floor(random() * now.layers.length);
        const layers = now.layers.map((l, i) => (i === at ? { ...l, opacity: random(), visible: random() < 0.8 } : l));
        piece = { ...piece, sheets: [{ ...now, layers }] };
        show();
      } else {
        const painted = now.layers.find((l) => l.kind === 'painted');
        if (!painted) continue;
        const key = planeKey(painted.id, 'base-colour');
        const tile = tileIndex(Math.floor(random() * 3), Math.floor(random() * 3));
        repaint(store, key, tile, 4, n + seed);
        renderer.planes.changed();
        renderer.planes.markPaint('s', key, tile);
        while (renderer.planes.pending > 0) panes.take(slice({ renderer }));
      }
      expect(panes.against(fromScratch(piece, store)).differing).toBe(0);
    }
  });

  test('what the flat pane shows comes first', () => {
    const { sheet, store } = randomStack(3, { over: { ...over, width: 640, height: 640 }, layers: 5 });
    const renderer = rendererOf(store);
    renderer.planes.visible = { x: 300, y: 300, width: 100, height: 60 };
    const piece = pieceOf(sheet);
    renderer.refresh(piece);
    const planes = new Set(slice({ renderer, until: () => true }).map((p) => p.plane)).size;
    expect(planes).toBe(1);
    renderer.refresh(piece);
    const order: string[] = [];
    while (renderer.planes.pending > 0)
      for (const { rects } of slice({ renderer, until: () => true }))
        // An even plane is said once, wherever its first tile lies.
        if (rects.length) order.push(`${rects[0].x / TILE} ${rects[0].y / TILE}`);
    // One tile is out already; 300 … 400 × 300 … 360 lies in columns 2 and 3 of row 2.
    const first = new Set(order.slice(0, 3));
    expect([...first].every((t) => t === '2 2' || t === '3 2')).toBe(true);
  });

  test('going back before anything was drawn leaves nothing to draw', () => {
    const { sheet, store } = randomStack(5, { over, layers: 5 });
    const renderer = rendererOf(store);
    const piece = pieceOf(sheet);
    renderer.refresh(piece);
    slice({ renderer });
    const other = pieceOf({ ...sheet, layers: sheet.layers.map((l) => ({ ...l, opacity: l.opacity * 0.5 })) });
    renderer.refresh(other);
    expect(renderer.planes.pending).toBeGreaterThan(0);
    renderer.refresh(piece);
    expect(renderer.planes.pending).toBe(0);
  });
});

describe('coarse pictures', () => {
  const { sheet, store } = randomStack(8, { over: { ...over, width: 640, height: 512 }, layers: 6, plain: true });
  const piece = pieceOf(sheet);
  const exact = fromScratch(piece, store);

  test('are near what comes after, in every level, and take nothing off what is to be drawn', () => {
    const renderer = rendererOf(store);
    const panes = new Panes(sheet);
    renderer.refresh(piece);
    const before = renderer.planes.pending;
    panes.take(renderer.coarse.render(false));
    expect(renderer.planes.pending).toBe(before);
    // The paint is noise, texel by texel; still they are nearer than each level's own mean colour would be.
    expect(panes.against(exact).mean).toBeLessThan(evenCopy(exact, sheet).against(exact).mean * 0.8);
    while (renderer.planes.pending > 0) panes.take(slice({ renderer }));
    expect(panes.against(exact).differing).toBe(0);
  });

  test('of what is seen only touch the tiles that are seen, side by side as one patch', () => {
    const renderer = rendererOf(store);
    renderer.planes.visible = { x: 130, y: 140, width: 200, height: 100 };
    renderer.refresh(piece);
    const patches = renderer.coarse.render(true);
    const planes = new Set(patches.map((p) => p.plane));
    expect(patches).toHaveLength(planes.size);
    for (const { rects } of patches) expect(rects[0]).toEqual({ x: 128, y: 128, width: 256, height: 128 });
  });

  test('are not drawn over what is exact already', () => {
    const renderer = rendererOf(store);
    renderer.refresh(piece);
    slice({ renderer });
    expect(renderer.coarse.render(false)).toEqual([]);
  });
});

describe('tiles drawn elsewhere', () => {
  const { sheet, store } = randomStack(4, { over, layers: 6 });
  const piece = pieceOf(sheet);
  const draw = (job: DrawJob, of: Sheet = sheet): Uint8Array => {
    return renderPlane(new Evaluator({ sheet: of, store }), of, job.plane, job.tile, WHOLE_TILE, job.look);
  };

  test('come back the same as if drawn here', () => {
    const renderer = rendererOf(store);
    const panes = new Panes(sheet);
    renderer.refresh(piece);
    for (let jobs = renderer.helpers.take(5); jobs.length > 0; jobs = renderer.helpers.take(5))
      for (const job of jobs) {
        // Nothing where the plane is even, and has that texel already.
        panes.take(renderer.helpers.accept(job, draw(job)));
      }
    expect(renderer.planes.pending).toBe(0);
    expect(panes.against(fromScratch(piece, store)).differing).toBe(0);
  });

  test('are let go if the document has moved on, and drawn anew', () => {
    const renderer = rendererOf(store);
    renderer.refresh(piece);
    const jobs = renderer.helpers.take(4);
    expect(jobs).toHaveLength(4);
    const later = pieceOf({ ...sheet, layers: sheet.layers.map((l) => ({ ...l, opacity: l.opacity * 0.3 })) });
    renderer.refresh(later);
    const panes = new Panes(sheet);
    for (const job of jobs) {
      // Where the change does not show, what was drawn still holds.
      panes.take(renderer.helpers.accept(job, draw(job)));
    }
    while (renderer.planes.pending > 0) panes.take(slice({ renderer }));
    expect(panes.against(fromScratch(later, store)).differing).toBe(0);
  });

  test('are whole tiles only, from the far end, at most as many as asked for', () => {
    const renderer = rendererOf(store);
    renderer.refresh(piece);
    const last = [...tilesOf(sheet.width, sheet.height)].at(-1)!;
    const [first] = renderer.helpers.take(1);
    expect(first.tile).toBe(last);
    const rest = renderer.helpers.take(1000);
    expect(rest.length + 1).toBe(9 * new Set(rest.map((job) => job.plane)).size);
    expect(new Set(rest.map((job) => `${job.plane} ${job.tile}`)).size).toBe(rest.length);
    expect(renderer.planes.pending).toBe(0);
  });
});
