/** One map as a picture: grey for values, RGB for colours and normals. */
import { isMapId, MAP_IDS, mapInfo, mapKind, type MapId } from '../../kinds/maps';
import { NORMAL_FROM } from '../../kinds/shown';
import { OUTPUTS_AT_START } from '../options';
import type { OutputDef } from './output';

/** What engines most often ask for. */
const AT_START: ReadonlySet<string> = new Set(OUTPUTS_AT_START);

const isOwn = (id: string): boolean => isMapId(id) && !(MAP_IDS as readonly string[]).includes(id);

const encoding = (id: string) => (mapKind(id as MapId) === 'colour' ? 'srgb' : 'data');

export const map: OutputDef = {
  type: 'map',
  label: 'A map as a PNG',
  ending: 'png',
  per: 'sheet',
  offers: (piece) => {
    const carried = new Set(piece.sheets.flatMap((s) => s.maps));
    const owns = piece.sheets.flatMap((s) => s.ownMaps);
    // Height alone makes normals.
    const ids = [...MAP_IDS.filter((m) => carried.has(m) || m === NORMAL_FROM.directions), ...[...carried].filter(isOwn)];
    return ids.map((id) => {
      const { label } = mapInfo(id, owns);
      return { id, atStart: AT_START.has(id), label: id === NORMAL_FROM.directions ? `${label}, with what height makes` : label };
    });
  },
  knows: isMapId,
  // A map of one's own belongs to the sheets that carry it.
  sheetHas: (id, sheet) => !isOwn(id) || sheet.maps.includes(id as MapId),
  word: (id, sheet) => (isOwn(id) ? mapInfo(id as MapId, sheet.ownMaps).label : id),
  encoding,
  picture: async (context, sheet, id, settings) => (await import('../render')).renderMap(context, sheet, id as MapId, settings),
  file: async (context, { id, sheet }, options) => {
    const { encodePng, renderMap } = await import('../render');
    return encodePng(renderMap(context, sheet!, id as MapId, options), encoding(id));
  },
};
