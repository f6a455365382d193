/** The model with its pictures inside. */
import { encodePng } from '../codec/png';
import type { Sheet } from '../document/schema';
import { encodingOf, MAP_ROWS, type MapId } from '../kinds/maps';
import { planeModel } from '../mesh/plane';
import { writeGlb, type MaterialPictures } from '../mesh/writeGlb';
import { alphaUse, withAlpha } from './codes';
import { chosenSheets, type DispatchOptions } from './options';
import { packedPicture, renderMap, type RenderContext, type RenderSettings } from './render';

/** Normal Y is up, as glTF wants it, whatever the pictures beside it have. */
export async function renderGlb(context: RenderContext, options: DispatchOptions): Promise<Uint8Array> {
  const { piece } = context;
  const settings: RenderSettings = { ...options, bits: 8, normalY: 'up' };
  const model = context.model ?? planeModel(piece.name, piece.sheets[0].height / piece.sheets[0].width);
  const pictures: (MaterialPictures | null)[] = model.materials.map(() => null);
  for (const sheet of chosenSheets(piece, options))
    pictures[sheet.materialIndex ?? 0] = {
      ...mapPictures(context, sheet, settings),
      ormPng: encodePng(packedPicture(context, sheet, settings)),
      uvSet: piece.model?.uvSet ?? 0,
      // A model's materials keep their own names, however their sheets are called.
      ...(context.model ? {} : { name: sheet.name }),
      wrapU: context.model ? true : sheet.wrapU,
      wrapV: context.model ? true : sheet.wrapV,
    };
  return writeGlb(model, pictures);
}

/** The maps that have a texture of their own, those of holes as the alpha of theirs. */
function mapPictures(context: RenderContext, sheet: Sheet, settings: RenderSettings): MaterialPictures {
  const out: MaterialPictures = {};
  const carried = MAP_ROWS.filter(({ id, pictureOut }) => pictureOut && ('always' in pictureOut || sheet.maps.includes(id)));
  const picture = (id: MapId) => renderMap(context, sheet, id, settings);
  for (const { id, pictureOut } of carried) {
    if (!pictureOut || !('texture' in pictureOut)) continue;
    const holes = carried.find((m) => m.pictureOut && 'alphaOf' in m.pictureOut && m.pictureOut.alphaOf === pictureOut.texture);
    const opacity = holes && picture(holes.id);
    const alpha = opacity && alphaUse(opacity);
    const plain = picture(id);
    out[`${pictureOut.texture}Png`] = encodePng(alpha ? withAlpha(plain, opacity) : plain, encodingOf(id));
    if (alpha) out.alpha = alpha;
  }
  return out;
}
