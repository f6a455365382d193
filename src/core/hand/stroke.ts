/**
 * One stroke from pen down to pen up: samples → path → steps (walk.ts) → dabs → coverage (laying.ts) → limits (limits.ts) →
 * painted tiles. An area (areas/) gives its coverage when the pen is up. While it runs, the tiles in the store are the stroke's working copies; `end` hands out the changes,
 * `cancel` puts everything back.
 */
import type { BlendId } from '../colour/blend';
import { storedChannels, type MapId, type PlaneMap } from '../kinds/maps';
import { planeKey } from '../document/planes';
import {
  newTexels,
  TILE,
  TILE_TEXELS,
  tileX,
  tileY,
  touch,
  type TileChange,
  type TileIndex,
  type TileStore,
  type TileVersion,
} from '../tile/tiles';
import { copyOfStore } from '../strata/surfaceUnder';
import { Beside } from './beside';
import type { Brush, Write } from './brush';
import type { Sample } from './sample';
import type { StrokeContext } from './context';
import { AREAS, type Area } from './areas';
import { Coverage, type CoverageTile } from './coverage';
import { Laying } from './laying';
import { Limits } from './limits';
import { Meant } from './meant';
import { wholeTexels } from './dither';
import { mirrored } from './mirrored';
import { OnlyPalette } from './onlyPalette';
import { drawnPicture, type Pictures } from './pictures';
import type { TipPicture } from './tipPicture';
import { DEFAULT_PATTERN } from './tools/pattern';
import { TOOLS } from './tools';
import type { ToolContext, ToolDef, ToolStroke } from './tools/tool';
import { VisibleTiles } from './visible';
import { coversSeen, Walk } from './walk';

/** A changed rectangle of one tile, x1/y1 exclusive, texels within the tile. */
export interface DirtyRect {
  tile: TileIndex;
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

interface WorkTile {
  before: TileVersion | null;
  after: Uint16Array;
}

/** The artist is told when a larger share of a stroke's texels could not show what was meant. */
const MISSED_SHARE = 0.1;

export class Stroke {
  private coverage: Coverage;
  private laying: Laying;
  private walk: Walk;
  private work = new Map<string, Map<TileIndex, WorkTile>>();
  private tool: ToolStroke;
  private settings: ToolContext['settings'];
  /** What the tool writes. */
  private readonly writes: [PlaneMap, Write][];
  private visible: VisibleTiles;
  private readonly limits: Limits;
  private readonly only: OnlyPalette | null;
  private readonly brush: Brush;
  /** Those of an area. */
  private samples: Sample[] = [];
  private reachedAny = false;
  private leftAny = false;

  constructor(
    private context: StrokeContext,
    given: Brush,
    private def: ToolDef = TOOLS[given.mode],
  ) {
    const brush = def.prepare?.(given) ?? given;
    this.brush = brush;
    this.limits = new Limits(context, brush, () => this.asItWas());
    this.only = brush.only ? new OnlyPalette(brush.only) : null;
    this.coverage = new Coverage(context.sheet.width, context.sheet.height);
    this.visible = new VisibleTiles(context.sheet, context.layerId, () => this.asItWas());
    this.settings = { ...def.start, ...brush.settings };
    this.writes = (Object.entries(brush.writes) as [PlaneMap, Write][]).filter(([map, w]) => w.on && (def.writes?.(map) ?? true));
    this.tool = def.begin({
      settings: this.settings,
      maps: this.writes.map(([map]) => map),
      sheet: context.sheet,
      layerId: context.layerId,
      surface: context.surface,
      beside: new Beside(context),
      source: brush.source ?? null,
      pattern: () => pictureFor(given, context.pictures),
      visible: (of, map, tile) => this.visible.tile(of, map, tile),
      meant: (map) => this.meantOf(map),
      picture: (id) => {
        const found = context.picture?.(id) ?? context.sheet.pictures.find((p) => p.id === id);
        const plane = planeKey(id, 'picture');
        return found ? { ...found, tile: (index) => context.store.data(plane, index) } : null;
      },
      stored: (map, tile) => this.before(planeKey(context.layerId, map), tile)?.data ?? null,
    });
    const { tool } = this;
    // Tools that go from dab to dab do so on the surface.
    const laid: Brush = tool.dab && coversSeen(brush) ? { ...brush, reach: 'connected' } : brush;
    this.laying = new Laying(context, laid, this.coverage, tool.dab ? (imprint, dab) => tool.dab!(imprint, dab) : null);
    this.walk = new Walk(context, laid, (place, drive) => this.laying.step(place, drive));
  }

  private meant = new Map<MapId, Meant | null>();

  private meantOf(map: MapId): Meant | null {
    let meant = this.meant.get(map);
    if (meant === undefined) {
      const { sheet, layerId } = this.context;
      meant = Meant.of(sheet, layerId, map, (scope, tile) => this.visible.evaluate(scope, tile));
      this.meant.set(map, meant);
    }
    return meant;
  }

  /** A map on which what was meant cannot be shown, and how the layer joins there; null: it was shown, or nearly all of it. */
  get unreached(): { map: MapId; blend: BlendId | 'through' } | null {
    for (const [map, meant] of this.meant)
      if (meant && meant.missed > meant.laid * MISSED_SHARE) return { map, blend: meant.blend };
    return null;
  }

  get dabCount(): number {
    return this.laying.dabCount;
  }

