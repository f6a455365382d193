/** Three maps in one picture, in glTF's places (glTF 2.0, 3.9.2). */
import { mapInfo, PACKED_MAPS } from '../../kinds/maps';
import type { SheetOutput } from './output';

/** Occlusion, roughness, metallic. */
const ID = 'orm';

export const packed: SheetOutput = {
  type: 'packed',
  label: 'Three maps in the channels of one PNG',
  per: 'sheet',
  offers: () => {
    const [first, ...others] = PACKED_MAPS.map((m) => mapInfo(m).label);
    return [{ id: ID, label: `${[first, ...others.map((l) => l.toLowerCase())].join(' · ')} in one` }];
  },
  knows: (id) => id === ID,
  picture: async (context, sheet, _, settings) => (await import('../render')).packedPicture(context, sheet, settings),
};
