/** From samples to steps: the smoothed path, where it meets the sheet or the model, and where on it dabs are due. */
import type { SurfaceHit } from '../mesh/surfaceQuery';
import { type Brush } from './brush';
import { mixSamples, pixelDistance, type Sample } from './sample';
import { PlainPath, StrokePath } from './path';
import { directionBetween, flatDiameter, frameAt, jumpSlack, modelDiameter, placeDistance, type Touch } from './place';
import { texelsPerMetre, type StrokeContext } from './context';
import { leaning, speedOf, type Drive } from './vary';
import { pixelIn } from './view';

/** A hit this many diameters away is another part of the model, not the way the pen went. */
const JUMP_DIAMETERS = 6;
/** Milliseconds. */
const LONGEST_REST = 2000;
/** How much of the old speed stays after so many milliseconds: hands are read unevenly. */
const CALM_SPEED = 0.7;
const CALM_MS = 8;

/** What drives the dabs of a step, but for which dab it is. */
export type StepDrive = Omit<Drive, 'dab'>;

/** What a texel spans, in the unit of a place's radius. */
export function texelIn(at: Touch, texelsPerMetre: number): number {
  if (at.pane === 'flat') return 1;
  return 1 / (texelsPerMetre * (at.pane === 'eye' ? at.metres : 1));
}

/** Whether the sheet lies flipped on the screen there. */
export const isFlipped = ({ sample }: Touch): boolean => sample.pane === 'flat' && sample.flip === true;

/** A direction of the screen as it runs in the sheet there, or back, which is the same when it is flipped; radians. */
export function betweenScreenAndSheet(place: Touch, direction: number, to: 'screen' | 'sheet'): number {
  const { sample } = place;
  const turn = sample.pane === 'flat' ? (sample.turn ?? 0) : 0;
  if (isFlipped(place)) return Math.PI - direction - turn;
  return to === 'screen' ? direction + turn : direction - turn;
}

/** The tip goes from texel to texel, instead of at distances or by time. */
export const onTexels = ({ tip, spacing, rate }: Pick<Brush, 'tip' | 'spacing' | 'rate'>): boolean =>
  tip.grid && spacing < 1 && rate === 0;

/** The brush covers what the eye sees within its tip. */
export const coversSeen = ({ reach }: Pick<Brush, 'reach'>): boolean => reach === 'seen' || reach === 'through';

export class Walk {
  /** When the last step was, in the samples' time. */
  private steppedAt = 0;
  private path: StrokePath | PlainPath;
  private last: Touch | null = null;
  /** A first place whose step waits for the stroke's direction. */
  private waiting: Touch | null = null;
  private untilNext = 0;
  private direction = 0;
  private speed = 0;
  private travelled: Drive['length'] = { diameters: 0, millimetres: 0, texels: 0 };
  private readonly turnsWithStroke: boolean;

  /** `lay`: lays the dabs of a step and tells the radius of the last, in the place's unit. */
  constructor(
    private context: Pick<StrokeContext, 'sheet' | 'surface'>,
    private brush: Brush,
    private lay: (place: Touch, drive: StepDrive) => number,
  ) {
    this.texelsPerMetre = texelsPerMetre(context);
    this.path = brush.tip.grid ? new PlainPath() : new StrokePath(brush.smoothing, brush.string);
    const middle = context.surface?.query.middle;
    this.distance = brush.view && middle ? Math.hypot(...brush.view.eye.map((v, k) => v - middle[k])) : 1;
    this.turnsWithStroke = brush.vary.some((line) => line.by === 'direction');
  }

  /** All of them belong to the pane in which the stroke began. */
  add(samples: readonly Sample[]): void {
    for (const sample of samples) for (const point of this.path.add(sample)) this.walkTo(point);
  }

  end(): void {
    for (const point of this.path.end()) this.walkTo(point);
    this.layWaiting();
  }

