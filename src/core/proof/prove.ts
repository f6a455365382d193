/** All meters over all sheets of a piece. */
import type { Piece } from '../document/schema';
import { mapInfo, type MapId } from '../kinds/maps';
import type { Model } from '../mesh/model';
import { Evaluator } from '../strata/evaluator';
import { attachSurfaces, PieceSurfaces } from '../strata/pieceSurfaces';
import type { TileStore } from '../tile/tiles';
import { METERS } from './meters';
import type { Measured, Meter } from './meters/meter';

/** What one meter found on one map of one sheet. */
export interface Finding extends Measured {
  meter: Meter;
  sheet: { id: string; name: string };
  map: { id: MapId; label: string };
  limit: number;
  passed: boolean;
}

export interface Proven {
  piece: Piece;
  store: TileStore;
  /** null on a canvas. */
  model: Model | null;
}

/** One finding at a time, so that the caller can tell of each. `limits`: by meter id, in its unit, instead of its own. */
export function* prove(
  { piece, store, model }: Proven,
  limits: Readonly<Record<string, number>> = {},
  meters: readonly Meter[] = METERS,
): Generator<Finding> {
  const surfaces = model && piece.model ? new PieceSurfaces(model, piece.model.uvSet) : null;
  if (surfaces) attachSurfaces(store, surfaces.model, piece.model!.uvSet, surfaces);
  for (const sheet of piece.sheets) {
    const source = { sheet, store };
    const surface = surfaces?.forSheet(sheet) ?? null;
    const under = surface && { model: surfaces!.model, surface };
    const subject = { source, evaluator: new Evaluator(source), under };
    for (const meter of meters)
      for (const map of meter.maps(sheet)) {
        const measured = meter.measure(subject, map);
        const limit = limits[meter.id] ?? meter.limit;
        const { label } = mapInfo(map, sheet.ownMaps);
        yield {
          ...measured,
          ...{ meter, limit, passed: measured.figure <= limit },
          sheet: { id: sheet.id, name: sheet.name },
          map: { id: map, label },
        };
      }
  }
}
