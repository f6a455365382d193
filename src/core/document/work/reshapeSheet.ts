/** A sheet gets another size or lie, with all of its pixels. */
import { storedChannels } from '../../kinds/maps';
import {
  pictureFromTiles,
  tilesFromPicture,
  type TileChange,
  type TileIndex,
  type TileStore,
  type TileVersion,
} from '../../tile/tiles';
import { reshapeEdit } from '../edits';
import { planesOfSheet } from '../planes';
import { extentFault, reshapedExtent, reshapePlane, type Reshape } from '../reshape';
import type { Sheet } from '../schema';
import { WorkError, type Work } from './work';

/** All tiles of a plane give way to others. */
function replaced(
  plane: string,
  old: ReadonlyMap<TileIndex, TileVersion>,
  fresh: ReadonlyMap<TileIndex, Uint16Array>,
): TileChange[] {
  return [...new Set([...old.keys(), ...fresh.keys()])].map((tile) => {
    const data = fresh.get(tile);
    return { plane, tile, before: old.get(tile) ?? null, after: data ? { data, hash: null } : null };
  });
}

export function reshapeSheet(sheet: Sheet, store: TileStore, by: Reshape): Work {
  if (sheet.materialIndex !== null && by.kind !== 'resize')
    throw new WorkError(
      'The model’s UVs say where this sheet lies, so it can only be resized: crop, turn and mirror are for canvases',
    );
  const to = reshapedExtent(sheet, by);
  const fault = extentFault(to);
  if (fault) throw new WorkError(fault);
  const changes: TileChange[] = [];
  for (const { key, map } of planesOfSheet(sheet)) {
    const old = store.tilesOf(key);
    // Pictures have a size of their own.
    if (old.size === 0 || map === 'picture') continue;
    const channels = storedChannels(map);
    const pixels = reshapePlane(pictureFromTiles(old, sheet.width, sheet.height, channels), sheet, map, by);
    const fresh = tilesFromPicture(pixels, to.width, to.height, channels);
    changes.push(...replaced(key, old, fresh));
  }
  const quarter = by.kind === 'turn' && by.quarters !== 2;
  const after: Partial<Sheet> = {
    ...to,
    // Relief keeps its size in texels, except where the texels themselves are resized.
    heightSpan: by.kind === 'resize' ? sheet.heightSpan : Math.min(0.2, (sheet.heightSpan * sheet.width) / to.width),
    wrapU: quarter ? sheet.wrapV : sheet.wrapU,
    wrapV: quarter ? sheet.wrapU : sheet.wrapV,
  };
  const what = { resize: 'Resize', frame: 'Crop or extend', turn: 'Turn', mirror: 'Mirror' }[by.kind];
  return {
    edit: reshapeEdit(sheet, after),
    label: `${what} ${sheet.name}: ${to.width} × ${to.height}`,
    changes,
  };
}
