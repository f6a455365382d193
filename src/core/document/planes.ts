/** Planes of pixels that a document names: what each layer, mask and picture keeps in a store of tiles. */
import { LAYERS } from '../kinds/layers';
import { STEPS } from '../kinds/steps';
import type { Wraps } from '../tile/fit';
import { TILE_TEXELS, type TileStore } from '../tile/tiles';
import { storedChannels, type MapId, type PlaneMap } from '../kinds/maps';
import type { Sheet } from './schema';

/** The name of the pixel plane that holds what was painted on one map of one layer, or on a mask. */
export function planeKey(ownerId: string, map: PlaneMap): string {
  return `${ownerId}/${map}`;
}

export function parsePlaneKey(key: string): { layerId: string; map: PlaneMap } {
  const slash = key.lastIndexOf('/');
  return { layerId: key.slice(0, slash), map: key.slice(slash + 1) as PlaneMap };
}

export interface Plane {
  key: string;
  owner: { id: string; name: string };
  map: PlaneMap;
  width: number;
  height: number;
  wraps: Wraps;
}

/** Every plane that belongs to a sheet: of its layers, of its masks' painted steps, and its pictures. */
export function planesOfSheet(sheet: Sheet): Plane[] {
  const { width, height } = sheet;
  const wraps = { wrapX: sheet.wrapU, wrapY: sheet.wrapV };
  return [
    ...sheet.layers.flatMap((owner) =>
      (LAYERS[owner.kind].planes ? (Object.keys(owner.cells) as MapId[]) : []).map((map) => ({
        key: planeKey(owner.id, map),
        owner,
        map,
        width,
        height,
        wraps,
      })),
    ),
    ...sheet.masks.flatMap(({ name, steps }) =>
      steps
        .filter((s) => STEPS[s.source.type].painted)
        .map(({ id }) => ({ key: planeKey(id, 'mask'), owner: { id, name }, map: 'mask' as const, width, height, wraps })),
    ),
    ...sheet.pictures.map((p) => ({
      key: planeKey(p.id, 'picture'),
      owner: p,
      map: 'picture' as const,
      width: p.width,
      height: p.height,
      wraps: {},
    })),
  ];
}

/** Integrity check, used by tests and development builds: the first fault as a sentence, or null. */
export function validateTiles(store: TileStore): string | null {
  for (const plane of store.planeKeys()) {
    const channels = storedChannels(parsePlaneKey(plane).map);
    for (const [tile, version] of store.tilesOf(plane)) {
      if (version.data && version.data.length !== TILE_TEXELS * channels)
        return `Tile ${tile} of ${plane} has ${version.data.length} numbers, not ${TILE_TEXELS * channels}.`;
      if (!version.data && !version.hash) return `Tile ${tile} of ${plane} has neither pixels nor a hash.`;
    }
  }
  return null;
}
