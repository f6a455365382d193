/** From steps to coverage: each dab as the brush's lines have it there, with its images, its texture, its colours. */
import { hash24 } from '../../kernels/hash';
import { shiftColour } from '../colour/shift';
import { monotoneCurve } from '../kinds/filters/curves';
import type { PlaneMap } from '../kinds/maps';
import { TILE, tileIndex } from '../tile/tiles';
import type { Brush } from './brush';
import { falloffTable, rimmedTip, rimRadius, sharedRim, type Coverage, type Ink, type RimmedTip } from './coverage';
import { dabFlat, type FlatDab, type FlatLimits } from './dabFlat';
import { dabSeen } from './dabSeen';
import { dabSurface } from './dabSurface';
import { imageOfDab, type LaidDab } from './images';
import { Imprint } from './imprint';
import type { Image } from './mirror';
import { mirrored } from './mirrored';
import { drawnPicture } from './pictures';
import { beside, frameAt, sheetPlace, type SeenTouch, type SurfaceTouch, type Touch } from './place';
import { texelsPerMetre, type StrokeContext } from './context';
import { FixedTexture, pictureOfRule, textureFor, type TipTexture } from './texture';
import { LEAST_ROUNDNESS, type DabTip, type TipFrame } from './tip';
import type { TipPicture } from './tipPicture';
import { variesColour, vary, type Varying } from './vary';
import { Sight, type SightOptions } from './sight';
import { viewOfImage } from './view';
import { isCovered } from './dither';
import { TexelPath } from './texelPath';
import { betweenScreenAndSheet, isFlipped, onTexels, texelIn, type StepDrive } from './walk';

/** Of a tip that is made smaller than this share of its size nothing is left. */
const LEAST_SIZE = 0.004;
/** Brushes are at least so many texels across the radius. Lines may make that smaller; pictures then cover their share of it. */
const LEAST_RADIUS = 0.5;
const LEAST_VARIED_RADIUS = 0.02;

let whole: Float32Array | null = null;
/** The table of tips on the texel grid. */
const wholeTip = (): Float32Array => (whole ??= falloffTable(1));

/** Told of each dab and of each of its images, while the imprint has what it gives. */
export type Watcher = (imprint: Imprint, dab: LaidDab & { which: number; weight: number }) => void;

export class Laying {
  readonly imprint: Imprint;
  dabCount = 0;
  private picture: TipPicture | null = null;
  private texture: TipPicture | null = null;
  /** One that does not go with the tip. */
  fixed: FixedTexture | null = null;
  private variesDepth = false;
  /** Maps whose colour each dab has for itself. */
  private inked: { map: PlaneMap; value: readonly number[] }[] = [];
  private readonly images: readonly Image[];
  /** Where mirrors and the axis meet. */
  private readonly middle: readonly number[];
  private falloff: Float32Array | null = null;
  /** By radius. */
  private rims = new Map<number, RimmedTip>();
  /** What the tip gives along its way to the rim; null: by hardness. */
  private readonly edge: ((way: number) => number) | null;
  private direction = 0;

  constructor(
    private context: StrokeContext,
    private brush: Brush,
    private coverage: Coverage,
    private watch: Watcher | null = null,
  ) {
    const { sheet, surface } = context;
    this.edge = brush.tip.edge && brush.tip.shape !== 'picture' && !brush.tip.grid ? monotoneCurve(brush.tip.edge) : null;
    this.texelsPerMetre = texelsPerMetre(context);
    this.imprint = new Imprint(sheet.width, sheet.height);
    const pictures = context.pictures ?? drawnPicture;
    // A picture that is not there is taken for a plain round tip.
    if (brush.tip.shape === 'picture') this.picture = brush.tip.picture ? pictures(brush.tip.picture) : null;
    if (brush.texture)
      this.texture = typeof brush.texture.of === 'string' ? pictures(brush.texture.of) : pictureOfRule(brush.texture.of);
    const { texture } = brush;
    if (this.texture && texture && texture.fix !== 'tip') {
      const fix = surface ? texture.fix : 'sheet';
      const all = { radiusTexels: 1, depth: 1, x: 0, y: 0 };
      const fixed = textureFor({ ...texture, fix }, this.texture, this.texelsPerMetre, all);
      this.fixed = new FixedTexture(fixed, fix === 'surface' ? surface!.map : null);
      this.variesDepth = brush.vary.some((line) => line.what === 'texture');
    }
    if (variesColour(brush.vary))
      for (const [map, write] of Object.entries(brush.writes) as [PlaneMap, Brush['writes'][PlaneMap]][])
        if (write?.on && write.value.length === 3) this.inked.push({ map, value: write.value });
    ({ images: this.images, middle: this.middle } = mirrored(brush.mirror, context));
  }

