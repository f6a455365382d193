/**
 * A model in memory: all parts merged, at rest, in world space (metres, Y up, right-handed as in glTF).
 * UVs have V pointing down, as glTF and image rows do.
 */
import type { Carried } from './carried';

export interface ModelMaterial {
  name: string;
  /** Linear RGB and alpha, 0..1. */
  baseColourLinear: [number, number, number, number];
  metallic: number;
  roughness: number;
  seeThrough: boolean;
  /** Linear RGB, 0..1, and how many times brighter it shines (KHR_materials_emissive_strength). */
  emissiveLinear: [number, number, number];
  emissiveStrength: number;
  doubleSided: boolean;
  /** What the alpha of the base colour means (glTF 2.0, 3.9.4): nothing, there from `alphaCutoff` on, or how much. */
  alphaMode: 'OPAQUE' | 'MASK' | 'BLEND';
  alphaCutoff: number;
  normalScale: number;
  occlusionStrength: number;
  /** Pictures that the file carries, still encoded. */
  baseColourPicture: ModelPicture | null;
  metallicRoughnessPicture: ModelPicture | null;
  normalPicture: ModelPicture | null;
  emissivePicture: ModelPicture | null;
  occlusionPicture: ModelPicture | null;
  /** What the file says beyond all this, kept as it is; left out: nothing. */
  carried?: Carried;
}

export interface EncodedPicture {
  mime: string;
  bytes: Uint8Array;
}

export type PictureWrap = 'repeat' | 'mirror' | 'clamp';

/** A picture of a material, and how it is laid on. */
export interface ModelPicture extends EncodedPicture {
  uvSet: number;
  /** Along U and V. */
  wrap: [PictureWrap, PictureWrap];
  /** UV → scale, then turn (radians), then offset (KHR_texture_transform); null: as it is. */
  transform: { offset: [number, number]; turn: number; scale: [number, number] } | null;
}

/** One that lies on the first UV set as it is. */
export const plainPicture = (mime: string, bytes: Uint8Array): ModelPicture => ({
  mime,
  bytes,
  uvSet: 0,
  wrap: ['repeat', 'repeat'],
  transform: null,
});

/** A node of a scene: parts hang on some, others only hold others. */
export interface SceneNode {
  name: string;
  /** Place in the list; −1: outermost. */
  parent: number;
  /** Against the one above, column-major. */
  matrix: number[];
  /** −1: none. */
  part: number;
  extras?: Record<string, unknown>;
}

export interface Model {
  /** 3 × float32 a vertex. */
  positions: Float32Array;
  /** 3 × float32 a vertex, unit length. */
  normals: Float32Array;
  /** One array a UV set, 2 × float32 a vertex; NaN where a part lacks the set. */
  uvs: Float32Array[];
  /** 3 indices a triangle. */
  indices: Uint32Array;
  /** Part index of each triangle, into `parts`. */
  facePart: Uint16Array;
  /** Material index of each triangle, into `materials`. */
  faceMaterial: Uint16Array;
  parts: string[];
  materials: ModelMaterial[];
  /** Colours of the vertices, 3 × float32, sRGB; left out where the file has none. */
  colours?: Float32Array;
  /** Vertices as the file counts them (a seam's vertex counts as often as the file stores it). */
  fileVertices: number;
  /** The nodes of the file, each behind the one above it; left out where it has none. Positions are in world space all the same. */
  nodes?: SceneNode[];
  /** What was odd about the file but did not stop it: sentences. */
  notes: string[];
}

/** Explicit bounds on what is read. */
export const MODEL_LIMITS = {
  maxTriangles: 5_000_000,
  maxVertices: 5_000_000,
  maxParts: 4096,
  maxNodes: 20_000,
  maxMaterials: 256,
  maxUvSets: 8,
  /** Of a part or a material; longer ones are cut. */
  maxNameLength: 1024,
  maxFileBytes: 512 * 1024 * 1024,
} as const;

/** Bad input: `message` is one sentence for people (what, why, what to do). */
export class ModelError extends Error {}

export interface Bounds {
  min: [number, number, number];
  max: [number, number, number];
  /** Length of the diagonal. */
  diagonal: number;
}

export function boundsOf(positions: Float32Array): Bounds {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i++) {
    const axis = i % 3;
    if (positions[i] < min[axis]) min[axis] = positions[i];
    if (positions[i] > max[axis]) max[axis] = positions[i];
  }
  return { min, max, diagonal: Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) };
}

/** Longest side of a box, above 0: what shares of the model's size are shares of. */
export const sizeOf = ({ min, max }: { min: readonly number[]; max: readonly number[] }): number =>
  Math.max(...min.map((v, k) => max[k] - v)) || 1;

/** Fills in vertex normals by area-weighted face normals where a file gives none. */
export function computeNormals(positions: Float32Array, indices: Uint32Array): Float32Array {
  const normals = new Float32Array(positions.length);
  for (let t = 0; t < indices.length; t += 3) {
    const a = indices[t] * 3;
    const b = indices[t + 1] * 3;
    const c = indices[t + 2] * 3;
    const ux = positions[b] - positions[a];
    const uy = positions[b + 1] - positions[a + 1];
    const uz = positions[b + 2] - positions[a + 2];
    const vx = positions[c] - positions[a];
    const vy = positions[c + 1] - positions[a + 1];
    const vz = positions[c + 2] - positions[a + 2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    for (const o of [a, b, c]) {
      normals[o] += nx;
      normals[o + 1] += ny;
      normals[o + 2] += nz;
    }
  }
  normalise(normals);
  return normals;
}

/** Makes every vector of a 3 × float32 array unit length; zero and non-finite vectors become +Y. */
export function normalise(vectors: Float32Array): void {
  for (let i = 0; i < vectors.length; i += 3) {
    const l = Math.hypot(vectors[i], vectors[i + 1], vectors[i + 2]);
    if (l > 0 && Number.isFinite(l)) {
      vectors[i] /= l;
      vectors[i + 1] /= l;
      vectors[i + 2] /= l;
    } else {
      vectors[i] = 0;
      vectors[i + 1] = 1;
      vectors[i + 2] = 0;
    }
  }
}
