/**
 * From pointer samples to a smooth path. Samples are calmed by an exponential average, then joined by
 * quadratic B-spline arcs (from midpoint to midpoint, the sample as control point), which never overshoot.
 */
import { mixSamples, pixelDistance, type Sample } from './sample';

/** Arcs are cut into pieces of about this many screen pixels. */
const PIXELS_PER_PIECE = 4;
const MAX_PIECES = 64;

export class StrokePath {
  private raw: Sample | null = null;
  private calm: Sample[] = [];

  /**
   * smoothing 0..1 keeps up to 90 % of the old place with each new sample. `string`: the point is pulled after the pen by a
   * string of so many screen pixels, and stays where it is when the pen is lifted.
   */
  constructor(
    private smoothing: number,
    private string = 0,
  ) {}

  /** Adds a sample; returns the next points of the path, in order. The first sample is a point at once. */
  add(sample: Sample): Sample[] {
    const keep = this.smoothing * 0.9;
    const last = this.calm[this.calm.length - 1];
    const pulled = last ? this.pulled(last, sample) : sample;
    this.raw = pulled;
    const next = last && keep > 0 ? { ...mixSamples(pulled, last, keep), time: sample.time } : pulled;
    this.calm.push(next);
    const n = this.calm.length;
    if (n === 1) return [next];
    if (n === 2) return straight(this.calm[0], mixSamples(this.calm[0], next, 0.5));
    const [a, b, c] = this.calm.slice(-3);
    if (n > 3) this.calm.shift();
    return this.arc(mixSamples(a, b, 0.5), b, mixSamples(b, c, 0.5));
  }

  /** The rest of the way, to where the pointer was lifted. */
  end(): Sample[] {
    const n = this.calm.length;
    if (n === 0 || !this.raw) return [];
    const last = this.calm[n - 1];
    const from = n === 1 ? last : mixSamples(this.calm[n - 2], last, 0.5);
    return [...straight(from, last), ...(this.smoothing > 0 ? straight(last, this.raw) : [])];
  }

  private pulled(from: Sample, to: Sample): Sample {
    if (this.string === 0) return to;
    const away = pixelDistance(from, to);
    const share = away > this.string ? 1 - this.string / away : 0;
    return { ...mixSamples(from, to, share), pressure: to.pressure, tiltX: to.tiltX, tiltY: to.tiltY, time: to.time };
  }

  private arc(a: Sample, control: Sample, b: Sample): Sample[] {
    const pieces = pieceCount(pixelDistance(a, control) + pixelDistance(control, b));
    return Array.from({ length: pieces }, (_, i) => {
      const t = (i + 1) / pieces;
      return mixSamples(mixSamples(a, control, t), mixSamples(control, b, t), t);
    });
  }
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
