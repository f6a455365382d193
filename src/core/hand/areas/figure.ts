/**
 * Figures in a plane, of pixels or of texels: how far inside of them a place lies. Their edge is where the distance is 0,
 * below 0 is inside.
 */
export interface Point {
  x: number;
  y: number;
}

export interface Box {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

export interface Figure {
  /** Nothing lies inside of the figure beyond this. */
  bounds: Box;
  /** Signed distance to the edge; at least exact within `margin` of it. */
  distance(x: number, y: number): number;
}

/** Distances are right up to here around a figure of many sides. */
export type Margin = number;

/** The middle and two half axes, square to each other. */
export interface Frame {
  middle: Point;
  u: Point;
  v: Point;
}

const length = ({ x, y }: Point): number => Math.hypot(x, y);

/** A frame whose opposite corners are given, its sides at `angle` radians. */
export function frameOfCorners(a: Point, b: Point, angle: number): Frame {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const [dx, dy] = [(b.x - a.x) / 2, (b.y - a.y) / 2];
  const along = dx * c + dy * s;
  const across = dy * c - dx * s;
  return {
    middle: { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 },
    u: { x: c * along, y: s * along },
    v: { x: -s * across, y: c * across },
  };
}

function boundsOf({ middle, u, v }: Frame): Box {
  const [w, h] = [Math.abs(u.x) + Math.abs(v.x), Math.abs(u.y) + Math.abs(v.y)];
  return { x0: middle.x - w, y0: middle.y - h, x1: middle.x + w, y1: middle.y + h };
}

/** Coordinates within a frame, as distances from its middle along its axes. */
function within({ middle, u, v }: Frame): (x: number, y: number) => readonly [number, number] {
  const [lu, lv] = [length(u), length(v)];
  // A frame without width has no direction of its own: any will do, square to the other.
  const c = lu > 0 ? u.x / lu : lv > 0 ? v.y / lv : 1;
  const s = lu > 0 ? u.y / lu : lv > 0 ? -v.x / lv : 0;
  return (x, y) => [(x - middle.x) * c + (y - middle.y) * s, (y - middle.y) * c - (x - middle.x) * s];
}

export function rectangle(frame: Frame): Figure {
  const [a, b] = [length(frame.u), length(frame.v)];
  const at = within(frame);
  return {
    bounds: boundsOf(frame),
    distance: (x, y) => {
      const [px, py] = at(x, y);
      const [dx, dy] = [Math.abs(px) - a, Math.abs(py) - b];
      if (dx <= 0 || dy <= 0) return Math.max(dx, dy);
      return Math.sqrt(dx * dx + dy * dy);
    },
  };
}

/** Its distance is of first order (the function over its slope): exact at the edge, and nearly so where the soft slope is. */
export function ellipse(frame: Frame): Figure {
  const a = Math.max(1e-9, length(frame.u));
  const b = Math.max(1e-9, length(frame.v));
  const at = within(frame);
  const least = Math.min(a, b);
  return {
    bounds: boundsOf(frame),
    distance: (x, y) => {
      const [px, py] = at(x, y);
      const [u, v] = [px / a, py / b];
      const k = Math.sqrt(u * u + v * v);
      const slope = Math.sqrt((u * u) / (a * a) + (v * v) / (b * b));
      // In the middle the slope is nothing: there it is as far to the edge as the shorter half axis is long.
      return slope > 0 ? Math.max(-least, ((k - 1) * k) / slope) : -least;
    },
  };
}

/** Edges by the rows that they, or what is near them, cross: a figure of many sides asks a few of them for a place. */
class Bands {
  private lists: number[][] = [];
  private height: number;
  private top: number;

  constructor(
    private points: readonly Point[],
    private closed: boolean,
    margin: number,
  ) {
    const ys = points.map((p) => p.y);
    this.top = Math.min(...ys) - margin;
    const all = Math.max(...ys) + margin - this.top;
    const count = Math.max(1, Math.min(512, Math.ceil(all / 4)));
    this.height = all / count || 1;
    this.lists = Array.from({ length: count }, () => []);
    for (let e = 0; e < this.edgeCount; e++) {
      const [a, b] = this.ends(e);
      const from = this.band(Math.min(a.y, b.y) - margin);
      const to = this.band(Math.max(a.y, b.y) + margin);
      for (let n = from; n <= to; n++) this.lists[n].push(e);
    }
  }

