/** Answers that change nothing: what is under the pointer, layers for the clipboard, small pictures, histograms. */
import { sha256, tileBytes } from '../../core/codec/tileBlob';
import type { MapId } from '../../core/kinds/maps';
import { findPicture, findSheet, pictureOf, type Sheet } from '../../core/document/schema';
import type { Stencil } from '../../core/document/stencil';
import { NO_FENCE } from '../../core/document/fence';
import { changedFaces, facesOfFence, facesWithin } from '../../core/hand/chosenFaces';
import { FenceLimit } from '../../core/hand/fence';
import { stencilPicture } from '../../core/hand/stencil';
import type { Surface } from '../../core/mesh/surface';
import { planeKey } from '../../core/document/planes';
import { MAX16, TILE, tileIndex, type TileStore } from '../../core/tile/tiles';
import { valueAt, valueOfLayerAt } from '../../core/strata/evaluate';
import { maskPicture } from '../../core/strata/maskPicture';
import { missesOf } from '../../core/strata/misses';
import { Evaluator } from '../../core/strata/evaluator';
import type { Changes } from '../changes/changes';
import type { Planes } from '../show/planes';
import { copyLayers } from '../../core/document/work/copy';
import { histogramBelow, thumbnail, type Histogram } from './pictures';
import type { OpenPiece } from '../state';
import type { Tips } from '../stroke/tips';
import { turnsOf } from '../turns';
import type { Answers, PickedValues, Question } from '../protocol';

/** What is asked about. */
export interface Asked {
  readonly open: OpenPiece;
  readonly planes: Planes;
  readonly changes: Changes;
  readonly tips: Tips;
}

export async function answerTo(engine: Asked, question: Question): Promise<Answers[keyof Answers]> {
  const sheet = findSheet(engine.open.piece, question.sheetId);
  switch (question.ask) {
    case 'pick':
      return pick(engine, question);
    case 'copy':
      return copyLayers(
        engine.open.piece.id,
        sheet,
        engine.open.store,
        question.ids,
        async (version) => (version.hash ??= await sha256(tileBytes(version.data!))),
      );
    case 'thumbnails':
      return thumbnails(engine, question);
    case 'sheet-picture':
      return engine.planes.smallPicture(sheet.id);
    case 'faces': {
      const surface = engine.open.surfaces?.forSheet(sheet);
      if (!surface) return [];
      const { of } = question;
      if (of === 'fence') {
        const fence = { ...(sheet.fence?.fence ?? NO_FENCE), soften: 0 };
        const limit = new FenceLimit(fence, { sheet, layerId: '', surface, store: () => engine.open.store });
        return facesOfFence(surface, (tile) => limit.tile(tile));
      }
      return 'within' in of ? facesWithin(surface, of.within, of.view) : changedFaces(surface, of.ids, of.how);
    }
    case 'misses': {
      const surface = engine.open.surfaces?.dataFor(sheet);
      const picture = findPicture(sheet, question.pictureId);
      return surface && picture ? missesOf(engine.open.store, picture, surface) : [];
    }
    case 'fetch-bake':
      await engine.changes.fetchBake(question.key);
      return null;
    case 'mask':
      return mask(engine, question);
    case 'stencil':
      return shownStencil(engine, question.stencil);
    case 'histogram':
      return histogram(engine, sheet, question.layerId, question.map);
  }
}

async function thumbnails(engine: Asked, { wants, sheetId }: Extract<Question, { ask: 'thumbnails' }>) {
  const turn = turns();
  const out: Answers['thumbnails'] = [];
  for (const want of wants) {
    if (want.of === 'stroke') await engine.tips.fetch(engine.tips.missing(want.brush)).catch(() => false);
    await turn();
    // With a passing edit on it: thumbnails follow sliders.
    out.push(thumbnail(findSheet(engine.open.current, sheetId), engine.open.store, want, engine.tips.pictures));
  }
  return out;
}

async function mask({ open: { piece, store } }: Asked, { sheetId, maskId }: Extract<Question, { ask: 'mask' }>) {
  const turn = turns();
  return maskPicture(findSheet(piece, sheetId), store, maskId, MASK_SIDE, async () => {
    await turn();
    return true;
  });
}

/** Masks of reaches: they change slowly from place to place. */
const MASK_SIDE = 512;
/** Ghosts are no larger than this. */
const GHOST_SIDE = 1024;

function shownStencil({ open: { piece, store } }: Asked, stencil: Stencil): Answers['stencil'] {
  const picture = stencilPicture(stencil, store, (id) => pictureOf(piece, id));
  const level = picture?.levels.find(({ width, height }) => Math.max(width, height) <= GHOST_SIDE);
  if (!level) return null;
  return { width: level.width, height: level.height, data: Uint8ClampedArray.from(level.data, (v) => v / 257) };
}

