/** The plane on which a canvas is shown and delivered: one metre wide, facing +Z, V down. */
import type { Model } from './model';
import { plainMaterial } from './modelBuilder';

export function planeModel(name: string, aspect: number): Model {
  const h = aspect / 2;
  return {
    positions: Float32Array.of(-0.5, h, 0, -0.5, -h, 0, 0.5, -h, 0, 0.5, h, 0),
    normals: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1),
    uvs: [Float32Array.of(0, 0, 0, 1, 1, 1, 1, 0)],
    indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
    facePart: Uint16Array.of(0, 0),
    faceMaterial: Uint16Array.of(0, 0),
    parts: [name],
    materials: [plainMaterial(name)],
    fileVertices: 4,
    notes: [],
  };
}
