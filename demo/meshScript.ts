/** A tiny modelling kit for the demo pieces: strips of quads with tidy UV rectangles, packed onto a square. */
import type { Model, ModelMaterial } from '../src/core/mesh/model';
import { plainMaterial } from '../src/core/mesh/modelBuilder';

export type Point = [number, number, number];

interface Strip {
  part: number;
  material: number;
  columns: number;
  rows: number;
  /** (rows + 1) × (columns + 1) points and normals. */
  points: Point[];
  normals: Point[];
  /** Size in metres, for an even texel density. */
  width: number;
  height: number;
}

const subtract = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: Point, b: Point): Point => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const length = (a: Point) => Math.hypot(...a);
const scaled = (a: Point, s: number): Point => [a[0] * s, a[1] * s, a[2] * s];
const added = (a: Point, b: Point): Point => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const unit = (a: Point): Point => scaled(a, 1 / (length(a) || 1));

export class MeshScript {
  private parts: string[] = [];
  private strips: Strip[] = [];

  constructor(private materials: ModelMaterial[]) {}

  static material(name: string, over: Partial<ModelMaterial>): ModelMaterial {
    return { ...plainMaterial(name), ...over };
  }

  part(name: string): number {
    return this.parts.push(name) - 1;
  }

  /** A surface over (s, t) in 0..1: s runs along columns, t along rows; ∂s × ∂t points outward. */
  surface(part: number, material: number, columns: number, rows: number, at: (s: number, t: number) => Point): void {
    const points: Point[] = [];
    const normals: Point[] = [];
    const h = 1e-4;
    for (let r = 0; r <= rows; r++)
      for (let c = 0; c <= columns; c++) {
        const s = c / columns;
        const t = r / rows;
        points.push(at(s, t));
        // One-sided at the ends: profiles need not go on beyond them.
        const t0 = Math.max(0, t - h);
        const t1 = Math.min(1, t + h);
        let n = cross(subtract(at(s + h, t), at(s - h, t)), subtract(at(s, t1), at(s, t0)));
        if (length(n) < 1e-15)
          n = cross(subtract(at(s + h, t === 0 ? h : 1 - h), at(s - h, t === 0 ? h : 1 - h)), subtract(at(s, t1), at(s, t0)));
        normals.push(unit(n));
      }
    const row = (r: number) => Array.from({ length: columns + 1 }, (_, c) => points[r * (columns + 1) + c]);
    const along = (line: Point[]) => line.slice(1).reduce((sum, p, i) => sum + length(subtract(p, line[i])), 0);
    const width = Math.max(along(row(0)), along(row(rows)), along(row(rows >> 1)));
    const column = Array.from({ length: rows + 1 }, (_, r) => points[r * (columns + 1)]);
    this.strips.push({ part, material, columns, rows, points, normals, width, height: along(column) });
  }

  /** Turns a profile of [radius, y] points around the Y axis; corners sharper than 40° become island borders. */
  lathe(part: number, material: number, segments: number, profile: [number, number][], centre: Point = [0, 0, 0]): void {
    for (const piece of splitAtCorners(profile)) {
      const lengths = piece.slice(1).map((p, i) => Math.hypot(p[0] - piece[i][0], p[1] - piece[i][1]));
      this.surface(part, material, segments, piece.length - 1, (s, t) => {
        const at = t * (piece.length - 1);
        const i = Math.min(piece.length - 2, Math.max(0, Math.floor(at)));
        const f = at - i;
        const r = piece[i][0] + (piece[i + 1][0] - piece[i][0]) * f;
        const y = piece[i][1] + (piece[i + 1][1] - piece[i][1]) * f;
        const a = s * Math.PI * 2;
        return [centre[0] + r * Math.sin(a), centre[1] + y, centre[2] + r * Math.cos(a)];
      });
      const strip = this.strips[this.strips.length - 1];
      strip.height = lengths.reduce((a, b) => a + b, 0);
    }
  }

  /** A tube along a path (t 0..1), closed if the path is. `radius` may vary along and around. */
  tube(
    part: number,
    material: number,
    around: number,
    along: number,
    path: (t: number) => Point,
    side: (t: number) => Point,
    radius: (t: number, angle: number) => number,
  ): void {
    this.surface(part, material, along, around, (s, t) => {
      const p = path(s);
      const forward = unit(subtract(path(s + 1e-3), path(s - 1e-3)));
      const x = unit(side(s));
      const y = unit(cross(forward, x));
      const a = -t * Math.PI * 2;
      const r = radius(s, a);
      return added(p, added(scaled(x, Math.cos(a) * r), scaled(y, Math.sin(a) * r)));
    });
  }