  get edgeCount(): number {
    return this.closed ? this.points.length : this.points.length - 1;
  }

  private band(y: number): number {
    return Math.min(this.lists.length - 1, Math.max(0, Math.floor((y - this.top) / this.height)));
  }

  private ends(e: number): [Point, Point] {
    return [this.points[e], this.points[(e + 1) % this.points.length]];
  }

  /** The square of the distance to the nearest edge among those near the row, and how often they wind around the place. */
  ask(x: number, y: number): { d2: number; winding: number } {
    let d2 = Infinity;
    let winding = 0;
    for (const e of this.lists[this.band(y)]) {
      const a = this.points[e];
      const b = e + 1 < this.points.length ? this.points[e + 1] : this.points[0];
      const [ex, ey] = [b.x - a.x, b.y - a.y];
      const [qx, qy] = [x - a.x, y - a.y];
      const l2 = ex * ex + ey * ey;
      const t = l2 > 0 ? Math.min(1, Math.max(0, (qx * ex + qy * ey) / l2)) : 0;
      const [dx, dy] = [qx - ex * t, qy - ey * t];
      const d = dx * dx + dy * dy;
      if (d < d2) d2 = d;
      const side = ex * qy - ey * qx;
      if (a.y <= y && b.y > y && side > 0) winding++;
      else if (a.y > y && b.y <= y && side < 0) winding--;
    }
    return { d2, winding };
  }
}

function around(points: readonly Point[]): Box {
  const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
  return { x0: Math.min(...xs), y0: Math.min(...ys), x1: Math.max(...xs), y1: Math.max(...ys) };
}

/** Inside is what its outline winds around, once or more: a lasso that crosses itself has no holes. */
export function polygon(points: readonly Point[], margin: Margin): Figure {
  const bands = new Bands(points, true, margin);
  return {
    bounds: around(points),
    distance: (x, y) => {
      const { d2, winding } = bands.ask(x, y);
      const d = Math.min(Math.sqrt(d2), margin + 1);
      return winding !== 0 ? -d : d;
    },
  };
}

const wider = ({ x0, y0, x1, y1 }: Box, by: number): Box => ({ x0: x0 - by, y0: y0 - by, x1: x1 + by, y1: y1 + by });

/** A line through points, as wide as given, with round ends. */
export function line(points: readonly Point[], width: number, margin: Margin): Figure {
  const bands = new Bands(points, false, margin + width / 2);
  return {
    bounds: wider(around(points), width / 2),
    distance: (x, y) => Math.sqrt(bands.ask(x, y).d2) - width / 2,
  };
}

/** Only a line along the edge of a figure, half of it outside. */
export const outlineOf = ({ bounds, distance }: Figure, width: number): Figure => ({
  bounds: wider(bounds, width / 2),
  distance: (x, y) => Math.abs(distance(x, y)) - width / 2,
});

/** What a figure wants of texels. `soft`: how wide its edge's slope is, never less than a texel. */
export const wantedBy = ({ bounds, distance }: Figure, soft: number, most: number) => ({
  even: (x: number, y: number, radius: number, span: number): number | null => {
    const reach = radius + Math.max(soft, span * EVEN_SPAN);
    if (x + reach < bounds.x0 || y + reach < bounds.y0 || x - reach > bounds.x1 || y - reach > bounds.y1) return 0;
    if (reach > EVEN_MOST) return null;
    const d = distance(x, y);
    return d > reach ? 0 : d < -reach ? most : null;
  },
  at: (x: number, y: number, span: number): number => {
    const edge = soft > span ? soft : span;
    const reach = edge / 2;
    if (x < bounds.x0 - reach || y < bounds.y0 - reach || x > bounds.x1 + reach || y > bounds.y1 + reach) return 0;
    return most * inside(distance(x, y), edge);
  },
});
/** Texels near each other span much the same. */
const EVEN_SPAN = 2;
/** Beyond this distances of figures may be bounds only. */
export const EVEN_MOST = 64;

/** 1 inside, 0 outside, and a straight slope between them as wide as `soft`, half of it on each side of the edge. */
export const inside = (distance: number, soft: number): number => {
  const v = 0.5 - distance / soft;
  return v < 0 ? 0 : v > 1 ? 1 : v;
};
