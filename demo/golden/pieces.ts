/**
 * Pieces whose flattened maps must stay the same bytes whatever is done to the code that makes them: stacks of every
 * kind of layer (frozen in stacks.json), every filter and source by itself, the demo pieces, strokes. What is new in
 * the product adds entries; it changes none.
 */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { brushSchema } from '../../src/core/hand/brush';
import type { Sample } from '../../src/core/hand/sample';
import { replay } from '../../src/core/hand/replay';
import { newAdjustLayer, newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { storedChannels, type MapId } from '../../src/core/kinds/maps';
import { sheetSchema, type Piece, type Sheet } from '../../src/core/document/schema';
import { planesOfSheet } from '../../src/core/document/planes';
import { readModel } from '../../src/core/mesh/readModel';
import { attachSurfaces, PieceSurfaces } from '../../src/core/strata/pieceSurfaces';
import { miniatureOf } from '../../src/core/piece/miniature';
import { TileStore } from '../../src/core/tile/tiles';
import { evaluateWhole16 } from '../../src/core/strata/evaluate';
import { FILTER_TYPES, FILTERS, type FilterType } from '../../src/core/kinds/filters';
import { placementFor, PLACEMENTS } from '../../src/core/kinds/placement';
import { TileCache } from '../../src/core/strata/tileCache';
import { giveSurfaces } from '../../src/core/strata/surfaceUnder';
import { SOURCE_TYPES, SOURCES, type Made, type SourceType } from '../../src/core/kinds/sources';
import { cubeModel, seededRandom } from '../../src/core/testing/models';
import { scribble } from '../../src/core/testing/stacks';
import { lanternBundle } from '../lantern';
import { settsBundle } from '../setts';

export type Hashes = Record<string, string>;

const sha = (data: Uint16Array): string =>
  createHash('sha256')
    .update(new Uint8Array(data.buffer, data.byteOffset, data.byteLength))
    .digest('hex')
    .slice(0, 24);

/** Each plane of a sheet gets paint of its own, by its name. */
export function paintedStore(sheet: Sheet): TileStore {
  const store = new TileStore();
  for (const { key, map } of planesOfSheet(sheet)) {
    const picture = sheet.pictures.find((p) => key.startsWith(p.id));
    const { width, height } = picture ?? sheet;
    const seed = parseInt(createHash('sha256').update(key).digest('hex').slice(0, 7), 16);
    scribble(seededRandom(seed), store, key, storedChannels(map), width, height);
  }
  return store;
}

function hashSheet(out: Hashes, name: string, sheet: Sheet, store: TileStore): void {
  const cache = new TileCache();
  for (const map of sheet.maps) out[`${name} · ${map}`] = sha(evaluateWhole16({ sheet, store, cache }, map));
}

function hashPiece(out: Hashes, name: string, piece: Piece, store: TileStore): void {
  for (const sheet of piece.sheets) hashSheet(out, `${name} · ${sheet.name}`, sheet, store);
}

const MAPS: MapId[] = ['base-colour', 'height', 'normal'];

export function stacks(): Hashes {
  const out: Hashes = {};
  const list = JSON.parse(readFileSync(`${__dirname}/stacks.json`, 'utf8')) as unknown[];
  for (const [n, raw] of list.entries()) {
    const sheet = sheetSchema.parse(raw);
    const store = paintedStore(sheet);
    hashSheet(out, `stack ${n}`, sheet, store);
    const small = miniatureOf(sheet, store, 64);
    hashSheet(out, `stack ${n} small`, small.sheet, small.store);
  }
  return out;
}

export function filters(types: readonly FilterType[] = FILTER_TYPES): Hashes {
  const out: Hashes = {};
  for (const type of types) {
    const sheet = newSheet('f', 'Sheet', 140, 100, { maps: MAPS, wrapU: true });
    sheet.layers = [
      newCoatLayer('c', 'Coat', { 'base-colour': [0.7, 0.4, 0.2], height: [0.4], normal: [0.5, 0.5, 1] }, MAPS),
      newPaintedLayer('p', 'Paint', MAPS),
      newAdjustLayer('a', 'Adjust', FILTERS[type].start, MAPS),
    ];
    const store = paintedStore(sheet);
    hashSheet(out, `filter ${type}`, sheet, store);
    const small = miniatureOf(sheet, store, 64);
    hashSheet(out, `filter ${type} small`, small.sheet, small.store);
  }
  return out;
}

function coated(made: Made, over: Partial<Sheet>): Sheet {
  const sheet = newSheet('s', 'Sheet', 120, 100, { maps: ['base-colour', 'height'], ...over });
  const coat = newCoatLayer('c', 'Coat', { 'base-colour': [0.9, 0.7, 0.2], height: [0.8] }, sheet.maps);
  coat.source = made;
  const ramp = [
    { at: 0, colour: [0.1, 0.2, 0.3] as [number, number, number] },
    { at: 0.6, colour: [0.9, 0.5, 0.1] as [number, number, number] },
    { at: 1, colour: [1, 1, 0.9] as [number, number, number] },
  ];
  coat.cells = { 'base-colour': { ...coat.cells['base-colour']!, ramp }, height: { ...coat.cells.height!, low: [0.2] } };
  sheet.layers = [coat];
  return sheet;
}

export function sources(types: readonly SourceType[] = SOURCE_TYPES): Hashes {
  const out: Hashes = {};
  const surfaces = new PieceSurfaces(cubeModel(), 0);
  for (const type of types) {
    const made = SOURCES[type].start as Made;
    hashSheet(out, `source ${type}`, coated(made, { wrapU: true, wrapV: true }), new TileStore());
    for (const by of PLACEMENTS) {
      const sheet = coated(made, { materialIndex: 0 });
      const store = new TileStore();
      giveSurfaces(store, (s) => surfaces.dataFor(s));
      sheet.layers[0].placement = placementFor(by, surfaces.dataFor(sheet), { size: 0.6, turn: 20, repeats: 3 });
      hashSheet(out, `source ${type} ${by}`, sheet, store);
    }
  }
  return out;
}

const once = <T>(make: () => T): (() => T) => {
  let made: T | undefined;
  return () => (made ??= make());
};
/** Painted once for all tests of this process: each takes many seconds. */
export const lanternPiece = once(() => lanternBundle(128));
export const settsPiece = once(() => settsBundle(128));

export async function demoPieces(): Promise<Hashes> {
  const out: Hashes = {};
  const lantern = await lanternPiece();
  attachSurfaces(lantern.store, await readModel(new Map([['lantern.glb', lantern.modelGlb!]])), 0);
  hashPiece(out, 'lantern', lantern.piece, lantern.store);
  const setts = await settsPiece();
  hashPiece(out, 'setts', setts.piece, setts.store);
  return out;
}

const WRITES = {
  'base-colour': { on: true, value: [0.8, 0.2, 0.1], amount: 1 },
  height: { on: true, value: [0.7], amount: 0.5 },
  roughness: { on: false, value: [0.5], amount: 1 },
  metallic: { on: true, value: [1], amount: 0.8 },
};
const BRUSHES = [
  { size: 24, hardness: 0.2, opacity: 0.8 },
  { size: 60, hardness: 1, flow: 1, pressureOpacity: true },
  { size: 40, hardness: 0.6, flow: 0.3, opacity: 0.6, reach: 'all' },
  { size: 34, mode: 'erase', flow: 0.8, smoothing: 0.6 },
].map((b) => brushSchema.parse({ writes: WRITES, ...b }));

const pen = (i: number) => ({ pressure: 0.3 + i / 20, tiltX: 0, tiltY: 0, time: i * 16 });

function acrossSheet(n: number): Sample[] {
  return Array.from({ length: 12 }, (_, i) => ({
    pane: 'flat',
    x: 20 + i * 22,
    y: 60 + 15 * n + ((i * (n + 1)) % 5) * 14,
    texelsPerPixel: 1,
    ...pen(i),
  }));
}

/** Over an edge of the cube: from its front to its right side. */
function aroundCube(n: number): Sample[] {
  return Array.from({ length: 12 }, (_, i): Sample => {
    const origin: [number, number, number] = [2, 0.2 * n - 0.3, 2];
    const d = [-2 + (i - 6) * 0.06, 0.3 - 0.15 * n + i * 0.01, -2 - (i - 6) * 0.06];
    const l = Math.hypot(...d);
    return { pane: 'model', origin, direction: [d[0] / l, d[1] / l, d[2] / l], pixelSpread: 0.002, ...pen(i) };
  });
}

/** Strokes on the sheet, around its border and on the model, drawn and rubbed out again. */
export function strokes(): Hashes {
  const surfaces = new PieceSurfaces(cubeModel(), 0);
  const out: Hashes = {};
  for (const [pane, samples] of [
    ['flat', acrossSheet],
    ['model', aroundCube],
  ] as const) {
    const sheet = newSheet('s', 'Sheet', 300, 200, pane === 'model' ? { materialIndex: 0 } : { wrapU: true });
    sheet.layers = [newPaintedLayer('p', 'Paint', sheet.maps)];
    const piece = newPiece('g', 'Strokes', pane === 'model' ? 'model' : 'canvas', [sheet], {
      model: pane === 'model' ? { blob: '', uvSet: 0 } : null,
    });
    const store = new TileStore();
    const recording = BRUSHES.map((brush, n) => ({ brush, seed: n + 1, samples: samples(n) }));
    replay(piece, store, pane === 'model' ? surfaces : null, { version: 1, strokes: recording });
    hashSheet(out, `strokes ${pane}`, sheet, store);
  }
  return out;
}
