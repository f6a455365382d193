/** What is at work now. */
import { mapInfo, type MapId } from '@/core/kinds/maps';
import { findLayer, findMask, type Layer, type Mask, type Sheet } from '@/core/document/schema';
import { get, type BenchState } from './state';

export const currentSheet = (s: BenchState = get()): Sheet =>
  s.document!.sheets.find((x) => x.id === s.sheetId) ?? s.document!.sheets[0];
export const currentLayer = (s: BenchState = get()): Layer | undefined => findLayer(currentSheet(s), s.selected[s.sheetId] ?? '');

/** The mask of the selected layer, switched on or not. */
export const currentMask = (s: BenchState = get()): Mask | undefined => {
  const layer = currentLayer(s);
  return layer?.mask ? findMask(currentSheet(s), layer.mask.id) : undefined;
};

export const mapLabel = (map: MapId, sheet: Sheet = currentSheet()) => mapInfo(map, sheet.ownMaps).label;