  private readonly texelsPerMetre: number;

  /** Lays the dabs of one step; the radius of the last. */
  step(place: Touch, drive: StepDrive): number {
    if (!onTexels(this.brush) || place.pane === 'eye') return this.dabs(place, drive);
    const { atX, atY } = this.onGrid(place, place.radius / texelIn(place, this.texelsPerMetre));
    const due = this.texels.add(atX, atY, { place, drive });
    if (due) this.dabs(due.place, due.drive);
    return place.radius;
  }
  private texels = new TexelPath<{ place: Touch; drive: StepDrive }>();

  /** The pen is up: what waited for the way on is laid. */
  end(): void {
    const due = this.texels.end();
    if (due) this.dabs(due.place, due.drive);
  }

  private dabs(place: Touch, drive: StepDrive): number {
    const { brush, context } = this;
    this.direction = betweenScreenAndSheet(place, drive.direction, 'sheet');
    let { radius } = place;
    for (let n = 0; n < brush.dabs; n++) {
      const varying = vary(brush.vary, { ...drive, dab: this.dabCount++ }, context.seed ?? 1);
      // The share of dabs that lines leave, of which the first is always there.
      if (n > 0 && n >= Math.round(brush.dabs * varying.dabs)) continue;
      radius = this.one(place, varying);
    }
    return radius;
  }

  /** Lays one dab, as the brush's lines have it here; its radius. */
  private one(place: Touch, varying: Varying): number {
    const { brush, context } = this;
    const least = LEAST_RADIUS * texelIn(place, this.texelsPerMetre);
    const wanted = Math.max(least, place.radius) * varying.size;
    const step = Math.max(least, wanted);
    if (varying.size < LEAST_SIZE) return step;
    const pictured = this.picture !== null || brush.tip.grid;
    const radius = pictured ? step : Math.max((least / LEAST_RADIUS) * LEAST_VARIED_RADIUS, wanted);
    const tip: DabTip = {
      shape: brush.tip.shape === 'picture' && !this.picture ? 'round' : brush.tip.shape,
      roundness: Math.min(1, Math.max(LEAST_ROUNDNESS, brush.tip.roundness * varying.roundness)),
      angle: betweenScreenAndSheet(place, ((brush.tip.angle + varying.angle) * Math.PI) / 180, 'sheet'),
      ...(isFlipped(place) && { flip: true }),
      ...(this.picture && { picture: this.picture }),
    };
    const texture = this.textureInTip(place, radius, varying);
    if (texture) tip.texture = texture;
    const frame = place.pane === 'model' ? frameAt(place.sample, place.hit) : null;
    const at = this.scattered(place, frame, 2 * radius * varying.along, 2 * radius * varying.across);
    if (!at) return step;
    // Chance goes to both sides of what is set, but opacity is the most that a stroke may give.
    const cap = brush.opacity * Math.min(1, varying.opacity);
    const given = Math.min(1, brush.flow * varying.flow);
    const dithered = brush.tip.grid && brush.tip.dither !== undefined;
    const flow = dithered ? 1 : given * (pictured && wanted < least ? (wanted / least) ** 2 : 1);
    const inks = this.inksOf(varying);
    const depth = this.variesDepth ? varying.texture : null;
    const firm = this.firmness(tip, radius / texelIn(place, this.texelsPerMetre));
    if (at.pane === 'eye') {
      this.imprint.clear();
      this.laySeen(at, radius, tip);
      this.coverage.lay(this.imprint, flow, cap, { inks, depth, firm });
      return step;
    }
    const own: LaidDab = { at, radius, tip, frame };
    const all = [{ ...own, which: 0, weight: flow * cap }];
    this.images.forEach((image, n) => {
      const there = imageOfDab(image, own, this.middle, context.surface, this.texelsPerMetre);
      if (there) all.push({ ...there, which: n + 1, weight: flow * cap });
    });
    if (this.watch)
      for (const laid of all) {
        this.imprint.clear();
        this.lay(laid, given);
        this.watch(this.imprint, laid);
      }
    if (!this.watch || all.length > 1) {
      this.imprint.clear();
      for (const laid of all) this.lay(laid, given);
    }
    this.coverage.lay(this.imprint, flow, cap, { inks, depth, firm });
    return step;
  }

