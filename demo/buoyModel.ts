/** The buoy token: a harbour buoy of some three hundred triangles, its UVs cut to the texels of a sheet of 64 by 64. */
import { plainMaterial } from '../src/core/mesh/modelBuilder';
import type { Model } from '../src/core/mesh/model';
import { unit, type Point } from './meshScript';

export const BUOY_TEXELS = 64;
/** Metres a texel. */
const TEXEL = 1 / 160;
const SIDES = 8;

/** Columns and rows of texels. */
export interface Rect {
  x: number;
  y: number;
  w: number;
  h: number;
}

/** Where things lie on the sheet. */
export const AT = {
  hull: { x: 2, y: 2, w: 48, h: 8 },
  keel: { x: 2, y: 12, w: 48, h: 4 },
  rope: { x: 2, y: 18, w: 48, h: 4 },
  edge: { x: 2, y: 24, w: 48, h: 2 },
  tower: { x: 2, y: 28, w: 24, h: 15 },
  cap: { x: 2, y: 45, w: 24, h: 3 },
  glass: { x: 28, y: 28, w: 16, h: 6 },
  mark: { x: 28, y: 36, w: 16, h: 6 },
  deck: { x: 46, y: 28, w: 14, h: 14 },
  capTop: { x: 40, y: 45, w: 10, h: 10 },
  capBelow: { x: 28, y: 45, w: 10, h: 10 },
  foot: { x: 52, y: 2, w: 10, h: 10 },
} as const satisfies Record<string, Rect>;

class Builder {
  private positions: number[] = [];
  private normals: number[] = [];
  private uvs: number[] = [];
  private indices: number[] = [];
  private facePart: number[] = [];
  readonly parts: string[] = [];

  part(name: string): number {
    return this.parts.push(name) - 1;
  }

  private vertex([x, y, z]: Point, n: Point, u: number, v: number): number {
    this.positions.push(x * TEXEL, y * TEXEL, z * TEXEL);
    this.normals.push(...unit(n));
    this.uvs.push(u / BUOY_TEXELS, v / BUOY_TEXELS);
    return this.positions.length / 3 - 1;
  }

