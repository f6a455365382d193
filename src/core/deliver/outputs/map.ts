/** One map as a picture: grey for values, RGB for colours and normals. */
import { encodingOf, isMapId, isOwnMap, MAP_IDS, mapInfo, type MapId } from '../../kinds/maps';
import { NORMAL_FROM } from '../../kinds/shown';
import { OUTPUTS_AT_START } from '../options';
import type { SheetOutput } from './output';

/** What engines most often ask for. */
const AT_START: ReadonlySet<string> = new Set(OUTPUTS_AT_START);

export const map: SheetOutput = {
  type: 'map',
  label: 'A map as a PNG',
  per: 'sheet',
  offers: (piece) => {
    const carried = new Set(piece.sheets.flatMap((s) => s.maps));
    const owns = piece.sheets.flatMap((s) => s.ownMaps);
    // Height alone makes normals.
    const ids = [...MAP_IDS.filter((m) => carried.has(m) || m === NORMAL_FROM.directions), ...[...carried].filter(isOwnMap)];
    return ids.map((id) => {
      const { label } = mapInfo(id, owns);
      return { id, atStart: AT_START.has(id), label: id === NORMAL_FROM.directions ? `${label}, with what height makes` : label };
    });
  },
  knows: isMapId,
  // A map of one's own belongs to the sheets that carry it.
  sheetHas: (id, sheet) => !isOwnMap(id) || sheet.maps.includes(id),
  word: (id, sheet) => (isOwnMap(id) ? mapInfo(id, sheet.ownMaps).label : id),
  encoding: (id) => encodingOf(id as MapId),
  picture: async (context, sheet, id, settings) => (await import('../render')).renderMap(context, sheet, id as MapId, settings),
};