  /** 1 for a tip whose rim is at most one texel soft, falling to 0 at two texels: soft tips build up where their dabs overlap. */
  private firmness({ shape, roundness, texture }: DabTip, radiusTexels: number): number {
    if (shape === 'picture' || texture || this.edge || this.brush.tip.grid) return 0;
    return Math.min(1, Math.max(0, 2 - (1 - this.brush.hardness) * radiusTexels * roundness));
  }

  /** Each dab has its own piece of a texture that goes with the tip. */
  private textureInTip(place: Touch, radius: number, varying: Varying): TipTexture | null {
    const { texture } = this.brush;
    if (texture?.fix !== 'tip' || !this.texture) return null;
    const seed = this.context.seed ?? 1;
    return textureFor(texture, this.texture, this.texelsPerMetre, {
      radiusTexels: radius / texelIn(place, this.texelsPerMetre),
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

  /** `thickness`: how much a dab gives, where the pattern of a dither says which texels have it. */
  private lay({ at, radius, tip, frame }: LaidDab, thickness: number): void {
    const { brush, context } = this;
    const texels = radius / texelIn(at, this.texelsPerMetre);
    if (brush.tip.grid) return this.dabOnGrid(at, texels, tip, thickness);
    const [wide, rimmed] = this.rimmed(radius, tip, texels);
    if (at.pane === 'flat') return this.dabInSheet({ x: at.x, y: at.y, radiusTexels: wide, tip: rimmed });
    if (!context.surface) return;
    // Off the eye's way what is near hangs together.
    const reach = brush.reach === 'all' ? 'all' : 'connected';
    const { map, query } = context.surface;
    dabSurface(this.imprint, map, query, { hit: at.hit, radius: wide, reach, tip: rimmed, frame: frame! }, this.falloff!);
  }

  /** What an eye sees has its images through eyes of their own. */
  private laySeen(at: SeenTouch, radius: number, tip: DabTip): void {
    const texels = radius / texelIn(at, this.texelsPerMetre);
    const [wide, rimmed] = this.rimmed(radius, tip, texels);
    for (const sight of this.eyes()) dabSeen(this.imprint, sight, { x: at.x, y: at.y, radius: wide, tip: rimmed }, this.falloff!);
  }

  /** The eye, and its images: each sees what is painted there. */
  private eyes(): Sight[] {
    if (this.sights) return this.sights;
    const { brush, context, images, middle } = this;
    const { map, query } = context.surface!;
    const options: SightOptions = {
      layers: brush.reach === 'through' ? 'all' : 'front',
      grazing: brush.grazing,
      bothSides: context.sheet.preview.doubleSided,
    };
    const view = brush.view!;
    const views = [view, ...images.map((image) => viewOfImage(view, image, middle))];
    return (this.sights = views.map((v) => new Sight(map, query, v, options)));
  }
  private sights: Sight[] | null = null;

  /** Selects the falloff table for a tip of this radius. Returns the radius up to which that reaches, and the tip with its texture at the same size. */
  private rimmed(radius: number, tip: DabTip, radiusTexels: number): [number, DabTip] {
    if (tip.shape === 'picture') {
      this.falloff = wholeTip();
      return [radius, tip];
    }
    const rim = rimRadius(radiusTexels * tip.roundness);
    let found = this.rims.get(rim);
    if (!found) this.rims.set(rim, (found = this.edge ? rimmedTip(1, rim, this.edge) : sharedRim(this.brush.hardness, rim)));
    this.falloff = found.table;
    const by = 1 + found.wider;
    const { texture } = tip;
    return [radius * by, texture ? { ...tip, texture: { ...texture, scale: texture.scale * by } } : tip];
  }

  private dabInSheet(dab: FlatDab, pattern?: FlatLimits['allow']): void {
    const { wrapU, wrapV } = this.context.sheet;
    const island = this.islandLimit(dab.x, dab.y);
    const allow: FlatLimits['allow'] =
      island && pattern ? (...texel) => island(...texel) && pattern(...texel) : (island ?? pattern);
    dabFlat(this.imprint, dab, this.falloff!, { wrapU, wrapV, allow });
  }

  /** The texels that a tip on the grid covers there: how many, where the first would begin, and begins on the grid. */
  private onGrid(at: SurfaceTouch, radius: number) {
    const place = at.pane === 'flat' ? at : sheetPlace(at.hit, this.context.surface!.map);
    const size = Math.max(1, Math.round(2 * radius));
    const [atX, atY] = [place.x - size / 2, place.y - size / 2];
    return { size, atX, atY, left: Math.round(atX), top: Math.round(atY) };
  }

  /** Whole texels around the place, on the model those of the sheet that lies there. */
  private dabOnGrid(at: SurfaceTouch, radius: number, tip: DabTip, thickness: number): void {
    const { left, top, size } = this.onGrid(at, radius);
    const { dither } = this.brush.tip;
    this.falloff = wholeTip();
    // A hair more than half its size, so that texels at the rim are in it.
    this.dabInSheet(
      {
        x: left + size / 2,
        y: top + size / 2,
        radiusTexels: size / 2 + 1e-3,
        tip: { ...tip, angle: tip.shape === 'square' ? 0 : tip.angle },
      },
      dither && ((tx, ty, i) => isCovered(dither, thickness, tx * TILE + (i % TILE), ty * TILE + Math.floor(i / TILE))),
    );
  }

  /** Beside the stroke's way, so far on and so far to its right; null: the model is not there. */
  private scattered(place: Touch, frame: TipFrame | null, along: number, across: number): Touch | null {
    if (along === 0 && across === 0) return place;
    // Seen in a mirror its right is on the other side.
    const side = isFlipped(place) ? -1 : 1;
    const [c, s] = [Math.cos(this.direction), Math.sin(this.direction)];
    const [x, y] = [c * along - s * across * side, s * along + c * across * side];
    if (place.pane !== 'model') return { ...place, x: place.x + x, y: place.y + y };
    const { origin } = place.sample;
    const aim = beside(place.hit.point, frame!, x, y).map((v, k) => v - origin[k]);
    const hit = this.context.surface!.query.raycast(origin, aim);
    // Past a rim the ray meets another part far behind.
    if (!hit || Math.abs(hit.distance - place.hit.distance) > 2 * Math.hypot(x, y) + place.radius) return null;
    return { ...place, hit };
  }

  /** In the flat pane all but `all` means: only the island under the dab's centre, with its gutter. */
  private islandLimit(x: number, y: number) {
    const surface = this.context.surface;
    if (!surface || this.brush.reach === 'all') return undefined;
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
