/**
 * Changes that need both the document and its pixels. Each is a function that gives an edit, the tiles that change with
 * it, and what to select afterwards; a file for each sort of them stands beside this one.
 */
import type { TileChange } from '../../tile/tiles';
import type { Edit } from '../edits';
import { LIMITS, type Layer, type Sheet } from '../schema';

export interface Work {
  edit: Edit;
  label: string;
  changes: TileChange[];
  select?: string[];
}

/** Thrown with one sentence for people. */
export class WorkError extends Error {}

/** Throws where a sheet would hold too many. */
export function checkLayerCount(sheet: Sheet, more: number): void {
  if (sheet.layers.length + more > LIMITS.maxLayers)
    throw new WorkError(
      `A sheet holds up to ${LIMITS.maxLayers.toLocaleString('en')} layers, and this would be more: merge some first`,
    );
}

/** One above the other, the first at `index`. */
export const addAll = (sheet: Sheet, layers: readonly Layer[], index: number): Edit[] =>
  layers.map((layer, n) => ({ type: 'add-layer', sheetId: sheet.id, index: index + n, layer }));

/** Takes layers out, from the top down so that places stay right. */
export const removeAll = (sheet: Sheet, layers: readonly Layer[]): Edit[] =>
  sheet.layers
    .map((layer, index) => ({ layer, index }))
    .filter(({ layer }) => layers.includes(layer))
    .toReversed()
    .map(({ layer, index }) => ({ type: 'remove-layer', sheetId: sheet.id, index, layer }));
