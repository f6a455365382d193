/** Making a new piece from a model or for a canvas. Ids come from the caller's `newId`. */
import { linearToSrgb } from '../colour/transfer';
import type { Bitmap } from '../tile/bitmap';
import { holdsOf, MAPS, storedChannels, type MapId } from '../kinds/maps';
import { freeName, newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { LIMITS, nameSchema, type Layer, type Piece, type Sheet } from '../document/schema';
import { planeKey } from '../document/planes';
import type { EncodedPicture, Model, ModelMaterial } from '../mesh/model';
import { fitPicture } from '../tile/fit';
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
  decodePicture?: (picture: EncodedPicture) => Promise<Bitmap | null>;
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
  const taken: string[] = [];
  for (const [m, material] of model.materials.entries()) {
    const sheetName = freeName(cleanName(material.name), taken);
    taken.push(sheetName);
    const sheet = newSheet(options.newId(), sheetName, options.size, options.size, {
      materialIndex: m,
      preview: {
        alpha: material.seeThrough ? Math.min(1, Math.max(0.05, material.baseColourLinear[3])) : 1,
        doubleSided: material.doubleSided,
      },
    });
    sheet.layers.push(groundCoat(options.newId(), material));
    const pictured = await pictureLayer(material, sheet, options, store, notes);
    if (pictured) sheet.layers.push(pictured);
    sheet.layers.push(newPaintedLayer(options.newId(), 'Hand'));
    sheets.push(sheet);
  }
  const piece = newPiece(options.newId(), name, 'model', sheets, { model: { blob: options.modelBlob, uvSet: options.uvSet } });
  return { piece, store, notes };
}

/** Names from files may hold anything; what a name cannot hold becomes a dash. */
export function cleanName(name: string): string {
  const cleaned = name
    .replace(/[/\\\u0000-\u001f]+/g, '-')
    .trim()
    .slice(0, LIMITS.maxNameLength);
  return cleaned || 'Surface';
}

function groundCoat(id: string, material: ModelMaterial | null): Layer {
  const colour = material?.baseColourLinear.slice(0, 3).map((v) => linearToSrgb(Math.min(1, Math.max(0, v))));
  return newCoatLayer(id, 'Ground', {
    'base-colour': material?.baseColourPicture ? [0.5, 0.5, 0.5] : (colour ?? MAPS['base-colour'].ground),
    roughness: [material?.roughness ?? MAPS.roughness.ground[0]],
    metallic: [material?.metallic ?? MAPS.metallic.ground[0]],
  });
}

async function pictureLayer(
  material: ModelMaterial,
  sheet: Sheet,
  options: ModelPieceOptions,
  store: TileStore,
  notes: string[],
): Promise<Layer | null> {
  if (!options.decodePicture) return null;
  const layer = newPaintedLayer(options.newId(), 'From the model', []);
  const put = (map: MapId, picture: Bitmap) => {
    const channels = storedChannels(map);
    const pixels = fitPicture(picture, sheet.width, sheet.height, channels, holdsOf(map));
    for (const [tile, data] of tilesFromPicture(pixels, sheet.width, sheet.height, channels))
      store.set(planeKey(layer.id, map), tile, { data, hash: null });
    layer.cells[map] = { on: true };
  };
  const load = async (encoded: EncodedPicture | null, what: string) => {
    if (!encoded) return null;
    const picture = await options.decodePicture!(encoded).catch(() => null);
    if (!picture) notes.push(`The ${what} picture of "${material.name}" could not be read and is left out.`);
    return picture;
  };
  const colour = await load(material.baseColourPicture, 'base colour');
  if (colour) put('base-colour', colour);
  const packed = await load(material.metallicRoughnessPicture, 'metallic-roughness');
  if (packed && packed.channels >= 3) {
    put('roughness', channelOf(packed, 1));
    put('metallic', channelOf(packed, 2));
  }
  if (!Object.keys(layer.cells).length) return null;
  for (const map of sheet.maps) layer.cells[map] ??= { on: false };
  return layer;
}

function channelOf(picture: Bitmap, channel: number): Bitmap {
  const data =
    picture.bits === 16 ? new Uint16Array(picture.width * picture.height) : new Uint8Array(picture.width * picture.height);
  for (let i = 0; i < data.length; i++) data[i] = picture.data[i * picture.channels + channel];
  return { ...picture, channels: 1, data };
}
