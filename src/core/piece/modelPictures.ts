/**
 * What a model's own material says as paint on the maps of its sheet: its pictures times its factors (glTF 2.0, 3.9). What a map
 * cannot hold is said in a note.
 */
import { MAP_ROWS, storedChannels, type MapId } from '../kinds/maps';
import type { PictureIn } from '../kinds/maps/map';
import type { EncodedPicture, ModelMaterial, ModelPicture } from '../mesh/model';
import type { Bitmap } from '../tile/bitmap';
import { fitPicture } from '../tile/fit';
import { liesPlain, throughUvs, type OnSheet } from './throughUvs';

/** Decodes a picture; null when it cannot be read. */
export type DecodePicture = (picture: EncodedPicture) => Promise<Bitmap | null>;

/** Texels of a map in the sheet's size, 16 bit, as they are stored. */
export type MapPixels = Map<MapId, Uint16Array>;

export async function modelPictures(
  material: ModelMaterial,
  sheet: OnSheet,
  decode: DecodePicture,
  notes: string[],
): Promise<MapPixels> {
  const out: MapPixels = new Map();
  /** Several maps take their values from one picture. */
  const loaded = new Map<ModelPicture, Promise<Uint16Array | null>>();
  for (const { id, pictureIn } of MAP_ROWS) {
    const use = pictureIn?.of(material);
    if (!pictureIn || !use) continue;
    if (!loaded.has(use)) loaded.set(use, load(material, use, pictureIn, sheet, decode, notes));
    const rgba = await loaded.get(use)!;
    if (!rgba || pictureIn.worth?.(material, rgba) === false) continue;
    const plain = liesPlain(use, sheet);
    const channels = storedChannels(id);
    const to = new Uint16Array((rgba.length / 4) * channels);
    for (let o = 0, at = 0; o < rgba.length; o += 4, at += channels) pictureIn.texel(material, { rgba, o, plain }, to, at);
    out.set(id, to);
  }
  if (material.emissiveStrength > 1 && (material.emissivePicture || material.emissiveLinear.some((v) => v > 0)))
    notes.push(
      `"${material.name}" shines ${Number(material.emissiveStrength.toFixed(2))} times brighter than a map can say: that stays with the model, and goes out with its GLB.`,
    );
  return out;
}

/** A picture in the sheet's size, RGBA of 16 bits; null, with a note: it is left out. */
async function load(
  material: ModelMaterial,
  use: ModelPicture,
  { called, means, alpha }: PictureIn,
  sheet: OnSheet,
  decode: DecodePicture,
  notes: string[],
): Promise<Uint16Array | null> {
  const decoded = await decode(use).catch(() => null);
  const picture = decoded && !alpha?.(material) ? solid(decoded) : decoded;
  if (!picture) notes.push(`The ${called} picture of "${material.name}" could not be read and is left out.`);
  else if (use.uvSet !== sheet.uvSet && !sheet.model.uvs[use.uvSet])
    notes.push(`The ${called} picture of "${material.name}" lies on a UV set that is not there, and is left out.`);
  else {
    const lying = liesPlain(use, sheet) ? picture : throughUvs(picture, use, sheet, means);
    return fitPicture(lying, sheet.width, sheet.height, 4, means === 'colour' ? 'colour' : 'values');
  }
  return null;
}

/** Without its alpha, which says nothing where a picture holds something else than a cut-out. */
function solid(picture: Bitmap): Bitmap {
  if (picture.channels !== 2 && picture.channels !== 4) return picture;
  const data = picture.data.slice();
  for (let i = picture.channels - 1; i < data.length; i += picture.channels) data[i] = picture.bits === 16 ? 65535 : 255;
  return { ...picture, data };
}