  build(gutterFraction: number): Model {
    const positions: number[] = [];
    const normals: number[] = [];
    const uvs: number[] = [];
    const indices: number[] = [];
    const facePart: number[] = [];
    const faceMaterial: number[] = [];
    for (let m = 0; m < this.materials.length; m++) {
      const strips = this.strips.filter((s) => s.material === m);
      const places = packSquare(strips, gutterFraction);
      strips.forEach((strip, n) => {
        const { x, y, scale, turned } = places[n];
        const base = positions.length / 3;
        for (let r = 0; r <= strip.rows; r++)
          for (let c = 0; c <= strip.columns; c++) {
            const i = r * (strip.columns + 1) + c;
            positions.push(...strip.points[i]);
            normals.push(...strip.normals[i]);
            const u = (c / strip.columns) * strip.width * scale;
            const v = (1 - r / strip.rows) * strip.height * scale;
            // A quarter turn keeps the winding: (u, v) → (v, width − u).
            if (turned) uvs.push(x + v, y + strip.width * scale - u);
            else uvs.push(x + u, y + v);
          }
        for (let r = 0; r < strip.rows; r++)
          for (let c = 0; c < strip.columns; c++) {
            const a = base + r * (strip.columns + 1) + c;
            const b = a + 1;
            const d = a + strip.columns + 1;
            const e = d + 1;
            for (const tri of [
              [a, b, e],
              [a, e, d],
            ]) {
              const [p, q, w] = tri.map((v) => positions.slice(v * 3, v * 3 + 3) as Point);
              if (length(cross(subtract(q, p), subtract(w, p))) < 1e-12) continue;
              indices.push(...tri);
              facePart.push(strip.part);
              faceMaterial.push(m);
            }
          }
      });
    }
    return {
      positions: Float32Array.from(positions),
      normals: Float32Array.from(normals),
      uvs: [Float32Array.from(uvs)],
      indices: Uint32Array.from(indices),
      facePart: Uint16Array.from(facePart),
      faceMaterial: Uint16Array.from(faceMaterial),
      parts: this.parts,
      materials: this.materials,
      fileVertices: positions.length / 3,
      notes: [],
    };
  }
}

function splitAtCorners(profile: [number, number][]): [number, number][][] {
  const pieces: [number, number][][] = [];
  let piece = [profile[0]];
  for (let i = 1; i < profile.length; i++) {
    piece.push(profile[i]);
    if (i === profile.length - 1) break;
    const a = Math.atan2(profile[i][1] - profile[i - 1][1], profile[i][0] - profile[i - 1][0]);
    const b = Math.atan2(profile[i + 1][1] - profile[i][1], profile[i + 1][0] - profile[i][0]);
    const turn = Math.abs(Math.atan2(Math.sin(b - a), Math.cos(b - a)));
    if (turn > (40 * Math.PI) / 180) {
      pieces.push(piece);
      piece = [profile[i]];
    }
  }
  pieces.push(piece);
  return pieces;
}

/** Shelves of descending height at the largest scale that fits the unit square. */
function packSquare(strips: Strip[], gutter: number) {
  const sizes = strips.map((s) =>
    s.width >= s.height ? { w: s.width, h: s.height, turned: false } : { w: s.height, h: s.width, turned: true },
  );
  const order = sizes.map((_, i) => i).sort((a, b) => sizes[b].h - sizes[a].h);
  const layout = (scale: number) => {
    const places = new Array<{ x: number; y: number; scale: number; turned: boolean }>(strips.length);
    const shelves: { x: number; y: number; h: number }[] = [];
    let top = gutter;
    for (const i of order) {
      const w = sizes[i].w * scale;
      const h = sizes[i].h * scale;
      if (w > 1 - 2 * gutter) return null;
      let shelf = shelves.find((s) => s.x + w + gutter <= 1 && h <= s.h + 1e-9);
      if (!shelf) {
        if (top + h + gutter > 1) return null;
        shelf = { x: gutter, y: top, h };
        shelves.push(shelf);
        top += h + gutter;
      }
      places[i] = { x: shelf.x, y: shelf.y, scale, turned: sizes[i].turned };
      shelf.x += w + gutter;
    }
    return places;
  };
  let low = 0;
  let high = 100;
  for (let n = 0; n < 60; n++) {
    const mid = (low + high) / 2;
    if (layout(mid)) low = mid;
    else high = mid;
  }
  return layout(low)!;
}
