/**
 * One stroke from pen down to pen up: samples → path → dabs → coverage → painted tiles.
 * While it runs, the tiles in the store are the stroke's working copies; `end` hands out the changes,
 * `cancel` puts everything back.
 */
import { storedChannels, type PlaneMap } from '../kinds/maps';
import { type Sheet } from '../document/schema';
import { planeKey } from '../document/planes';
import type { SurfaceMap } from '../mesh/surfaceMap';
import type { SurfaceHit, SurfaceQuery } from '../mesh/surfaceQuery';
import {
  newTexels,
  TILE,
  tileIndex,
  TILE_TEXELS,
  touch,
  type TileChange,
  type TileIndex,
  type TileStore,
  type TileVersion,
} from '../tile/tiles';
import type { Islands } from '../mesh/topology';
import { copyOfStore } from '../strata/surface';
import { mixSamples, type Brush, type ModelSample, type Sample } from './brush';
import { Coverage, falloffTable, rimHardness } from './coverage';
import { dabFlat } from './dabFlat';
import { dabSurface } from './dabSurface';
import { StrokePath } from './path';
import { TOOLS } from './tools';
import type { ToolContext, ToolDef, ToolStroke } from './tools/tool';
import { VisibleTiles } from './visible';

export interface StrokeContext {
  sheet: Sheet;
  layerId: string;
  store: TileStore;
  /** null for canvases. */
  surface: { map: SurfaceMap; query: SurfaceQuery; islands: Islands } | null;
  /** How much of its coverage each texel of a tile takes, 0 … 1, row by row; null, or left out: all of it. */
  limit?: (tile: TileIndex) => Float32Array | null;
}

/** A changed rectangle of one tile, x1/y1 exclusive, texels within the tile. */
export interface DirtyRect {
  tile: TileIndex;
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** Where the pen touches: a place of the model, or of the sheet. */
type Touch =
  | { pane: 'model'; hit: SurfaceHit; radius: number; sample: Sample }
  | { pane: 'flat'; x: number; y: number; radius: number; sample: Sample };

interface WorkTile {
  before: TileVersion | null;
  after: Uint16Array;
}

/** A hit this many diameters away is another part of the model, not the way the pen went. */
const JUMP_DIAMETERS = 6;
/** Pressure never makes a tip smaller than this share of its size. */
const MIN_PRESSURE_SIZE = 0.05;

export class Stroke {
  private coverage: Coverage;
  private path: StrokePath;
  private last: Touch | null = null;
  private untilNext = 0;
  private falloff: Float32Array = new Float32Array(0);
  private falloffFor = -1;
  private work = new Map<string, Map<TileIndex, WorkTile>>();
  private tool: ToolStroke;
  private settings: ToolContext['settings'];
  private visible: VisibleTiles;
  dabCount = 0;

  constructor(
    private context: StrokeContext,
    private brush: Brush,
    private def: ToolDef = TOOLS[brush.mode],
  ) {
    this.coverage = new Coverage(context.sheet.width, context.sheet.height);
    this.path = new StrokePath(brush.smoothing);
    this.visible = new VisibleTiles(context.sheet, context.layerId, () => this.asItWas());
    this.settings = { ...def.start, ...brush.settings };
    this.tool = def.begin({ settings: this.settings, visible: (of, map, tile) => this.visible.tile(of, map, tile) });
  }

  /** Takes pointer samples; all of them belong to the pane in which the stroke began. */
  add(samples: readonly Sample[]): void {
    for (const sample of samples) for (const point of this.path.add(sample)) this.walkTo(point);
  }

  /** Paints what the dabs have reached since the last call; returns what changed. */
  flush(): DirtyRect[] {
    const { dirty } = this.coverage;
    const rects = dirty.map((t) => ({ tile: t.index, x0: t.x0, y0: t.y0, x1: t.x1, y1: t.y1 }));
    const writes = Object.entries(this.brush.writes) as [PlaneMap, Brush['writes'][PlaneMap]][];
    for (const t of dirty) {
      const coverage = this.coverage.received(t, this.context.limit?.(t.index) ?? null);
      const { x0, y0, x1, y1 } = t;
      for (const [map, write] of writes) {
        if (!write?.on) continue;
        const channels = storedChannels(map);
        const plane = planeKey(this.context.layerId, map);
        const tile = this.workTile(plane, t.index, channels, map);
        if (!tile) continue;
        touch(this.context.store.get(plane, t.index)!);
        const before = tile.before?.data ?? null;
        const { value, amount } = write;
        this.tool.flush({ map, tile: t.index, channels, x0, y0, x1, y1, coverage, before, after: tile.after, value, amount });
      }
    }
    this.coverage.clearDirty();
    return rects;
  }

  /** Finishes the path. Call `flush` afterwards, then `changes`. */
  end(): void {
    for (const point of this.path.end()) this.walkTo(point);
    this.tool.end?.();
  }

  /** What the stroke did to the tiles; empty if it touched nothing. */
  changes(): TileChange[] {
    const out: TileChange[] = [];
    for (const [plane, tiles] of this.work)
      for (const [tile, { before }] of tiles) out.push({ plane, tile, before, after: this.context.store.get(plane, tile) });
    return out;
  }

  cancel(): void {
    for (const [plane, tiles] of this.work) for (const [tile, { before }] of tiles) this.context.store.set(plane, tile, before);
    this.work.clear();
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
      // A tile whose pixels are missing in the house counts as empty.
      const after = newTexels(TILE_TEXELS * channels);
      if (before?.data) after.set(before.data);
      work = { before, after };
      tiles.set(tile, work);
      this.context.store.set(plane, tile, { data: after, hash: null });
    }
    return work;
  }

