/**
 * One stroke from pen down to pen up: samples → path → dabs → coverage → painted tiles.
 * While it runs, the tiles in the store are the stroke's working copies; `end` hands out the changes,
 * `cancel` puts everything back.
 */
import { storedChannels, type PlaneMap } from '../kinds/maps';
import { type Sheet } from '../document/schema';
import { planeKey } from '../document/planes';
import { hash24 } from '../../kernels/hash';
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
import { mixSamples, pixelDistance, type Brush, type Sample } from './brush';
import { shiftColour } from '../colour/shift';
import { Coverage, falloffTable, rimHardness, type Ink } from './coverage';
import { dabFlat, type FlatDab } from './dabFlat';
import { dabSurface } from './dabSurface';
import { imageOfDab } from './images';
import { Imprint } from './imprint';
import { drawnPicture, type Pictures } from './pictures';
import { imagesOf, isMirrored, onCanvas, type Image } from './mirror';
import { StrokePath } from './path';
import { beside, directionBetween, frameAt, jumpSlack, modelDiameter, placeDistance, sheetPlace, type Touch } from './place';
import { pictureOfRule, textureFor, texturise, type TipTexture } from './texture';
import { LEAST_ROUNDNESS, type DabTip, type TipFrame } from './tip';
import type { TipPicture } from './tipPicture';
import { TOOLS } from './tools';
import type { ToolContext, ToolDef, ToolStroke } from './tools/tool';
import { leaning, speedOf, variesColour, vary, type Drive, type Varying } from './vary';
import { VisibleTiles } from './visible';

export interface StrokeContext {
  sheet: Sheet;
  layerId: string;
  store: TileStore;
  /** null for canvases. */
  surface: { map: SurfaceMap; query: SurfaceQuery; islands: Islands } | null;
  /** How much of its coverage each texel of a tile takes, 0 … 1, row by row; null, or left out: all of it. */
  limit?: (tile: TileIndex) => Float32Array | null;
  /** Of what is left to chance. */
  seed?: number;
  /** Pictures of tips and textures. Left out: only those that Brindle draws. */
  pictures?: Pictures;
}

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

/** A hit this many diameters away is another part of the model, not the way the pen went. */
const JUMP_DIAMETERS = 6;
/** Of a tip that is made smaller than this share of its size nothing is left. */
const LEAST_SIZE = 0.004;
/** Tips are at least so many texels across the radius; what is smaller covers its share of that. */
const LEAST_RADIUS = 0.5;
/** Milliseconds. */
const LONGEST_REST = 2000;
/** How much of the old speed stays with each new point: hands are read unevenly. */
const CALM_SPEED = 0.7;

