/**
 * A model's picture brought to the sheet's own UVs, where it lies on others: another UV set, or turned, scaled and shifted
 * (KHR_texture_transform: uv' = offset + turn · scale · uv, V down).
 */
import { StencilReader } from '../hand/stencil';
import { buildIslands, buildTopology } from '../mesh/topology';
import type { Meaning } from '../kinds/maps/map';
import type { Model, ModelPicture, PictureWrap } from '../mesh/model';
import { buildSurfaceMap } from '../mesh/surfaceMap/build';
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import { barycentric } from '../mesh/surfaceQuery';
import { pyramidOf } from '../strata/pictureLevel';
import { toStored, type Bitmap } from '../tile/bitmap';
import { TILE, tileX, tileY } from '../tile/tiles';

/** Where a sheet lies: a UV set and a material of a model, and its size. */
export interface OnSheet {
  model: Model;
  uvSet: number;
  material: number;
  width: number;
  height: number;
}

/** The picture lies on the sheet's UVs as it is. */
export const liesPlain = ({ uvSet, transform }: ModelPicture, sheet: OnSheet): boolean => uvSet === sheet.uvSet && !transform;

/** RGBA of 16 bits in the sheet's size; clear where the sheet has no surface. */
export function throughUvs(picture: Bitmap, use: ModelPicture, sheet: OnSheet, means: Meaning): Bitmap {
  const { model, width, height } = sheet;
  const data = new Uint16Array(width * height * 4);
  const out: Bitmap = { width, height, channels: 4, bits: 16, data };
  const [own, theirs] = [model.uvs[sheet.uvSet], model.uvs[use.uvSet]];
  if (!theirs) return out;
  const first = { width: picture.width, height: picture.height, data: toStored(picture, 4) };
  const levels = pyramidOf(first, means === 'colour');
  const reader = new StencilReader({ ...first, levels }, use.wrap[0] === 'repeat' && use.wrap[1] === 'repeat');
  const surface = surfaceOn(sheet);
  const faces = new Map<number, Face>();
  const rgba = new Float64Array(4);
  for (const [tile, { face, position }] of surface.tiles)
    for (let i = 0; i < face.length; i++) {
      const f = face[i];
      const x = tileX(tile) * TILE + (i % TILE);
      const y = tileY(tile) * TILE + Math.floor(i / TILE);
      if (f < 0 || x >= width || y >= height) continue;
      let known = faces.get(f);
      if (!known) faces.set(f, (known = measure(f, own, theirs, use, sheet, picture)));
      const share = barycentric(model, f, position[i * 3], position[i * 3 + 1], position[i * 3 + 2]);
      const uv = [0, 1].map((k) => share.reduce((sum, w, c) => sum + w * theirs[model.indices[f * 3 + c] * 2 + k], 0));
      const [u, v] = moved(uv[0], uv[1], use);
      if (!Number.isFinite(u + v)) continue;
      reader.read(wrapped(u, use.wrap[0]), wrapped(v, use.wrap[1]), known.span, rgba);
      if (means === 'directions') turnDirection(rgba, known);
      for (let c = 0; c < 4; c++) data[(y * width + x) * 4 + c] = rgba[c] * 65535 + 0.5;
    }
  return out;
}

const surfaces = new WeakMap<OnSheet, SurfaceMap>();

/** Made once for all pictures of a material. */
function surfaceOn(sheet: OnSheet): SurfaceMap {
  const { model, uvSet, material, width, height } = sheet;
  const known = surfaces.get(sheet);
  if (known) return known;
  const uv = model.uvs[uvSet];
  const islands = buildIslands(model, buildTopology(model), uv);
  const made = buildSurfaceMap({ model, islands, uv, materialIndex: material, width, height });
  surfaces.set(sheet, made);
  return made;
}

function moved(u: number, v: number, { transform }: ModelPicture): [number, number] {
  if (!transform) return [u, v];
  const { offset, turn, scale } = transform;
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const [x, y] = [u * scale[0], v * scale[1]];
  // Counter-clockwise as seen with V down: the matrix of the extension's text.
  return [offset[0] + c * x + s * y, offset[1] - s * x + c * y];
}

function wrapped(at: number, by: PictureWrap): number {
  if (by === 'clamp') return Math.min(1, Math.max(0, at));
  if (by === 'repeat') return at - Math.floor(at);
  const t = at - 2 * Math.floor(at / 2);
  return t > 1 ? 2 - t : t;
}

interface Face {
  /** Texels of the picture that a texel of the sheet spans. */
  span: number;
  /** The picture's X and Y (up) as directions in the sheet, unit length. */
  x: [number, number];
  y: [number, number];
}

/** How the picture's UVs lie in those of the sheet, over one face. */
function measure(f: number, own: Float32Array, theirs: Float32Array, use: ModelPicture, sheet: OnSheet, picture: Bitmap): Face {
  const corners = [0, 1, 2].map((k) => sheet.model.indices[f * 3 + k]);
  const at = (uv: Float32Array, size: [number, number], through: boolean) => {
    const places = corners.map((v) => (through ? moved(uv[v * 2], uv[v * 2 + 1], use) : [uv[v * 2], uv[v * 2 + 1]]));
    // Sides of the triangle, in texels, Y up.
    return [1, 2].map((k) => [(places[k][0] - places[0][0]) * size[0], -(places[k][1] - places[0][1]) * size[1]]);
  };
  const [a, b] = at(own, [sheet.width, sheet.height], false);
  const [p, q] = at(theirs, [picture.width, picture.height], true);
  const ours = a[0] * b[1] - a[1] * b[0];
  const others = p[0] * q[1] - p[1] * q[0];
  const span = ours === 0 ? 1 : Math.sqrt(Math.abs(others / ours));
  // s · p + t · q is a step along an axis of the picture; the same s and t along our sides is where it goes in the sheet.
  const along = (x: number, y: number): [number, number] => {
    if (others === 0) return [x, y];
    const [s, t] = [(x * q[1] - y * q[0]) / others, (y * p[0] - x * p[1]) / others];
    const to = [s * a[0] + t * b[0], s * a[1] + t * b[1]];
    const l = Math.hypot(to[0], to[1]) || 1;
    return [to[0] / l, to[1] / l];
  };
  return { span, x: along(1, 0), y: along(0, 1) };
}

/** A direction's X and Y, encoded, from the picture's frame into the sheet's. */
function turnDirection(rgba: Float64Array, { x, y }: Face): void {
  const [u, v, w] = [0, 1, 2].map((c) => rgba[c] * 2 - 1);
  const to = [u * x[0] + v * y[0], u * x[1] + v * y[1], w];
  const l = Math.hypot(...to) || 1;
  for (let c = 0; c < 3; c++) rgba[c] = (to[c] / l) * 0.5 + 0.5;
}
