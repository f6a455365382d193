/** The model as the viewport needs it. */
import type { Piece } from '../../core/document/schema';
import type { Model } from '../../core/mesh/model';
import { placeCorners } from '../../core/mesh/surfaceMap/corners';
import type { Geometry } from '../protocol';

export function geometryOf(model: Model, piece: Piece): Geometry {
  const uv = model.uvs[piece.model!.uvSet];
  const texelsPerMetre: Record<string, number> = {};
  const wires: Record<string, Float32Array> = {};
  for (const sheet of piece.sheets) {
    const { id, materialIndex, width, height } = sheet;
    if (materialIndex === null) continue;
    const corners = placeCorners({ model, uv, materialIndex, width, height });
    texelsPerMetre[id] = corners.texelsPerMetre;
    wires[id] = uvEdges(corners.cornersTexels, width, height);
  }
  const { positions, normals, indices, facePart, faceMaterial, parts } = model;
  return { positions, normals, uv, indices, facePart, faceMaterial, parts, texelsPerMetre, wires };
}

/** Each UV edge once, as u v u v in 0..1. `corners`: texels, NaN for faces of other sheets. */
export function uvEdges(corners: Float32Array, width: number, height: number): Float32Array {
  const seen = new Set<string>();
  const lines: number[] = [];
  for (let f = 0; f < corners.length; f += 6) {
    if (!Number.isFinite(corners[f])) continue;
    for (let k = 0; k < 3; k++) {
      const a = f + k * 2;
      const b = f + ((k + 1) % 3) * 2;
      const ends = [
        `${corners[a].toFixed(2)},${corners[a + 1].toFixed(2)}`,
        `${corners[b].toFixed(2)},${corners[b + 1].toFixed(2)}`,
      ]
        .sort()
        .join(' ');
      if (seen.has(ends)) continue;
      seen.add(ends);
      lines.push(corners[a] / width, corners[a + 1] / height, corners[b] / width, corners[b + 1] / height);
    }
  }
  return Float32Array.from(lines);
}
