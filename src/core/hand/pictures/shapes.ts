/** What pictures are drawn with: chance, soft outlines, noise. u and v in −1 … 1; everything seeded. */
import { hash24 } from '../../../kernels/hash';
import { tipPicture, type TipPicture } from '../tipPicture';

export const smooth = (from: number, to: number, x: number): number => {
  const t = Math.min(1, Math.max(0, (x - from) / (to - from)));
  return t * t * (3 - 2 * t);
};

/** Numbers 0 … 1, one after another. */
export function chance(seed: number): () => number {
  let n = 0;
  return () => hash24(++n, 0x51, seed) / 0x1000000;
}

export const within = (random: () => number, from: number, to: number): number => from + random() * (to - from);

/** A disk's share: 1 within, over `soft` to 0 at its rim. */
export const disk = (d: number, r: number, soft: number): number => 1 - smooth(r - soft, r, d);

/** Smooth noise 0 … 1 with about one hill a unit. */
export function noise(x: number, y: number, seed: number): number {
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const fx = smooth(0, 1, x - x0);
  const fy = smooth(0, 1, y - y0);
  const top = hash24(x0, y0, seed) * (1 - fx) + hash24(x0 + 1, y0, seed) * fx;
  const low = hash24(x0, y0 + 1, seed) * (1 - fx) + hash24(x0 + 1, y0 + 1, seed) * fx;
  return (top * (1 - fy) + low * fy) / 0x1000000;
}

/** Noise with detail: each octave twice as fine and half as strong. */
export function cloudy(x: number, y: number, octaves: number, seed: number): number {
  let sum = 0;
  let all = 0;
  for (let n = 0, a = 1, f = 1; n < octaves; n++, a /= 2, f *= 2) {
    sum += a * noise(x * f, y * f, seed + n);
    all += a;
  }
  return sum / all;
}

export interface Line {
  points: readonly (readonly [number, number])[];
  /** Half its width at its beginning and at its end. */
  from: number;
  to: number;
}

/** A drop: its radius, how much of it is soft, how strong it is; drawn out along an angle by `long`. */
export interface Spot {
  x: number;
  y: number;
  r: number;
  a: number;
  soft: number;
  long?: number;
  angle?: number;
}

/**
 * A canvas that lines and spots are put on, where the strongest counts: each visits only what it covers, twice as fine as
 * the picture.
 */
export class Plot {
  private readonly fine: number;
  private readonly values: Float32Array;

  constructor(private readonly side: number) {
    this.fine = side * 2;
    this.values = new Float32Array(this.fine * this.fine);
  }

  spot({ x, y, r, a, soft, long = 1, angle = 0 }: Spot): this {
    const [c, s] = [Math.cos(angle), Math.sin(angle)];
    return this.over(x - r * long, y - r * long, x + r * long, y + r * long, (u, v) => {
      const dx = u - x;
      const dy = v - y;
      const along = (dx * c + dy * s) / long;
      const across = dy * c - dx * s;
      return a * disk(Math.sqrt(along * along + across * across), r, r * soft);
    });
  }

  line({ points, from, to }: Line): this {
    for (let n = 1; n < points.length; n++) {
      const [ax, ay] = points[n - 1];
      const [bx, by] = points[n];
      const wide = Math.max(from, to);
      const ex = bx - ax;
      const ey = by - ay;
      const l2 = ex * ex + ey * ey;
      const steps = points.length - 1;
      this.over(Math.min(ax, bx) - wide, Math.min(ay, by) - wide, Math.max(ax, bx) + wide, Math.max(ay, by) + wide, (u, v) => {
        const t = l2 > 0 ? Math.min(1, Math.max(0, ((u - ax) * ex + (v - ay) * ey) / l2)) : 0;
        const dx = u - ax - ex * t;
        const dy = v - ay - ey * t;
        const half = from + (to - from) * ((n - 1 + t) / steps);
        return 1 - smooth(half * 0.6, half, Math.sqrt(dx * dx + dy * dy));
      });
    }
    return this;
  }

  /** `by` what is put on is multiplied in the end. */
  picture(by: (u: number, v: number) => number = () => 1): TipPicture {
    const { side, fine, values } = this;
    const out = new Float32Array(side * side);
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const o = y * 2 * fine + x * 2;
        const mean = (values[o] + values[o + 1] + values[o + fine] + values[o + fine + 1]) / 4;
        if (mean > 0) out[y * side + x] = mean * Math.max(0, by(((x + 0.5) / side) * 2 - 1, ((y + 0.5) / side) * 2 - 1));
      }
    return tipPicture(side, out);
  }

  private over(u0: number, v0: number, u1: number, v1: number, at: (u: number, v: number) => number): this {
    const { fine, values } = this;
    const from = (e: number) => Math.max(0, Math.floor((e * 0.5 + 0.5) * fine));
    const to = (e: number) => Math.min(fine - 1, Math.ceil((e * 0.5 + 0.5) * fine));
    for (let y = from(v0), end = to(v1); y <= end; y++)
      for (let x = from(u0), last = to(u1); x <= last; x++) {
        const share = at(((x + 0.5) / fine) * 2 - 1, ((y + 0.5) / fine) * 2 - 1);
        if (share > values[y * fine + x]) values[y * fine + x] = share;
      }
    return this;
  }
}

export const plotted = (side: number, lines: readonly Line[]): TipPicture =>
  lines.reduce((plot, line) => plot.line(line), new Plot(side)).picture();

/** Places in the unit disk, none nearer to another than `apart`: darts that are thrown until none fits. */
export function scattered(seed: number, count: number, apart: number, within = 0.95): [number, number][] {
  const random = chance(seed);
  const out: [number, number][] = [];
  for (let tries = 0; tries < count * 30 && out.length < count; tries++) {
    const [a, r] = [random() * Math.PI * 2, Math.sqrt(random()) * within];
    const p: [number, number] = [Math.cos(a) * r, Math.sin(a) * r];
    if (out.every(([x, y]) => Math.hypot(x - p[0], y - p[1]) >= apart)) out.push(p);
  }
  return out;
}