  private resolve(sample: Sample): Touch | null {
    const pressure = this.brush.pressureSize ? Math.max(MIN_PRESSURE_SIZE, sample.pressure) : 1;
    const diameter = this.brush.size * pressure;
    const perMetre = this.context.surface?.map.texelsPerMetre ?? this.context.sheet.width;
    if (sample.pane === 'flat') {
      const texels = this.brush.sizeUnit === 'screen' ? diameter * sample.texelsPerPixel : (diameter / 1000) * perMetre;
      return { pane: 'flat', x: sample.x, y: sample.y, radius: Math.max(0.5, texels / 2), sample };
    }
    const hit = this.context.surface?.query.raycast(sample.origin, sample.direction);
    if (!hit) return null;
    return { pane: 'model', hit, radius: Math.max(1e-9, modelDiameter(this.brush, diameter, sample, hit) / 2), sample };
  }

  /** Puts dabs at even distances along the way from the last point to this one. */
  private walkTo(sample: Sample): void {
    const place = this.resolve(sample);
    const from = this.last;
    this.last = place;
    if (!place) return;
    const distance = from ? placeDistance(from, place) : Infinity;
    if (!from || distance > JUMP_DIAMETERS * 2 * place.radius + jumpSlack(from, place)) {
      this.dab(place);
      this.untilNext = this.step(place);
      return;
    }
    let at = this.untilNext;
    while (at <= distance && distance > 0) {
      const between = this.resolve(mixSamples(from.sample, place.sample, at / distance));
      if (between) this.dab(between);
      at += this.step(between ?? place);
    }
    this.untilNext = at - distance;
  }

  private step(place: Touch): number {
    // At least a quarter of a texel, so that tiny tips do not pile up dabs.
    const texel = place.pane === 'flat' ? 1 : 1 / (this.context.surface?.map.texelsPerMetre ?? 1);
    return Math.max(texel / 4, this.brush.spacing * 2 * place.radius);
  }

  private dab(place: Touch): void {
    const { brush, context } = this;
    this.dabCount++;
    const cap = brush.opacity * (brush.pressureOpacity ? place.sample.pressure : 1);
    const texels = place.pane === 'flat' ? place.radius : place.radius * (context.surface?.map.texelsPerMetre ?? 1);
    const hardness = rimHardness(brush.hardness, texels);
    if (hardness !== this.falloffFor) {
      this.falloff = falloffTable(hardness);
      this.falloffFor = hardness;
    }
    this.tool.dab?.({
      pane: place.pane,
      centre: place.pane === 'flat' ? [place.x, place.y] : place.hit.point,
      radius: place.radius,
      pressure: place.sample.pressure,
    });
    if (place.pane === 'flat') {
      const { wrapU, wrapV } = context.sheet;
      const dab = { x: place.x, y: place.y, radiusTexels: place.radius, flow: brush.flow, cap };
      dabFlat(this.coverage, dab, this.falloff, { wrapU, wrapV, allow: this.islandLimit(place.x, place.y) });
    } else if (context.surface) {
      const { map, query } = context.surface;
      dabSurface(
        this.coverage,
        map,
        query,
        { hit: place.hit, radius: place.radius, flow: brush.flow, cap, reach: brush.reach },
        this.falloff,
      );
    }
  }

  /** In the flat pane `connected` means: only the island under the dab's centre, with its gutter. */
  private islandLimit(x: number, y: number) {
    const surface = this.context.surface;
    if (!surface || this.brush.reach !== 'connected') return undefined;
    const faceAt = (tx: number, ty: number, texel: number) => surface.map.tiles.get(tileIndex(tx, ty))?.face[texel] ?? -1;
    const cx = Math.floor(x);
    const cy = Math.floor(y);
    if (cx < 0 || cy < 0 || cx >= surface.map.width || cy >= surface.map.height) return undefined;
    const face = faceAt((cx / TILE) | 0, (cy / TILE) | 0, (cy % TILE) * TILE + (cx % TILE));
    if (face < 0) return undefined;
    const island = surface.islands.island[face];
    return (tx: number, ty: number, texel: number) => {
      const f = faceAt(tx, ty, texel);
      return f >= 0 && surface.islands.island[f] === island;
    };
  }
}

/** Diameter of the ball in metres for a brush diameter in its unit, at a hit. */
export function modelDiameter(brush: Pick<Brush, 'sizeUnit'>, diameter: number, sample: ModelSample, hit: SurfaceHit): number {
  if (brush.sizeUnit === 'model') return diameter / 1000;
  return diameter * sample.pixelSpread * hit.distance;
}

function placeDistance(a: Touch, b: Touch): number {
  if (a.pane === 'flat' && b.pane === 'flat') return Math.hypot(a.x - b.x, a.y - b.y);
  if (a.pane === 'model' && b.pane === 'model') return Math.hypot(...a.hit.point.map((v, k) => v - b.hit.point[k]));
  return Infinity;
}

/** Flat paths never jump; model paths may cover this much extra between two points of a fast stroke. */
function jumpSlack(a: Touch, b: Touch): number {
  if (a.pane === 'flat' || b.pane === 'flat') return Infinity;
  const s = b.sample as ModelSample;
  return 24 * s.pixelSpread * b.hit.distance;
}
