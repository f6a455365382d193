/** Random sequences of everything that changes a piece: what is shown equals a fresh opening, and undo goes to the start. */
import { brushSchema } from '../../core/hand/brush';
import { arrangeEdit, batch, setLayerEdit, setMaskEdit, type Edit } from '../../core/document/edits';
import {
  newAdjustLayer,
  newMask,
  newCoatLayer,
  newEchoLayer,
  newGroup,
  newPaintedLayer,
  newPiece,
  newSheet,
} from '../../core/document/factory';
import { whyUnmakeable, moved } from '../../core/document/tree';
import type { Piece, Sheet } from '../../core/document/schema';
import type { PixelPatch } from '../protocol';
import { extentOf } from '../../core/tile/mips';
import { seededRandom } from '../../core/testing/models';
import { randomFilter, randomMade, randomStep as randomRecipeStep } from '../../core/testing/stacks';
import { groupLayers } from '../../core/document/work/group';
import { at, Browser, Server, lateHelpers, makeEngine, putPatch } from '../testing/server';

const SEQUENCES = 500;
const STEPS = 6;
/** Sequences a test: each test is one line of the report. */
const BUNDLE = 50;

function piece(): Piece {
  const sheet = newSheet('s', 'Sheet', 160, 40, { wrapU: true, wrapV: false });
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.3, 0.4] }), newPaintedLayer('l', 'Hand')];
  sheet.masks = [newMask('m', 'Mask', 1)];
  return newPiece('p', 'Piece', 'canvas', [sheet]);
}

type Bench = ReturnType<typeof makeEngine>;

async function randomStep({ engine, send }: Bench, random: () => number, serial: number): Promise<void> {
  const sheet: Sheet = engine.open.piece.sheets[0];
  const layer = sheet.layers[Math.floor(random() * sheet.layers.length)];
  const mask = sheet.masks[Math.floor(random() * sheet.masks.length)];
  const edit = (e: Edit) => send({ type: 'edit', edit: e, label: 'x', serial });
  const add = (l: ReturnType<typeof newGroup>) => edit({ type: 'add-layer', sheetId: 's', index: sheet.layers.length, layer: l });
  const id = `n${serial}`;
  switch (Math.floor(random() * 16)) {
    case 0:
    case 1:
    case 2: {
      const target = random() < 0.3 && mask ? mask.id : (sheet.layers.findLast((l) => l.kind === 'painted')?.id ?? 'nobody');
      const writes =
        target === mask?.id
          ? { mask: { on: true, value: [Math.round(random())], amount: 1 } }
          : {
              'base-colour': { on: true, value: [random(), random(), random()], amount: 1 },
              height: { on: true, value: [random()], amount: 0.5 },
            };
      const brush = brushSchema.parse({ size: 14, smoothing: 0, spacing: 0.4, mode: random() < 0.2 ? 'erase' : 'paint', writes });
      const point = () => at(random() * sheet.width, random() * sheet.height);
      await send({ type: 'stroke-begin', sheetId: 's', layerId: target, brush, samples: [point()], at: 1 });
      return send({ type: 'stroke-end', samples: [point()], at: 2 });
    }
    case 3:
      return edit(
        setLayerEdit(sheet, layer, { opacity: random(), visible: random() < 0.8, blend: random() < 0.5 ? 'overlay' : 'normal' }),
      );
    case 4: {
      const groups = sheet.layers.filter((l) => l.kind === 'group');
      const parent = random() < 0.5 && groups.length ? groups[Math.floor(random() * groups.length)].id : null;
      const after = moved(sheet.layers, [layer.id], { parent, above: null });
      return after && !whyUnmakeable(after, sheet.masks) ? edit(arrangeEdit(sheet, after)) : undefined;
    }
    case 5: {
      const link = layer.mask || !mask ? null : { id: mask.id, on: true };
      const layers = sheet.layers.map((l) => (l === layer ? { ...l, mask: link } : l));
      return whyUnmakeable(layers, sheet.masks) ? undefined : edit(setLayerEdit(sheet, layer, { mask: link }));
    }
    case 6:
      return mask && edit(setMaskEdit(sheet, mask, { invert: !mask.invert }));
    case 7:
      return add(newAdjustLayer(id, 'Adjust', randomFilter(random), sheet.maps) as never);
    case 8:
      return layer.kind === 'painted' ? add(newEchoLayer(id, 'Echo', layer.id, 'base-colour', ['height']) as never) : undefined;
    case 9:
      return edit(groupLayers(sheet, newGroup(id, 'Group', sheet.maps), [layer.id]));
    case 10:
      return send({ type: 'layers', what: { do: 'duplicate', sheetId: 's', ids: [layer.id] }, serial });
    case 11:
      return random() < 0.5
        ? send({ type: 'layers', what: { do: 'reshape', sheetId: 's', by: { kind: 'turn', quarters: 1 } }, serial })
        : send({ type: 'layers', what: { do: 'reshape', sheetId: 's', by: { kind: 'resize', width: 40, height: 48 } }, serial });
    case 12:
      return send({ type: 'undo', serial });
    case 13: {
      const coat = {
        ...newCoatLayer(id, 'By rule', { 'base-colour': [0.8, 0.7, 0.6], height: [0.6] }),
        source: randomMade(random),
      };
      coat.cells['base-colour']!.low = [0.1, 0.2, 0.3];
      return add(coat);
    }
    case 14: {
      if (!mask) return undefined;
      const steps = [...mask.steps, randomRecipeStep(random, id, sheet, sheet.layers)].slice(-4);
      const masks = sheet.masks.map((m) => (m.id === mask.id ? { ...m, steps } : m));
      return whyUnmakeable(sheet.layers, masks) ? undefined : edit(setMaskEdit(sheet, mask, { steps }));
    }
    default:
      return random() < 0.5
        ? send({ type: 'redo', serial })
        : edit(
            batch([
              { type: 'add-mask', sheetId: 's', index: 0, mask: newMask(id, 'M', 0.5) },
              setLayerEdit(sheet, layer, { mask: { id, on: true } }),
            ]),
          );
  }
}

