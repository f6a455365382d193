/** What was baked comes to the sheet that it was baked for. */
import { MAX16, type TileChange, type TileIndex, type TileStore, type TileVersion } from '../../tile/tiles';
import { batch, setSheetEdit } from '../edits';
import { planeKey } from '../planes';
import { findPicture, type Sheet } from '../schema';
import { WorkError, type Work } from './work';

interface BakeOfPicture {
  pictureId: string;
  /** The text of the spec that it was made from. */
  made: string;
  width: number;
  height: number;
}

/** A bake that the server has under that key. */
export type KeyedBake = BakeOfPicture & { key: string };

/** What a bake consists of, by address. `missed`: texels from which its rays met nothing. */
export interface BakedTiles {
  tiles: [tile: TileIndex, hash: string][];
  missed: number;
}

export type TakenBake = BakeOfPicture & BakedTiles;

/** Turns the Y of a normal map that was baked elsewhere: up becomes down. Throws a WorkError. */
export function turnNormalY(sheet: Sheet, store: TileStore, pictureId: string): Work {
  const picture = findPicture(sheet, pictureId);
  if (!picture?.bake) throw new WorkError('The bake is not on the sheet any more');
  const plane = planeKey(picture.id, 'picture');
  const changes: TileChange[] = [...store.tilesOf(plane)].map(([tile, before]) => {
    if (!before.data) throw new WorkError(`Some of ${picture.name} is lost on the server: bring it in again`);
    const data = before.data.slice();
    for (let i = 1; i < data.length; i += 4) if (data[i + 2] > 0) data[i] = MAX16 - data[i];
    return { plane, tile, before, after: { data, hash: null } };
  });
  return { edit: batch([]), label: `Turn the Y of ${picture.name}`, changes };
}

/** Its tiles take the place of those that were there; whatever is painted stays as it is. Throws a WorkError. */
export function takeBake(sheet: Sheet, store: TileStore, taken: TakenBake, versions: ReadonlyMap<string, TileVersion>): Work {
  const picture = findPicture(sheet, taken.pictureId);
  if (!picture?.bake) throw new WorkError('The bake is not on the sheet any more');
  const plane = planeKey(picture.id, 'picture');
  const after = new Map<TileIndex, TileVersion>();
  for (const [tile, hash] of taken.tiles) {
    const version = versions.get(hash);
    if (!version) throw new WorkError(`Some of what was baked is lost on the server: bake ${picture.name} again`);
    after.set(tile, version);
  }
  const before = store.tilesOf(plane);
  const changes: TileChange[] = [...new Set([...before.keys(), ...after.keys()])].map((tile) => ({
    plane,
    tile,
    before: before.get(tile) ?? null,
    after: after.get(tile) ?? null,
  }));
  const { made, missed, width, height } = taken;
  const next = { ...picture, width, height, bake: { ...picture.bake, made, missed } };
  return {
    edit: setSheetEdit(sheet, { pictures: sheet.pictures.map((p) => (p.id === picture.id ? next : p)) }),
    label: `Bake ${picture.name}`,
    changes,
  };
}
