/** Writes texels of a surface map while it is made. */
import { lasting, TILE_TEXELS, tileIndex, tilesAcross } from '../../tile/tiles';
import type { Model } from '../model';
import { BLOCKS_PER_TILE, type SurfaceMap, type SurfaceTile } from './surfaceMap';

/** Tiles by place while the map is made: an array is much faster to ask than the map of tiles. */
export class Grid {
  readonly across: number;
  private cells: (SurfaceTile | undefined)[] = [];

  constructor(private map: SurfaceMap) {
    this.across = tilesAcross(map.width);
  }

  find(tx: number, ty: number): SurfaceTile | undefined {
    return this.cells[ty * this.across + tx];
  }

  make(tx: number, ty: number): SurfaceTile {
    const at = ty * this.across + tx;
    let tile = this.cells[at];
    if (!tile) {
      tile = {
        x: tx,
        y: ty,
        position: lasting(Float32Array, TILE_TEXELS * 3).fill(NaN),
        normal: lasting(Int8Array, TILE_TEXELS * 3).fill(0),
        face: lasting(Int32Array, TILE_TEXELS).fill(-1),
        blockBounds: new Float32Array(0),
        blockNormals: lasting(Float32Array, BLOCKS_PER_TILE * 4),
        bounds: new Float32Array(6),
      };
      this.cells[at] = tile;
      this.map.tiles.set(tileIndex(tx, ty), tile);
    }
    return tile;
  }
}

/** Corners of the face being written: 3 × position, 3 × normal. Loaded once a face. */
const corners = new Float64Array(18);

/** The face whose texels `writeTexel` writes next. */
export function loadFace(model: Model, f: number): void {
  for (let k = 0; k < 3; k++) {
    const v = model.indices[f * 3 + k] * 3;
    for (let c = 0; c < 3; c++) {
      corners[k * 3 + c] = model.positions[v + c];
      corners[9 + k * 3 + c] = model.normals[v + c];
    }
  }
}

/** `surfacePoint` for the loaded face, written straight into texel i of a tile. */
export function writeTexel(tile: SurfaceTile, i: number, f: number, w0: number, w1: number, w2: number): void {
  const q = corners;
  const { position, normal } = tile;
  const o = i * 3;
  tile.face[i] = f;
  position[o] = q[0] * w0 + q[3] * w1 + q[6] * w2;
  position[o + 1] = q[1] * w0 + q[4] * w1 + q[7] * w2;
  position[o + 2] = q[2] * w0 + q[5] * w1 + q[8] * w2;
  const c0 = w0 < 0 ? 0 : w0;
  const c1 = w1 < 0 ? 0 : w1;
  const c2 = w2 < 0 ? 0 : w2;
  const nx = q[9] * c0 + q[12] * c1 + q[15] * c2;
  const ny = q[10] * c0 + q[13] * c1 + q[16] * c2;
  const nz = q[11] * c0 + q[14] * c1 + q[17] * c2;
  const scale = 127 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
  normal[o] = nx * scale + (nx < 0 ? -0.5 : 0.5);
  normal[o + 1] = ny * scale + (ny < 0 ? -0.5 : 0.5);
  normal[o + 2] = nz * scale + (nz < 0 ? -0.5 : 0.5);
}
