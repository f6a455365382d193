/** What is seen of a sheet as it was when a stroke began, tile by tile, for tools that look before they paint. */
import type { Sheet } from '../document/schema';
import { mapGround, type MapId } from '../kinds/maps';
import { Evaluator } from '../strata/evaluator';
import { programBelow, programOf, programOfLayers, programThrough } from '../strata/program';
import type { Scope } from '../strata/scope';
import { TileCache, type TileValue } from '../strata/tileCache';
import type { TileIndex, TileStore } from '../tile/tiles';
import type { Visible } from './tools/tool';

/** Some two hundred tiles of colour: more than a stroke reaches at once. */
const CACHE_BYTES = 48 * 1024 * 1024;

export class VisibleTiles {
  private evaluator: Evaluator | null = null;

  /** `store`: the pixels as they were; asked for once, when the first tile is. */
  constructor(
    private sheet: Sheet,
    private layerId: string,
    private store: () => TileStore,
  ) {}

  tile(of: Visible, map: MapId, tile: TileIndex): TileValue {
    return this.evaluate(this.scope(of, map), tile);
  }

  evaluate(scope: Scope, tile: TileIndex): TileValue {
    const { sheet } = this;
    this.evaluator ??= new Evaluator({ sheet, store: this.store(), cache: new TileCache(CACHE_BYTES) });
    return this.evaluator.tile(scope, tile);
  }

  private scope(of: Visible, map: MapId): Scope {
    const { sheet, layerId } = this;
    if (of === 'all') return programOf(sheet, map);
    if (of.startsWith('layer:')) return programOfLayers(sheet, map, [of.slice('layer:'.length)]);
    const layer = sheet.layers.find((l) => l.id === layerId);
    if (of === 'through') return layer ? programThrough(sheet, map, layer) : programOf(sheet, map);
    if (of === 'layer') return programOfLayers(sheet, map, layer ? [layer.id] : []);
    return (layer && programBelow(sheet, map, layer)) ?? programOfLayers(sheet, map, [], mapGround(map));
  }
}
