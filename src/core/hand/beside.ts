/** Which places lie beside a texel: on the surface, over seams, or in the sheet where there is no surface. */
import { Ways } from '../mesh/ways';
import { TILE, tileX, tileY, type TileIndex } from '../tile/tiles';
import type { StrokeContext } from './context';

export class Beside {
  /** The place that was asked for last, in texels of the sheet. */
  x = 0;
  y = 0;
  readonly ways: Ways | null;
  readonly texelsPerMetre: number;
  /** Two unit vectors in the plane of a face, × a texel's length in metres. */
  private readonly u = new Float64Array(3);
  private readonly v = new Float64Array(3);
  private framed = -1;

  constructor(private context: Pick<StrokeContext, 'sheet' | 'surface'>) {
    const { surface } = context;
    this.ways = surface ? new Ways(surface.map, surface.query) : null;
    this.texelsPerMetre = surface?.map.texelsPerMetre ?? context.sheet.width;
  }

  /** The texel's place, so many texels away; on the surface along axes that are the same for a whole face. */
  at(tile: TileIndex, i: number, a: number, b: number): void {
    const x = tileX(tile) * TILE + (i % TILE) + 0.5;
    const y = tileY(tile) * TILE + ((i / TILE) | 0) + 0.5;
    const face = this.faceOf(tile, i);
    if (face < 0) {
      this.x = x + a;
      this.y = y + b;
      return;
    }
    if (face !== this.framed) this.frame(face);
    const { u, v } = this;
    this.go(face, x, y, u[0] * a + v[0] * b, u[1] * a + v[1] * b, u[2] * a + v[2] * b);
  }

  /** By a vector along the surface, metres. */
  by(tile: TileIndex, i: number, dx: number, dy: number, dz: number): void {
    const x = tileX(tile) * TILE + (i % TILE) + 0.5;
    const y = tileY(tile) * TILE + ((i / TILE) | 0) + 0.5;
    const face = this.faceOf(tile, i);
    if (face >= 0) return this.go(face, x, y, dx, dy, dz);
    this.x = x;
    this.y = y;
  }

  /** By a vector in texels of the sheet; over a seam it goes on on the surface. */
  byTexels(tile: TileIndex, i: number, dx: number, dy: number): void {
    const x = tileX(tile) * TILE + (i % TILE) + 0.5;
    const y = tileY(tile) * TILE + ((i / TILE) | 0) + 0.5;
    const face = this.faceOf(tile, i);
    this.x = x + dx;
    this.y = y + dy;
    if (face < 0) return;
    const { map, query } = this.context.surface!;
    const c = map.cornersTexels;
    const o = face * 6;
    const area2 = (c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1]);
    if (!(Math.abs(area2) > 1e-9)) return;
    const w1 = (dx * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * dy) / area2;
    const w2 = ((c[o + 2] - c[o]) * dy - dx * (c[o + 3] - c[o + 1])) / area2;
    const { positions: p, indices } = query.model;
    const i0 = indices[face * 3] * 3;
    const i1 = indices[face * 3 + 1] * 3;
    const i2 = indices[face * 3 + 2] * 3;
    this.go(
      face,
      x,
      y,
      (p[i1] - p[i0]) * w1 + (p[i2] - p[i0]) * w2,
      (p[i1 + 1] - p[i0 + 1]) * w1 + (p[i2 + 1] - p[i0 + 1]) * w2,
      (p[i1 + 2] - p[i0 + 2]) * w1 + (p[i2 + 2] - p[i0 + 2]) * w2,
    );
  }

  private faceOf(tile: TileIndex, i: number): number {
    return this.context.surface?.map.tiles.get(tile)?.face[i] ?? -1;
  }

  private go(face: number, x: number, y: number, dx: number, dy: number, dz: number): void {
    const ways = this.ways!;
    ways.walk(face, x, y, dx, dy, dz);
    this.x = ways.x;
    this.y = ways.y;
  }

  private frame(face: number): void {
    this.framed = face;
    const { model, faceNormal: n } = this.context.surface!.query;
    const { positions: p, indices } = model;
    const a = indices[face * 3] * 3;
    const b = indices[face * 3 + 1] * 3;
    const { u, v } = this;
    const length = Math.hypot(p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]) || 1;
    const unit = 1 / (length * this.texelsPerMetre);
    for (let k = 0; k < 3; k++) u[k] = (p[b + k] - p[a + k]) * unit;
    const o = face * 3;
    v[0] = n[o + 1] * u[2] - n[o + 2] * u[1];
    v[1] = n[o + 2] * u[0] - n[o] * u[2];
    v[2] = n[o] * u[1] - n[o + 1] * u[0];
  }
}
