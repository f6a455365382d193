/** Making a new piece from a model or for a canvas. Ids come from the caller's `newId`. */
import { MAP_IDS, MAP_ROWS, storedChannels } from '../kinds/maps';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { LIMITS, nameSchema, type Layer, type Piece, type Sheet } from '../document/schema';
import { planeKey } from '../document/planes';
import { sheetNames } from '../document/settleMaterials';
import type { Model, ModelMaterial } from '../mesh/model';
import { modelPictures, type DecodePicture } from './modelPictures';
import type { OnSheet } from './throughUvs';
import { tilesFromPicture, TileStore } from '../tile/tiles';

export interface CreateOptions {
  name: string;
  newId: () => string;
}

export interface ModelPieceOptions extends CreateOptions {
  uvSet: number;
  size: number;
  /** Hash of the GLB that is stored with the piece. */
  modelBlob: string;
  /** Decodes the model's own pictures; null when one cannot be read. */
  decodePicture?: DecodePicture;
}

export interface CanvasOptions extends CreateOptions {
  width: number;
  height: number;
  wrapU: boolean;
  wrapV: boolean;
}

export class CreateError extends Error {}

function checkedName(name: string): string {
  const result = nameSchema.safeParse(name);
  if (!result.success) throw new CreateError(result.error.issues[0].message);
  return result.data;
}

export function checkSide(texels: number, what: string): void {
  if (!Number.isInteger(texels) || texels < LIMITS.minSize || texels > LIMITS.maxSize)
    throw new CreateError(
      `The ${what} is ${texels} texels, but a side has to be a whole number from ${LIMITS.minSize} to ${LIMITS.maxSize}.`,
    );
}

export function createCanvasPiece(options: CanvasOptions): { piece: Piece; store: TileStore } {
  checkSide(options.width, 'width');
  checkSide(options.height, 'height');
  const name = checkedName(options.name);
  const sheet = newSheet(options.newId(), 'Canvas', options.width, options.height, {
    wrapU: options.wrapU,
    wrapV: options.wrapV,
  });
  sheet.layers = [groundCoat(options.newId(), null), newPaintedLayer(options.newId(), 'Hand')];
  return { piece: newPiece(options.newId(), name, 'canvas', [sheet]), store: new TileStore() };
}

/** What ties a sheet to a material of its model. */
export const onMaterial = (model: Pick<Model, 'materials'>, m: number): Pick<Sheet, 'materialIndex' | 'materialName'> => ({
  materialIndex: m,
  materialName: model.materials[m].name,
});

/** One sheet per material. The model's own colours become the first coat, its pictures the first painted layer. */
export async function createModelPiece(
  model: Model,
  options: ModelPieceOptions,
): Promise<{ piece: Piece; store: TileStore; notes: string[] }> {
  checkSide(options.size, 'sheet size');
  const name = checkedName(options.name);
  const store = new TileStore();
  const notes: string[] = [];
  const sheets: Sheet[] = [];
  const names = sheetNames(model.materials.map((m) => m.name));
  for (const [m, material] of model.materials.entries()) {
    const sheet = newSheet(options.newId(), names[m], options.size, options.size, {
      ...onMaterial(model, m),
      preview: {
        alpha: material.seeThrough ? Math.min(1, Math.max(0.05, material.baseColourLinear[3])) : 1,
        doubleSided: material.doubleSided,
      },
    });
    const ground = groundCoat(options.newId(), material);
    sheet.maps = MAP_IDS.filter((m) => sheet.maps.includes(m) || ground.cells[m]);
    sheet.layers.push(ground);
    const on = { model, uvSet: options.uvSet, material: m, width: sheet.width, height: sheet.height };
    const pictured = await pictureLayer(material, on, sheet, options, store, notes);
    if (pictured) sheet.layers.push(pictured);
    sheet.layers.push(newPaintedLayer(options.newId(), 'Hand'));
    sheets.push(sheet);
  }
  const piece = newPiece(options.newId(), name, 'model', sheets, { model: { blob: options.modelBlob, uvSet: options.uvSet } });
  return { piece, store, notes };
}

/** What the material says by itself, map by map; on a canvas what empty maps have. */
function groundCoat(id: string, material: ModelMaterial | null): Layer {
  const said = MAP_ROWS.flatMap(({ id: map, coat }) => {
    const value = coat?.(material);
    return value ? [[map, value] as const] : [];
  });
  return newCoatLayer(id, 'Ground', Object.fromEntries(said));
}

async function pictureLayer(
  material: ModelMaterial,
  on: OnSheet,
  sheet: Sheet,
  options: ModelPieceOptions,
  store: TileStore,
  notes: string[],
): Promise<Layer | null> {
  if (!options.decodePicture) return null;
  const found = await modelPictures(material, on, options.decodePicture, notes);
  if (!found.size) return null;
  const layer = newPaintedLayer(options.newId(), 'From the model', []);
  sheet.maps = MAP_IDS.filter((m) => sheet.maps.includes(m) || found.has(m));
  for (const [map, pixels] of found) {
    for (const [tile, data] of tilesFromPicture(pixels, sheet.width, sheet.height, storedChannels(map)))
      store.set(planeKey(layer.id, map), tile, { data, hash: null });
    layer.cells[map] = { on: true };
  }
  for (const map of sheet.maps) layer.cells[map] ??= { on: false };
  return layer;
}
