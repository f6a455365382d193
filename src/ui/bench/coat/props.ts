/** What every part of a coat's value is told. */
import type { Edit } from '@/core/document/edits';
import type { Cell, Layer, Sheet } from '@/core/document/schema';
import type { MapId } from '@/core/kinds/maps';
import { chooseFiles, offerSet } from '../pictures/pictureSet';

export const askForPicture = (layer: Layer, map: MapId) => chooseFiles(false, (files) => offerSet(files, layer, map));

export interface CoatValueProps {
  sheet: Sheet;
  layer: Layer;
  map: MapId;
  cell: Cell | undefined;
  change: (next: Partial<Cell>) => Edit;
  what: string;
}
