/**
 * Turns pointer samples into a smooth path. The way between samples is interpolated and resampled at a fixed rate, and smoothed there, so
 * that the same movement gives the same path whether the pointer reports 60 or 240 times a second.
 */
import { bentSample, mixSamples, pixelDistance, type Sample } from './sample';

/** Arcs are cut into pieces of about this many screen pixels. */
const PIXELS_PER_PIECE = 4;
const MAX_PIECES = 64;
/** Interval of the resampling, milliseconds: the rate of fast pens. */
const STEP_MS = 1000 / 240;
/** The smoothing setting is defined for samples this far apart. Samples without time stamps are treated as if they were. */
const NOMINAL_MS = 8;
/** Samples with equal time stamps are treated as this far apart. */
const LEAST_MS = 0.25;
/** After a longer gap the pointer is assumed to have rested at its last place and to have moved on just before the new sample. */
const LONGEST_MS = 50;
/** Longer rests are cut to this, by when smoothing has converged. */
const LONGEST_REST_MS = 1000;
/** A turn by more than 60° counts as a corner: there the interpolation is linear, since a parabola would overshoot. */
const CORNER_COSINE = 0.5;

export class StrokePath {
  /** The last two samples, and how long the way between them took. */
  private before: Sample | null = null;
  private last: Sample | null = null;
  private tookMs = 0;
  /** Time from the last resampled point to the last sample. */
  private sinceMs = 0;
  /** The last resampled place of the pointer, that place after the string, and the last point of the path. */
  private hand: Sample | null = null;
  private calm: Sample | null = null;
  private pulledTo: Sample | null = null;

  /**
   * smoothing 0..1 keeps up to 90 % of the old place for each eight milliseconds. `string`: the point is pulled after the pen by a
   * string of so many screen pixels, and stays where it is when the pen is lifted.
   */
  constructor(
    private smoothing: number,
    private string = 0,
  ) {}

  /** Adds a sample; returns the next points of the path, in order. The first sample is a point at once. */
  add(sample: Sample): Sample[] {
    const { last } = this;
    if (!last) {
      this.last = this.hand = this.calm = this.pulledTo = sample;
      return [sample];
    }
    const clock = sample.time !== 0 || last.time !== 0;
    let ms = clock ? Math.max(LEAST_MS, sample.time - last.time) : NOMINAL_MS;
    const out: Sample[] = [];
    if (ms > LONGEST_MS) {
      const rest = Math.min(LONGEST_REST_MS, ms - NOMINAL_MS);
      this.goOn(out, rest, () => last, last.time);
      ms = NOMINAL_MS;
      this.before = null;
    }
    const from = this.before && !isCorner(this.before, last, sample) ? this.before : null;
    const { tookMs } = this;
    const way = (share: number) => (from ? bentSample(from, last, sample, tookMs, ms, share) : mixSamples(last, sample, share));
    this.goOn(out, ms, way, clock ? sample.time - ms : null);
    [this.before, this.last, this.tookMs] = [last, sample, ms];
    return out;
  }

  /** Resamples a stretch that took `ms`. `way` gives its places by share of the time; `start` is its time stamp at share 0. */
  private goOn(out: Sample[], ms: number, way: (share: number) => Sample, start: number | null): void {
    const at = (share: number) => (start === null ? way(share) : { ...way(share), time: start + share * ms });
    let done = -this.sinceMs;
    for (let due = STEP_MS - this.sinceMs; due <= ms; due += STEP_MS) {
      const { hand } = this;
      const there = (this.hand = at(due / ms));
      // Linear between two resampled places; how many pieces depends on these alone, not on the samples between them.
      const pieces = pieceCount(pixelDistance(hand!, there));
      for (let n = 1; n <= pieces; n++) this.take(out, mixSamples(hand!, there, n / pieces), STEP_MS / pieces);
      done = due;
    }
    this.sinceMs = ms - done;
  }

  /** Adds the next place of the pointer, `ms` after the last one. */
  private take(out: Sample[], hand: Sample, ms: number): void {
    const { calm, pulledTo } = this;
    const to = this.pulled(pulledTo!, hand);
    this.pulledTo = to;
    const next = this.smoothing > 0 ? { ...this.calmed(calm!, pulledTo!, to, ms), time: hand.time } : to;
    // A resting pointer adds no points.
    if (isSame(calm!, next)) return;
    this.calm = next;
    out.push(next);
  }

  /**
   * A first-order low pass whose input moves linearly from one place to another, solved exactly: the result does not depend on how many
   * pieces the stretch is cut into.
   */
  private calmed(calm: Sample, from: Sample, to: Sample, ms: number): Sample {
    const rate = -Math.log(this.smoothing * 0.9) * (ms / NOMINAL_MS);
    const keep = Math.exp(-rate);
    const late = (1 - keep) / rate - keep;
    return mixSamples(mixSamples(to, from, late / (1 - keep)), calm, keep);
  }

  /** The rest of the way, to where the pointer was lifted. */
  end(): Sample[] {
    const { calm, last } = this;
    if (!calm || !last) return [];
    return straight(calm, this.pulled(this.pulledTo!, last));
  }

  private pulled(from: Sample, to: Sample): Sample {
    if (this.string === 0) return to;
    const away = pixelDistance(from, to);
    const share = away > this.string ? 1 - this.string / away : 0;
    return { ...mixSamples(from, to, share), pressure: to.pressure, tiltX: to.tiltX, tiltY: to.tiltY, time: to.time };
  }
}

/** Whether place, time and pressure are equal. */
function isSame(a: Sample, b: Sample): boolean {
  if (a.time !== b.time || a.pressure !== b.pressure) return false;
  if (a.pane === 'flat' && b.pane === 'flat') return a.x === b.x && a.y === b.y;
  if (a.pane !== 'model' || b.pane !== 'model') return false;
  return [0, 1, 2].every((k) => a.origin[k] === b.origin[k] && a.direction[k] === b.direction[k]);
}

/** Whether the way turns sharply at `b`. */
function isCorner(a: Sample, b: Sample, c: Sample): boolean {
  const [there, on, whole] = [pixelDistance(a, b), pixelDistance(b, c), pixelDistance(a, c)];
  if (there === 0 || on === 0) return true;
  // The law of cosines: whole² = there² + on² + 2 · there · on · cos(turn).
  return whole * whole - there * there - on * on < 2 * there * on * CORNER_COSINE;
}

/** From sample to sample, as the hand went: for small sheets, where smoothing would be seen as steps. */
export class PlainPath {
  private last: Sample | null = null;

  add(sample: Sample): Sample[] {
    const { last } = this;
    this.last = sample;
    return last ? straight(last, sample) : [sample];
  }

  end(): Sample[] {
    return [];
  }
}

/** The points of a straight way, the last included. */
function straight(a: Sample, b: Sample): Sample[] {
  const pieces = pieceCount(pixelDistance(a, b));
  return Array.from({ length: pieces }, (_, i) => mixSamples(a, b, (i + 1) / pieces));
}

function pieceCount(pixels: number): number {
  return Math.min(MAX_PIECES, Math.max(1, Math.ceil(pixels / PIXELS_PER_PIECE)));
}