  private resolve(sample: Sample): Touch | null {
    if (sample.pane === 'flat') return { pane: 'flat', x: sample.x, y: sample.y, radius: this.radiusAt(sample, null), sample };
    const hit = this.context.surface?.query.raycast(sample.origin, sample.direction);
    const { view } = this.brush;
    if (view && coversSeen(this.brush)) {
      const at = pixelIn(
        view,
        sample.origin.map((v, k) => v + sample.direction[k]),
      );
      // Beside the model the tip still reaches it, as large as where the pen was last.
      this.distance = hit?.distance ?? this.distance;
      const metres = sample.pixelSpread * this.distance;
      return at && { pane: 'eye', ...at, radius: this.pixelRadius(metres), metres, sample };
    }
    return hit ? { pane: 'model', hit, radius: this.radiusAt(sample, hit), sample } : null;
  }

  /** Of the brush: metres on the model, texels in the flat sheet. */
  private radiusAt(sample: Sample, hit: SurfaceHit | null): number {
    const { size, sizeUnit } = this.brush;
    if (sample.pane === 'model') return Math.max(1e-9, modelDiameter(sizeUnit, size, sample, hit!, this.texelsPerMetre) / 2);
    return Math.max(1e-3, flatDiameter(sizeUnit, size, sample.texelsPerPixel, this.texelsPerMetre) / 2);
  }

  private pixelRadius(metres: number): number {
    const { size, sizeUnit } = this.brush;
    const across = sizeUnit === 'screen' ? size : (sizeUnit === 'model' ? size / 1000 : size / this.texelsPerMetre) / metres;
    return Math.max(0.05, across / 2);
  }
  /** From the eye to the model, metres: where the pen met it last, before that to its middle. */
  private distance: number;

  private readonly texelsPerMetre: number;

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
    this.rest(from, place);
  }

  /** Dabs by time, while the pen rests: those that came by distance count. */
  private rest(from: Touch, place: Touch): void {
    const { rate } = this.brush;
    if (rate === 0) return;
    const every = 1000 / rate;
    // A pause longer than this is a fault of the clock.
    this.steppedAt = Math.max(this.steppedAt, place.sample.time - LONGEST_REST);
    while (place.sample.time - this.steppedAt >= every) {
      const due = this.steppedAt + every;
      const ms = place.sample.time - from.sample.time;
      const share = ms > 0 ? Math.max(0, 1 - (place.sample.time - due) / ms) : 1;
      // Where the pen was then.
      this.dab((share < 1 && this.resolve(mixSamples(from.sample, place.sample, share))) || place);
      this.steppedAt = due;
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
    // As it goes on the screen, on which a turned sheet lies.
    const way = directionBetween(from, to, frame);
    if (way !== null) this.direction = betweenScreenAndSheet(to, way, 'screen');
    const ms = to.sample.time - from.sample.time;
    const speed = speedOf(pixelDistance(from.sample, to.sample), ms);
    const keep = CALM_SPEED ** (ms > 0 ? ms / CALM_MS : 1);
    this.speed = this.speed * keep + speed * (1 - keep);
  }

  /** The stroke has come `distance` on from where it had come to, in the place's unit. */
  private travel(before: Drive['length'], to: Touch, distance: number): void {
    const { radius } = to;
    const texels = distance / texelIn(to, this.texelsPerMetre);
    this.travelled = {
      diameters: before.diameters + distance / (2 * radius),
      millimetres: before.millimetres + (texels / this.texelsPerMetre) * 1000,
      texels: before.texels + texels,
    };
  }

  private step(at: Touch, radius: number): number {
    // At least a quarter of a texel, so that tiny tips do not pile up dabs.
    const least = texelIn(at, this.texelsPerMetre) / 4;
    return onTexels(this.brush) ? least : Math.max(least, this.brush.spacing * 2 * radius);
  }

  /** Lays the dabs of one step; the radius of the last. */
  private dab(place: Touch): number {
    const { sample } = place;
    const pen = leaning(sample.tiltX, sample.tiltY);
    this.steppedAt = sample.time;
    return this.lay(place, {
      pressure: sample.pressure,
      tilt: pen.tilt,
      tiltDirection: pen.direction,
      direction: this.direction,
      speed: this.speed,
      length: this.travelled,
    });
  }
}
