/** Everything about a piece's mesh that painting needs, made once and shared by its sheets. */
import type { Piece, Sheet } from '../document/schema';
import type { Model } from '../mesh/model';
import { buildSurfaceMap, surfaceMapSteps } from '../mesh/surfaceMap/build';
import type { SurfaceMap, SurfaceMapInput } from '../mesh/surfaceMap/surfaceMap';
import { SurfaceQuery } from '../mesh/surfaceQuery';
import type { TileStore } from '../tile/tiles';
import { signatureNumber, textSignature } from './signature';
import { freshSurfaceStamp, surfaceData, type Surface } from '../mesh/surface';
import { giveSurfaces, hasSurfaces } from './surfaceUnder';
import { buildIslands, buildTopology, type Islands } from '../mesh/topology';

export interface SheetSurface {
  map: SurfaceMap;
  query: SurfaceQuery;
  islands: Islands;
}

export class PieceSurfaces {
  readonly query: SurfaceQuery;
  readonly islands: Islands;
  private uv: Float32Array;
  private maps = new Map<string, SurfaceMap>();

  /** `address`: of the model's bytes; with it what was made from the surfaces is known again another day. */
  constructor(
    readonly model: Model,
    private uvSet: number,
    private address: string | null = null,
  ) {
    const uv = model.uvs[uvSet];
    if (!uv) throw new Error(`The model has no UV set ${uvSet}`);
    this.uv = uv;
    const topology = buildTopology(model);
    this.query = new SurfaceQuery(model, topology);
    this.islands = buildIslands(model, topology, uv);
  }

  /** null for sheets that cover no material. */
  forSheet(sheet: Sheet): SheetSurface | null {
    const input = this.inputFor(sheet);
    if (!input) return null;
    let map = this.madeFor(sheet);
    if (!map) this.maps.set(sheet.id, (map = buildSurfaceMap(input)));
    return { map, query: this.query, islands: this.islands };
  }

  /** What was made, or given, for a sheet as it is. */
  madeFor({ id, width, height }: Sheet): SurfaceMap | null {
    const map = this.maps.get(id);
    return map?.width === width && map.height === height ? map : null;
  }

  /** Makes the map of a sheet in steps. null: it is there, or there is none. */
  stepsFor(sheet: Sheet): Generator<void, void> | null {
    const input = this.inputFor(sheet);
    return input && !this.madeFor(sheet) ? this.steps(sheet, input) : null;
  }

  private *steps(sheet: Sheet, input: SurfaceMapInput): Generator<void, void> {
    this.give(sheet, yield* surfaceMapSteps(input));
  }

  /** A map that was made before takes the place of one that would be made now. */
  give(sheet: Sheet, map: SurfaceMap): void {
    this.maps.set(sheet.id, map);
  }

  /** What a sheet's map is made from; null: it has none. */
  inputFor({ materialIndex, width, height }: Sheet): SurfaceMapInput | null {
    const { model, islands, uv } = this;
    return materialIndex === null ? null : { model, islands, uv, materialIndex, width, height };
  }

  private known = new WeakMap<SurfaceMap, Surface>();

  /** What the strata know of the model under a sheet. */
  dataFor(sheet: Sheet): Surface | null {
    const map = this.forSheet(sheet)?.map;
    if (!map) return null;
    let data = this.known.get(map);
    if (!data) {
      const stamp = this.stampFor(sheet)!;
      this.known.set(map, (data = surfaceData(map, this.model, this.islands, this.query.corner, stamp)));
    }
    return data;
  }

  private stamps = new Map<string, number>();

  /** The same for the same sheet at the same size. */
  stampFor(sheet: Sheet): number | null {
    if (this.address !== null) return lastingSurfaceStamp(this.address, this.uvSet, sheet);
    const { materialIndex, width, height } = sheet;
    if (materialIndex === null) return null;
    const key = `${materialIndex} ${width} ${height}`;
    const stamp = this.stamps.get(key) ?? freshSurfaceStamp();
    this.stamps.set(key, stamp);
    return stamp;
  }

  mapsBySheet(piece: Piece): Map<string, SurfaceMap> {
    return new Map(
      piece.sheets.flatMap((sheet): [string, SurfaceMap][] => {
        const map = this.forSheet(sheet)?.map;
        return map ? [[sheet.id, map]] : [];
      }),
    );
  }
}

/** The stamp of the surface of a model, by its address, under a sheet: the same another day. null: the sheet has none. */
export const lastingSurfaceStamp = (
  address: string,
  uvSet: number,
  { materialIndex, width, height }: Pick<Sheet, 'materialIndex' | 'width' | 'height'>,
): number | null =>
  materialIndex === null
    ? null
    : signatureNumber(textSignature(`surface ${address} ${uvSet} ${materialIndex} ${width} ${height}`));

/** Lets the strata in a store see the model. Does nothing where that is so already. */
export function attachSurfaces(store: TileStore, model: Model, uvSet: number, ready?: PieceSurfaces): void {
  if (hasSurfaces(store)) return;
  // Made when something asks: most documents never do.
  let surfaces = ready ?? null;
  const made = () => (surfaces ??= new PieceSurfaces(model, uvSet));
  giveSurfaces(
    store,
    (sheet) => made().dataFor(sheet),
    (sheet) => made().stampFor(sheet),
  );
}
