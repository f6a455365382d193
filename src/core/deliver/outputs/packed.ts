/** Three maps in one picture, in glTF's places (glTF 2.0, 3.9.2). */
import { encodePng } from '../../codec/png';
import { mapInfo, PACKED_MAPS } from '../../kinds/maps';
import type { Bitmap } from '../../tile/bitmap';
import { pack } from '../codes';
import { renderMap, type RenderContext, type RenderSettings } from '../render';
import type { Sheet } from '../../document/schema';
import type { OutputDef } from './output';

/** Occlusion, roughness, metallic. */
const ID = 'orm';

export function packedPicture(context: RenderContext, sheet: Sheet, settings: RenderSettings): Bitmap {
  const [red, green, blue] = PACKED_MAPS.map((part) => renderMap(context, sheet, part, settings));
  return pack(red, green, blue);
}

export const packed: OutputDef = {
  type: 'packed',
  ending: 'png',
  per: 'sheet',
  offers: () => {
    const [first, ...others] = PACKED_MAPS.map((m) => mapInfo(m).label);
    return [{ id: ID, label: `${[first, ...others.map((l) => l.toLowerCase())].join(' · ')} in one` }];
  },
  knows: (id) => id === ID,
  picture: (context, sheet, _, settings) => packedPicture(context, sheet, settings),
  file: async (context, { sheet }, options) => encodePng(packedPicture(context, sheet!, options)),
};