export class Stroke {
  private coverage: Coverage;
  private imprint: Imprint;
  private picture: TipPicture | null = null;
  private texture: TipPicture | null = null;
  /** Maps whose colour each dab has for itself. */
  private inked: { map: PlaneMap; value: readonly number[] }[] = [];
  /** When the last dab was laid, in the samples' time. */
  private lastDabAt = 0;
  private path: StrokePath;
  private last: Touch | null = null;
  /** A first place whose dab waits for the stroke's direction. */
  private waiting: Touch | null = null;
  private untilNext = 0;
  private direction = 0;
  private speed = 0;
  private travelled: Drive['length'] = { diameters: 0, millimetres: 0, texels: 0 };
  private readonly turnsWithStroke: boolean;
  private readonly images: Image[] = [];
  /** Where mirrors and the axis meet. */
  private middle: readonly number[] = [0, 0, 0];
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
    const { width, height } = context.sheet;
    this.coverage = new Coverage(width, height);
    this.imprint = new Imprint(width, height);
    this.path = new StrokePath(brush.smoothing, brush.string);
    const pictures = context.pictures ?? drawnPicture;
    // A picture that is not there is taken for a plain round tip.
    if (brush.tip.shape === 'picture') this.picture = brush.tip.picture ? pictures(brush.tip.picture) : null;
    if (brush.texture)
      this.texture = typeof brush.texture.of === 'string' ? pictures(brush.texture.of) : pictureOfRule(brush.texture.of);
    if (variesColour(brush.vary))
      for (const [map, write] of Object.entries(brush.writes) as [PlaneMap, Brush['writes'][PlaneMap]][])
        if (write?.on && write.value.length === 3) this.inked.push({ map, value: write.value });
    this.turnsWithStroke = brush.vary.some((line) => line.by === 'direction');
    if (brush.mirror && isMirrored(brush.mirror)) {
      const { sheet, surface } = context;
      this.images = imagesOf(surface ? brush.mirror : onCanvas(brush.mirror));
      this.middle = brush.mirror.at ?? (surface ? surface.query.middle : [sheet.width / 2, sheet.height / 2, 0]);
    }
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
        const colours = t.inks?.get(map) ?? null;
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
      }
    }
    this.coverage.clearDirty();
    return rects;
  }

  /** Finishes the path. Call `flush` afterwards, then `changes`. */
  end(): void {
    for (const point of this.path.end()) this.walkTo(point);
    this.layWaiting();
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
    if (sample.pane === 'flat') return { pane: 'flat', x: sample.x, y: sample.y, radius: this.radiusAt(sample, null, 1), sample };
    const hit = this.context.surface?.query.raycast(sample.origin, sample.direction);
    return hit ? { pane: 'model', hit, radius: this.radiusAt(sample, hit, 1), sample } : null;
  }

  /** Of the brush at a share of its size: metres on the model, texels in the flat sheet. */
  private radiusAt(sample: Sample, hit: SurfaceHit | null, share: number): number {
    const diameter = this.brush.size * share;
    if (sample.pane === 'model') return Math.max(1e-9, modelDiameter(this.brush, diameter, sample, hit!) / 2);
    const texels = this.brush.sizeUnit === 'screen' ? diameter * sample.texelsPerPixel : (diameter / 1000) * this.texelsPerMetre;
    return Math.max(1e-3, texels / 2);
  }

  private get texelsPerMetre(): number {
    return this.context.surface?.map.texelsPerMetre ?? this.context.sheet.width;
  }

  /** Puts dabs at even distances along the way from the last point to this one. */
  private walkTo(sample: Sample): void {
    const place = this.resolve(sample);
    const from = this.last;
    this.last = place;
    if (!place) return;
    const distance = from ? placeDistance(from, place) : Infinity;
    if (!from || distance > JUMP_DIAMETERS * 2 * place.radius + jumpSlack(from, place)) {
      // A tip that turns with the stroke waits until it is known where that goes.
      this.layWaiting();
      if (this.turnsWithStroke) this.waiting = place;
      else this.untilNext = this.step(place, this.dab(place));
      return;
    }
    this.going(from, place);
    if (distance > 0) this.layWaiting();
    if (this.waiting) return;
    let at = this.untilNext;
    const before = { ...this.travelled };
    while (at <= distance && distance > 0) {
      const between = this.resolve(mixSamples(from.sample, place.sample, at / distance));
      this.travel(before, place, at);
      const radius = between && this.dab(between);
      at += this.step(between ?? place, radius ?? place.radius);
    }
    this.travel(before, place, distance);
    this.untilNext = at - distance;
    this.rest(place);
  }

  /** Dabs by time, while the pen rests: those that came by distance count. */
  private rest(place: Touch): void {
    const { rate } = this.brush;
    if (rate === 0) return;
    const every = 1000 / rate;
    // A pause longer than this is a fault of the clock.
    this.lastDabAt = Math.max(this.lastDabAt, place.sample.time - LONGEST_REST);
    while (place.sample.time - this.lastDabAt >= every) {
      const due = this.lastDabAt + every;
      this.dab(place);
      this.lastDabAt = due;
    }
  }

  private layWaiting(): void {
    const { waiting } = this;
    this.waiting = null;
    if (waiting) this.untilNext = this.step(waiting, this.dab(waiting));
  }

  /** Which way and how fast the pen goes now. */
  private going(from: Touch, to: Touch): void {
    const frame = to.pane === 'model' ? frameAt(to.sample, to.hit) : null;
    this.direction = directionBetween(from, to, frame) ?? this.direction;
    const speed = speedOf(pixelDistance(from.sample, to.sample), to.sample.time - from.sample.time);
    this.speed = this.speed * CALM_SPEED + speed * (1 - CALM_SPEED);
  }

  /** The stroke has come `distance` on from where it had come to, in the place's unit. */
  private travel(before: Drive['length'], { pane, radius }: Touch, distance: number): void {
    const texels = pane === 'flat' ? distance : distance * this.texelsPerMetre;
    this.travelled = {
      diameters: before.diameters + distance / (2 * radius),
      millimetres: before.millimetres + (texels / this.texelsPerMetre) * 1000,
      texels: before.texels + texels,
    };
  }

  private step({ pane }: Touch, radius: number): number {
    // At least a quarter of a texel, so that tiny tips do not pile up dabs.
    const texel = pane === 'flat' ? 1 : 1 / this.texelsPerMetre;
    return Math.max(texel / 4, this.brush.spacing * 2 * radius);
  }

  /** Lays the dabs of one step; the radius of the last. */
  private dab(place: Touch): number {
    this.lastDabAt = place.sample.time;
    let radius = place.radius;
    const count = this.brush.dabs;
    for (let n = 0; n < count; n++) {
      const varying = this.varyingAt(place);
      // The share of dabs that lines leave, of which the first is always there.
      if (n > 0 && n >= Math.round(count * varying.dabs)) continue;
      radius = this.one(place, varying);
    }
    return radius;
  }

  private varyingAt({ sample }: Touch): Varying {
    const pen = leaning(sample.tiltX, sample.tiltY);
    return vary(
      this.brush.vary,
      {
        pressure: sample.pressure,
        tilt: pen.tilt,
        tiltDirection: pen.direction,
        direction: this.direction,
        speed: this.speed,
        length: this.travelled,
        dab: this.dabCount++,
      },
      this.context.seed ?? 1,
    );
  }

  /** Lays one dab, as the brush's lines have it here; its radius. */
  private one(place: Touch, varying: Varying): number {
    const { brush, context } = this;
    const least = LEAST_RADIUS / (place.pane === 'flat' ? 1 : this.texelsPerMetre);
    const wanted = Math.max(least, place.radius) * varying.size;
    const radius = Math.max(least, wanted);
    if (varying.size < LEAST_SIZE) return radius;
    const tip: DabTip = {
      shape: brush.tip.shape === 'picture' && !this.picture ? 'round' : brush.tip.shape,
      roundness: Math.min(1, Math.max(LEAST_ROUNDNESS, brush.tip.roundness * varying.roundness)),
      angle: ((brush.tip.angle + varying.angle) * Math.PI) / 180,
      ...(this.picture && { picture: this.picture }),
    };
    const texture = this.textureOf(place, radius, varying);
    if (texture && brush.texture!.fix === 'tip') tip.texture = texture;
    const frame = place.pane === 'model' ? frameAt(place.sample, place.hit) : null;
    const at = this.scattered(place, frame, 2 * radius * varying.along, 2 * radius * varying.across);
    if (!at) return radius;
    const cap = Math.min(1, brush.opacity * varying.opacity);
    const flow = Math.min(1, brush.flow * varying.flow) * (wanted < least ? (wanted / least) ** 2 : 1);
    this.imprint.clear();
    this.lay(at, radius, tip, frame);
    for (const image of this.images) {
      const there = imageOfDab(image, { at, radius, tip, frame }, this.middle, context.surface, this.texelsPerMetre);
      if (there) this.lay(there.at, there.radius, there.tip, there.frame);
    }
    if (texture && brush.texture!.fix !== 'tip')
      texturise(this.imprint, texture, brush.texture!.fix === 'surface' ? (context.surface?.map ?? null) : null);
    this.coverage.lay(this.imprint, flow, cap, this.inksOf(varying));
    return radius;
  }

  /** Each dab has its own piece of a texture that goes with the tip. */
  private textureOf(place: Touch, radius: number, varying: Varying): TipTexture | null {
    const { texture } = this.brush;
    if (!texture || !this.texture) return null;
    const radiusTexels = place.pane === 'flat' ? radius : radius * this.texelsPerMetre;
    const onCanvas = texture.fix === 'surface' && !this.context.surface;
    const seed = this.context.seed ?? 1;
    return textureFor(onCanvas ? { ...texture, fix: 'sheet' } : texture, this.texture, this.texelsPerMetre, {
      radiusTexels,
      depth: varying.texture,
      x: hash24(this.dabCount, 0x7e, seed) / 0x1000000,
      y: hash24(this.dabCount, 0x7f, seed) / 0x1000000,
    });
  }

  private inksOf(varying: Varying): Ink[] | null {
    if (this.inked.length === 0) return null;
    const { second } = this.brush;
    return this.inked.map(({ map, value }) => ({ map, colour: shiftColour(value, second ?? value, varying) }));
  }

  private lay(at: Touch, radius: number, tip: DabTip, frame: TipFrame | null): void {
    const { brush, context } = this;
    const texels = at.pane === 'flat' ? radius : radius * this.texelsPerMetre;
    if (brush.tip.grid) return this.dabOnGrid(at, texels, tip);
    this.softenFor(rimHardness(brush.hardness, texels * tip.roundness));
    if (at.pane === 'flat') return this.dabInSheet({ x: at.x, y: at.y, radiusTexels: radius, tip });
    if (!context.surface) return;
    const { map, query } = context.surface;
    dabSurface(this.imprint, map, query, { hit: at.hit, radius, reach: brush.reach, tip, frame: frame! }, this.falloff);
  }

  private softenFor(hardness: number): void {
    if (hardness === this.falloffFor) return;
    this.falloff = falloffTable(hardness);
    this.falloffFor = hardness;
  }

  private dabInSheet(dab: FlatDab): void {
    const { wrapU, wrapV } = this.context.sheet;
    dabFlat(this.imprint, dab, this.falloff, { wrapU, wrapV, allow: this.islandLimit(dab.x, dab.y) });
  }

  /** Whole texels around the place, on the model those of the sheet that lies there. */
  private dabOnGrid(at: Touch, radius: number, tip: DabTip): void {
    const place = at.pane === 'flat' ? at : sheetPlace(at.hit, this.context.surface!.map);
    const size = Math.max(1, Math.round(2 * radius));
    const snap = (v: number) => Math.round(v - size / 2) + size / 2;
    this.softenFor(1);
    // A hair more than half its size, so that texels at the rim are in it.
    this.dabInSheet({
      x: snap(place.x),
      y: snap(place.y),
      radiusTexels: size / 2 + 1e-3,
      tip: { ...tip, angle: tip.shape === 'square' ? 0 : tip.angle },
    });
  }

  /** Beside the stroke's way, so far on and so far to its right; null: the model is not there. */
  private scattered(place: Touch, frame: TipFrame | null, along: number, across: number): Touch | null {
    if (along === 0 && across === 0) return place;
    const [c, s] = [Math.cos(this.direction), Math.sin(this.direction)];
    const [x, y] = [c * along - s * across, s * along + c * across];
    if (place.pane === 'flat') return { ...place, x: place.x + x, y: place.y + y };
    const { origin } = place.sample;
    const aim = beside(place.hit.point, frame!, x, y).map((v, k) => v - origin[k]);
    const hit = this.context.surface!.query.raycast(origin, aim);
    // Past a rim the ray meets another part far behind.
    if (!hit || Math.abs(hit.distance - place.hit.distance) > 2 * Math.hypot(x, y) + place.radius) return null;
    return { ...place, hit };
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
