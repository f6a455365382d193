/** Small edits that many tests make. */
import type { Edit } from '../document/edits';
import type { Layer } from '../document/schema';

export const addLayerAt = (sheetId: string, index: number, layer: Layer): Edit => ({ type: 'add-layer', sheetId, index, layer });