  private face(part: number, a: number, b: number, c: number): void {
    const at = (v: number) => this.positions.slice(v * 3, v * 3 + 3);
    const [p, q, r] = [at(a), at(b), at(c)];
    const [u, v] = [q.map((x, k) => x - p[k]), r.map((x, k) => x - p[k])];
    if (Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) < 1e-9) return;
    this.indices.push(a, b, c);
    this.facePart.push(part);
  }

  /** A grid of quads over a rectangle of texels: `at` gives places over 0 … 1 from the left and from the bottom. */
  private grid(
    part: number,
    rect: Rect,
    columns: number,
    levels: readonly number[],
    at: (s: number, t: number) => [Point, Point],
  ): void {
    const first = this.positions.length / 3;
    for (const t of levels)
      for (let c = 0; c <= columns; c++) {
        const s = c / columns;
        this.vertex(...at(s, t), rect.x + s * rect.w, rect.y + (1 - t) * rect.h);
      }
    for (let r = 0; r + 1 < levels.length; r++)
      for (let c = 0; c < columns; c++) {
        const a = first + r * (columns + 1) + c;
        const d = a + columns + 1;
        this.face(part, a, a + 1, d + 1);
        this.face(part, a, d + 1, d);
      }
  }

  /** Around the upright axis: [radius, height] from the bottom up, in texels. The seam lies at the back. */
  lathe(part: number, rect: Rect, profile: readonly [number, number][]): void {
    const ways = profile.map((p, n) => (n === 0 ? 0 : Math.hypot(p[0] - profile[n - 1][0], p[1] - profile[n - 1][1])));
    const all = ways.reduce((sum, w) => sum + w, 0);
    let way = 0;
    const levels = ways.map((w) => (way += w) / all);
    this.grid(part, rect, SIDES, levels, (s, t) => {
      const n = Math.max(
        1,
        levels.findIndex((l) => l >= t - 1e-9),
      );
      const k = (t - levels[n - 1]) / (levels[n] - levels[n - 1]);
      const [r0, y0] = profile[n - 1];
      const [r1, y1] = profile[n];
      const [r, y] = [r0 + (r1 - r0) * k, y0 + (y1 - y0) * k];
      const a = s * 2 * Math.PI + Math.PI;
      const [sin, cos] = [Math.sin(a), Math.cos(a)];
      return [
        [r * sin, y, r * cos],
        [(y1 - y0) * sin, r0 - r1, (y1 - y0) * cos],
      ];
    });
  }

  /** A ring around the upright axis, as a rope lies around a hull. */
  ring(part: number, rect: Rect, radius: number, thick: number, height: number): void {
    const turns = 6;
    this.grid(
      part,
      rect,
      SIDES,
      Array.from({ length: turns + 1 }, (_, n) => n / turns),
      (s, t) => {
        const a = s * 2 * Math.PI + Math.PI;
        // From the inside over the underside to the outside and back over the top.
        const b = Math.PI + t * 2 * Math.PI;
        const out: Point = [Math.cos(b) * Math.sin(a), Math.sin(b), Math.cos(b) * Math.cos(a)];
        const r = radius + thick * Math.cos(b);
        return [[r * Math.sin(a), height + thick * Math.sin(b), r * Math.cos(a)], out];
      },
    );
  }

  /** A level disc; `up`: seen from above, else from below. */
  disc(part: number, rect: Rect, radius: number, height: number, up: boolean): void {
    const n: Point = [0, up ? 1 : -1, 0];
    const at = (x: number, z: number) =>
      this.vertex(
        [x, height, z],
        n,
        rect.x + (0.5 + x / (2 * radius)) * rect.w,
        rect.y + (0.5 + ((up ? 1 : -1) * z) / (2 * radius)) * rect.h,
      );
    const middle = at(0, 0);
    const rim = Array.from({ length: SIDES + 1 }, (_, k) => {
      const a = (k / SIDES) * 2 * Math.PI + Math.PI;
      return at(radius * Math.sin(a), radius * Math.cos(a));
    });
    for (let k = 0; k < SIDES; k++) {
      if (up) this.face(part, middle, rim[k], rim[k + 1]);
      else this.face(part, middle, rim[k + 1], rim[k]);
    }
  }

  build(): Model {
    return {
      positions: Float32Array.from(this.positions),
      normals: Float32Array.from(this.normals),
      uvs: [Float32Array.from(this.uvs)],
      indices: Uint32Array.from(this.indices),
      facePart: Uint16Array.from(this.facePart),
      faceMaterial: new Uint16Array(this.facePart.length),
      parts: this.parts,
      materials: [plainMaterial('Buoy')],
      fileVertices: this.positions.length / 3,
      notes: [],
    };
  }
}

export function buoyModel(): Model {
  const b = new Builder();
  const hull = b.part('Hull');
  b.disc(hull, AT.foot, 4, 0, false);
  b.lathe(hull, AT.keel, [
    [4, 0],
    [7.8, 3],
  ]);
  b.lathe(hull, AT.hull, [
    [7.8, 3],
    [7.8, 11],
  ]);
  b.lathe(hull, AT.edge, [
    [7.8, 11],
    [6.6, 12.4],
  ]);
  b.disc(hull, AT.deck, 6.6, 12.4, true);
  b.ring(b.part('Rope'), AT.rope, 8, 1.15, 4.6);
  const tower = b.part('Tower');
  b.lathe(tower, AT.tower, [
    [4.6, 12.4],
    [3.1, 27],
  ]);
  b.disc(tower, AT.capBelow, 4.4, 27, false);
  b.lathe(tower, AT.cap, [
    [4.4, 27],
    [4.4, 29],
  ]);
  b.disc(tower, AT.capTop, 4.4, 29, true);
  b.lathe(b.part('Lamp'), AT.glass, [
    [1.8, 29],
    [3, 31],
    [3, 33],
    [1.6, 35],
  ]);
  b.lathe(b.part('Mark'), AT.mark, [
    [3.4, 35],
    [0.2, 40.5],
  ]);
  return b.build();
}