/** For so long at a time, so that strokes and commands come in between. */
const TURN_MS = 25;

const turns = () => turnsOf({ now: () => performance.now(), later: (go) => void setTimeout(go, 0) }, TURN_MS);

/** Begins anew when a tile has changed in the meantime; given up when the document has: then it is asked for again. */
async function histogram(engine: Asked, sheet: Sheet, layerId: string, map: MapId): Promise<Histogram | null> {
  const { planes, open } = engine;
  const turn = turns();
  for (;;) {
    const { revision } = planes;
    // One of its own: what the panes show may be another state of the sheet, previewed or looked at alone.
    const evaluator = new Evaluator({ sheet, store: open.store, cache: planes.cache, hot: planes.workedOn });
    const found = await histogramBelow(sheet, evaluator, layerId, map, async () => {
      await turn();
      return planes.revision === revision;
    });
    if (found || planes.revision === revision || findSheet(engine.open.piece, sheet.id) !== sheet) return found;
  }
}

function surfaceThere(data: Surface, x: number, y: number, face: number): NonNullable<PickedValues['on']> {
  const { position, normal } = data.tiles.get(tileIndex((x / TILE) | 0, (y / TILE) | 0))!;
  const o = ((y % TILE) * TILE + (x % TILE)) * 3;
  const three = (of: ArrayLike<number>, by: number) => [of[o] / by, of[o + 1] / by, of[o + 2] / by] as [number, number, number];
  return {
    face,
    island: data.faceIsland[face],
    part: data.parts[data.facePart[face]],
    place: three(position, 1),
    normal: three(normal, 127),
  };
}

/** The texel of a picture that lies over a place of the sheet. */
function pictureAt(store: TileStore, sheet: Sheet, id: string, x: number, y: number): number[] | null {
  const picture = findPicture(sheet, id);
  if (!picture) return null;
  const [px, py] = [Math.floor((x / sheet.width) * picture.width), Math.floor((y / sheet.height) * picture.height)];
  const data = store.tilesOf(planeKey(id, 'picture')).get(tileIndex((px / TILE) | 0, (py / TILE) | 0))?.data;
  const o = ((py % TILE) * TILE + (px % TILE)) * 4;
  return data && data[o + 3] > 0 ? [0, 1, 2].map((k) => data[o + k] / MAX16) : null;
}

function pick({ open: { piece, store, surfaces } }: Asked, asked: Extract<Question, { ask: 'pick' }>): PickedValues | null {
  const { sheetId, place, layerId, pictureId } = asked;
  let sheet = findSheet(piece, sheetId);
  let { x, y } = place.pane === 'flat' ? place : { x: -1, y: -1 };
  if (place.pane === 'model') {
    const hit = surfaces?.query.raycast(place.origin, place.direction);
    if (!hit) return null;
    const { model } = surfaces!;
    const owner = piece.sheets.find((s) => s.materialIndex === model.faceMaterial[hit.face]);
    if (!owner) return null;
    sheet = owner;
    const corners = surfaces!.forSheet(sheet)!.map.cornersTexels;
    [x, y] = [0, 1].map((k) => hit.barycentric.reduce((sum, w, c) => sum + w * corners[hit.face * 6 + c * 2 + k], 0));
  }
  if (sheet.wrapU) x -= Math.floor(x / sheet.width) * sheet.width;
  if (sheet.wrapV) y -= Math.floor(y / sheet.height) * sheet.height;
  if (!(x >= 0 && y >= 0 && x < sheet.width && y < sheet.height)) return null;
  const values: PickedValues['values'] = {};
  for (const map of sheet.maps) {
    const at = [Math.floor(x), Math.floor(y)] as const;
    const value = layerId ? valueOfLayerAt({ sheet, store }, layerId, map, ...at) : valueAt({ sheet, store }, map, ...at);
    if (value) values[map] = value;
  }
  const [tx, ty] = [Math.floor(x), Math.floor(y)];
  const data = surfaces?.dataFor(sheet);
  const face = data?.tiles.get(tileIndex((tx / TILE) | 0, (ty / TILE) | 0))?.face[(ty % TILE) * TILE + (tx % TILE)] ?? -1;
  const on = data && face >= 0 ? surfaceThere(data, tx, ty, face) : null;
  const picture = pictureId ? pictureAt(store, sheet, pictureId, x, y) : null;
  return { sheetId: sheet.id, x: tx, y: ty, values, picture, on };
}