  /** Takes pointer samples; all of them belong to the pane in which the stroke began. */
  add(samples: readonly Sample[]): void {
    if (this.brush.area) this.samples.push(...samples);
    else this.walk.add(samples);
  }

  /** It reached texels, and what limits it left nothing of that. */
  get fencedOut(): boolean {
    return this.reachedAny && !this.leftAny;
  }

  /** Paints what the dabs have reached since the last call; returns what changed. */
  flush(): DirtyRect[] {
    const { dirty } = this.coverage;
    const rects = dirty.map((t) => ({ tile: t.index, x0: t.x0, y0: t.y0, x1: t.x1, y1: t.y1 }));
    for (const t of dirty) {
      const limit = this.limits.tile(t.index, t);
      this.reachedAny ||= reaches(t, t.values);
      if (limit && !reaches(t, limit)) continue;
      const coverage = this.coverage.received(t, limit, this.laying.fixed);
      this.leftAny ||= reaches(t, coverage);
      const { x0, y0, x1, y1 } = t;
      for (const [map, write] of this.writes) {
        const channels = storedChannels(map);
        const plane = planeKey(this.context.layerId, map);
        const tile = this.workTile(plane, t.index, channels, map);
        if (!tile) continue;
        touch(this.context.store.get(plane, t.index)!);
        const before = tile.before?.data ?? null;
        const { value, amount } = write;
        const colours = (value.length === 3 ? this.limits.colours(t.index) : null) ?? t.inks?.get(map) ?? null;
        this.tool.flush({
          map,
          tile: t.index,
          channels,
          x0,
          y0,
          x1,
          y1,
          coverage,
          before,
          after: tile.after,
          value,
          colours,
          amount,
        });
        if (value.length === 3) this.only?.apply(tile.after, coverage, t);
      }
    }
    this.coverage.clearDirty();
    return rects;
  }

  /** Finishes the path. Call `flush` afterwards, then `changes`. */
  end(): void {
    if (this.brush.area) this.coverArea(this.brush.area);
    else {
      this.walk.end();
      this.laying.end();
    }
    if (this.tool.end?.(this.coverage.touched())) this.coverage.markAll();
  }

  private coverArea(area: Area): void {
    const { context, brush, coverage, visible } = this;
    if (this.samples.length === 0 || this.def.needsPath) return;
    const { images, middle } = mirrored(brush.mirror, context);
    AREAS[area.type].cover(area, {
      ...context,
      ...{ samples: this.samples, coverage, visible, images, middle },
      view: brush.view ?? null,
      opacity: brush.opacity,
      dither: (brush.tip.grid && brush.tip.dither) || null,
      second: brush.second ?? null,
      colours: this.writes.filter(([, w]) => w.value.length === 3).map(([map, w]) => ({ map, value: w.value })),
    });
    const { grid, dither } = brush.tip;
    const { graded } = AREAS[area.type];
    if (grid && (dither || !graded))
      for (const tile of coverage.touched())
        wholeTexels(tile.values, tile.all, tileX(tile.index), tileY(tile.index), brush.opacity, {
          dither: dither ?? null,
          thickness: graded ? 1 : brush.flow,
        });
  }

  /** What the stroke did to the tiles; empty if it touched nothing. It is over then. */
  changes(): TileChange[] {
    this.coverage.release();
    const out: TileChange[] = [];
    for (const [plane, tiles] of this.work)
      for (const [tile, { before }] of tiles) out.push({ plane, tile, before, after: this.context.store.get(plane, tile) });
    return out;
  }

  cancel(): void {
    this.coverage.release();
    for (const [plane, tiles] of this.work) for (const [tile, { before }] of tiles) this.context.store.set(plane, tile, before);
    this.work.clear();
  }

  /** A tile as the stroke found it. */
  private before(plane: string, tile: TileIndex): TileVersion | null {
    const work = this.work.get(plane)?.get(tile);
    return work ? work.before : this.context.store.get(plane, tile);
  }

  /** The store without what this stroke has done. */
  private asItWas(): TileStore {
    const store = copyOfStore(this.context.store);
    for (const [plane, tiles] of this.work) for (const [tile, { before }] of tiles) store.set(plane, tile, before);
    return store;
  }

  private workTile(plane: string, tile: TileIndex, channels: 2 | 4, map: PlaneMap): WorkTile | null {
    const tiles = this.work.get(plane) ?? this.work.set(plane, new Map()).get(plane)!;
    let work = tiles.get(tile);
    if (!work) {
      const before = this.context.store.get(plane, tile);
      if (!before && this.def.onPaintOnly?.(this.settings, map)) return null;
      // A tile whose pixels are missing on the server counts as empty.
      const after = newTexels(TILE_TEXELS * channels);
      if (before?.data) after.set(before.data);
      work = { before, after };
      tiles.set(tile, work);
      this.context.store.set(plane, tile, { data: after, hash: null });
    }
    return work;
  }
}

/** Whether anything lies in the rectangle that a tile has changed in. */
function reaches({ x0, y0, x1, y1 }: CoverageTile, values: Float32Array): boolean {
  for (let y = y0; y < y1; y++) for (let i = y * TILE + x0; i < y * TILE + x1; i++) if (values[i] > 0) return true;
  return false;
}

/** The tip's own picture, or the rope that every server has. */
function pictureFor({ tip }: Brush, pictures: Pictures = drawnPicture): TipPicture {
  const own = tip.shape === 'picture' && tip.picture ? pictures(tip.picture) : null;
  return own ?? drawnPicture(DEFAULT_PATTERN)!;
}