/** Level 0 of each plane, as the page has it in the end. */
function shown({ events }: Bench, { width, height }: Sheet): Map<string, Buffer> {
  const planes = new Map<string, Buffer>();
  for (const e of events)
    if (e.type === 'pixels')
      for (const p of e.patches as PixelPatch[]) {
        // What was drawn for another size of the sheet is covered by what came later.
        const extent = extentOf(p);
        if (extent && (extent.x + extent.width > width || extent.y + extent.height > height)) continue;
        const out = planes.get(p.plane) ?? planes.set(p.plane, Buffer.alloc(width * height * 4)).get(p.plane)!;
        putPatch(p, out, width);
      }
  return planes;
}

describe('random sequences', () => {
  test.each(Array.from({ length: SEQUENCES / BUNDLE }, (_, n) => n))(
    'incremental equals from scratch, and undo ends at the first document (bundle %i)',
    async (bundle) => {
      for (let n = 0; n < BUNDLE; n++) {
        const seed = bundle * BUNDLE + n + 1;
        const random = seededRandom(seed);
        const server = new Server(piece());
        // Every other sequence with helpers, whose answers may be out of date when they come.
        const a = makeEngine(server, new Browser(), { helpers: seed % 2 ? () => lateHelpers() : undefined });
        await a.open();
        for (let step = 0; step < STEPS; step++) await randomStep(a, random, step + 1);
        await a.engine.settled();
        const notices = a.events.filter((e) => e.type === 'notice' || e.type === 'failed');
        expect({ seed, notices }).toEqual({ seed, notices: [] });
        const b = makeEngine(server);
        await b.open();
        await b.engine.settled();
        expect(JSON.stringify(b.engine.open.piece)).toBe(JSON.stringify(a.engine.open.piece));
        const [mine, fresh] = [shown(a, a.engine.open.piece.sheets[0]), shown(b, b.engine.open.piece.sheets[0])];
        for (const [plane, bytes] of fresh)
          expect({ seed, plane, equal: mine.get(plane)?.equals(bytes) }).toEqual({ seed, plane, equal: true });
        for (let n = b.last('opened')!.trail.position; n > 0; n--) await b.send({ type: 'undo', serial: n });
        await b.engine.settled();
        expect(JSON.stringify(b.engine.open.piece)).toBe(JSON.stringify(piece()));
        expect(server.pixels()).toEqual({});
      }
    },
  );
});
