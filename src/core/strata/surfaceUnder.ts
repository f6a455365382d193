/** Where the strata in a store of tiles find the model under a sheet. */
import { fenceMask } from '../document/fence';
import type { Sheet } from '../document/schema';
import { inSpace } from '../kinds/placement';
import { SOURCES, type Made } from '../kinds/sources';
import { STEPS } from '../kinds/steps';
import type { Surface } from '../mesh/surface';
import type { TileStore } from '../tile/tiles';

const surfaces = new WeakMap<TileStore, { of: (sheet: Sheet) => Surface | null; stamp: (sheet: Sheet) => number | null }>();

/**
 * From now on the strata in a store find the model under a sheet here; null on canvases and where no model is at hand. `stamp`: that
 * of the surface, where it can be said without making it.
 */
export function giveSurfaces(
  store: TileStore,
  of: (sheet: Sheet) => Surface | null,
  stamp = (sheet: Sheet) => of(sheet)?.stamp ?? null,
): void {
  surfaces.set(store, { of, stamp });
}

export const hasSurfaces = (store: TileStore): boolean => surfaces.has(store);

/** A store finds the model where another one does. */
export function shareSurfaces(from: TileStore, to: TileStore): void {
  const of = surfaces.get(from);
  if (of) surfaces.set(to, of);
}

/** A copy that can go its own way, over the same model. */
export function copyOfStore(store: TileStore): TileStore {
  const copy = store.clone();
  shareSurfaces(store, copy);
  return copy;
}

/** The model under a sheet, for what hangs on places in space. */
export const surfaceUnder = (store: TileStore, sheet: Sheet): Surface | null => surfaces.get(store)?.of(sheet) ?? null;

/** What says which model lies under the sheet; null: none. */
export const surfaceStampUnder = (store: TileStore, sheet: Sheet): number | null => surfaces.get(store)?.stamp(sheet) ?? null;

/** Whether anything on the sheet hangs on places in space, parts or islands. */
export function asksForSurface(sheet: Pick<Sheet, 'layers' | 'masks' | 'fence' | 'pictures' | 'materialIndex'>): boolean {
  if (sheet.materialIndex === null) return false;
  const onModel = (made: Made | null) => made !== null && SOURCES[made.type].where(made) === 'model';
  return (
    // A bake that is looked at shows where it met nothing.
    sheet.pictures.some((p) => p.bake) ||
    sheet.layers.some((l) => inSpace(l.placement) || onModel(l.source)) ||
    [...sheet.masks, fenceMask(sheet)].some((m) => m.steps.some(({ source }) => STEPS[source.type].onSurface?.(source)))
  );
}
