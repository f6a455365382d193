/**
 * What a model's own material says as paint on the maps of its sheet: its pictures times its factors (glTF 2.0, 3.9). What a map
 * cannot hold is said in a note.
 */
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import { storedChannels, type MapId } from '../kinds/maps';
import type { EncodedPicture, ModelMaterial, ModelPicture } from '../mesh/model';
import type { Bitmap } from '../tile/bitmap';
import { fitPicture } from '../tile/fit';
import { liesPlain, throughUvs, type Meaning, type OnSheet } from './throughUvs';

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
  /** A picture in the sheet's size, four numbers a texel. */
  const load = async (use: ModelPicture | null, what: string, means: Meaning, alpha = false): Promise<Uint16Array | null> => {
    if (!use) return null;
    const decoded = await decode(use).catch(() => null);
    const picture = decoded && !alpha ? solid(decoded) : decoded;
    if (!picture) notes.push(`The ${what} picture of "${material.name}" could not be read and is left out.`);
    else if (use.uvSet !== sheet.uvSet && !sheet.model.uvs[use.uvSet])
      notes.push(`The ${what} picture of "${material.name}" lies on a UV set that is not there, and is left out.`);
    else {
      const lying = liesPlain(use, sheet) ? picture : throughUvs(picture, use, sheet, means);
      return fitPicture(lying, sheet.width, sheet.height, 4, means === 'colour' ? 'colour' : 'values');
    }
    return null;
  };
  const put = (map: MapId, from: Uint16Array, texel: (o: number, to: Uint16Array, at: number) => void) => {
    const channels = storedChannels(map);
    const to = new Uint16Array((from.length / 4) * channels);
    for (let o = 0, at = 0; o < from.length; o += 4, at += channels) texel(o, to, at);
    out.set(map, to);
  };
  const value = (map: MapId, from: Uint16Array, of: (o: number) => number, covered: (o: number) => number = (o) => from[o + 3]) =>
    put(map, from, (o, to, at) => {
      to[at] = Math.min(1, Math.max(0, of(o))) * 65535 + 0.5;
      to[at + 1] = covered(o);
    });

  const colour = await load(material.baseColourPicture, 'base colour', 'colour', material.alphaMode !== 'OPAQUE');
  if (colour) {
    // Off the model there is nothing; on it alpha is no part of the colour.
    const plain = liesPlain(material.baseColourPicture!, sheet);
    put('base-colour', colour, (o, to, at) => {
      tint(colour, o, material.baseColourLinear, to, at);
      to[at + 3] = plain || colour[o + 3] > 0 ? 65535 : 0;
    });
    if (material.alphaMode !== 'OPAQUE' && hasHoles(colour)) {
      const cut = material.alphaMode === 'MASK' ? material.alphaCutoff * 65535 : null;
      value(
        'opacity',
        colour,
        (o) => (cut === null ? colour[o + 3] / 65535 : Number(colour[o + 3] >= cut)),
        () => 65535,
      );
    }
  }
  const packed = await load(material.metallicRoughnessPicture, 'metallic-roughness', 'values');
  if (packed) {
    value('roughness', packed, (o) => (packed[o + 1] / 65535) * material.roughness);
    value('metallic', packed, (o) => (packed[o + 2] / 65535) * material.metallic);
  }
  const occlusion = await load(material.occlusionPicture, 'occlusion', 'values');
  if (occlusion) value('occlusion', occlusion, (o) => 1 + material.occlusionStrength * (occlusion[o] / 65535 - 1));
  const emissive = await load(material.emissivePicture, 'emissive', 'colour');
  if (emissive)
    put('emissive', emissive, (o, to, at) => {
      tint(emissive, o, material.emissiveLinear, to, at);
      to[at + 3] = emissive[o + 3];
    });
  const normal = await load(material.normalPicture, 'normal', 'directions');
  if (normal)
    put('normal', normal, (o, to, at) => {
      const s = material.normalScale;
      const [x, y, z] = [(normal[o] / 32767.5 - 1) * s, (normal[o + 1] / 32767.5 - 1) * s, normal[o + 2] / 32767.5 - 1];
      const l = Math.hypot(x, y, z) || 1;
      [x, y, z].forEach((v, c) => (to[at + c] = ((v / l) * 0.5 + 0.5) * 65535 + 0.5));
      to[at + 3] = normal[o + 3];
    });
  if (material.emissiveStrength > 1 && (emissive || material.emissiveLinear.some((v) => v > 0)))
    notes.push(
      `"${material.name}" shines ${Number(material.emissiveStrength.toFixed(2))} times brighter than a map can say: that stays with the model, and goes out with its GLB.`,
    );
  return out;
}

/** A colour of the sRGB curve times a factor in linear light. */
function tint(from: Uint16Array, o: number, factor: readonly number[], to: Uint16Array, at: number): void {
  for (let c = 0; c < 3; c++)
    to[at + c] =
      factor[c] === 1 ? from[o + c] : linearToSrgb(Math.min(1, srgbToLinear(from[o + c] / 65535) * factor[c])) * 65535 + 0.5;
}

/** Without its alpha, which says nothing where a picture holds something else than a cut-out. */
function solid(picture: Bitmap): Bitmap {
  if (picture.channels !== 2 && picture.channels !== 4) return picture;
  const data = picture.data.slice();
  for (let i = picture.channels - 1; i < data.length; i += picture.channels) data[i] = picture.bits === 16 ? 65535 : 255;
  return { ...picture, data };
}

function hasHoles(rgba: Uint16Array): boolean {
  for (let i = 3; i < rgba.length; i += 4) if (rgba[i] < 65535) return true;
  return false;
}
