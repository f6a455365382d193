/** Finding the surface under a ray, and the faces that a dab may touch. */
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { faceNormals } from './faceNormals';
import { boundsOf, type Model } from './model';
import { surfacePoint } from './surfaceMap/corners';
import { kernels } from '../kernels';
import { lasting, placed } from '../tile/tiles';
import type { Topology } from './topology';

export interface SurfaceHit {
  face: number;
  /** World space, metres. */
  point: [number, number, number];
  /** Shading normal, unit, turned to the side that was hit. */
  normal: [number, number, number];
  /** Weights of the triangle's three corners. */
  barycentric: [number, number, number];
  distance: number;
}

/** The part of a model that rays need; the page uses it for the brush ring. */
export type RayModel = Pick<Model, 'positions' | 'normals' | 'indices' | 'facePart' | 'parts'>;

export class RayQuery<M extends RayModel = RayModel> {
  private bvh: MeshBVH;
  /** 1: not to be seen. */
  readonly hidden: Uint8Array;
  private ray = new Ray();
  /** Of its bounds. */
  readonly middle: readonly number[];

  constructor(readonly model: M) {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(model.positions, 3));
    geometry.setIndex(new BufferAttribute(model.indices, 1));
    // `indirect` keeps our face order: face numbers are shared with the surface maps.
    this.bvh = new MeshBVH(geometry, { indirect: true });
    this.hidden = lasting(Uint8Array, model.facePart.length).fill(0);
    const { min, max } = boundsOf(model.positions);
    this.middle = [0, 1, 2].map((k) => (min[k] + max[k]) / 2);
  }

  /** Counts the calls of `hide`. Cached results of walks over the surface are out of date when it has changed. */
  hiddenVersion = 0;

  /** Hides parts by name, and faces by themselves: from … to, both included. All others are shown. */
  hide(parts: readonly string[], faces: readonly (readonly [number, number])[] = []): void {
    this.hiddenVersion++;
    const set = new Set(parts.map((n) => this.model.parts.indexOf(n)));
    for (let f = 0; f < this.hidden.length; f++) this.hidden[f] = set.has(this.model.facePart[f]) ? 1 : 0;
    for (const [from, to] of faces) this.hidden.fill(1, from, to + 1);
  }

  isHidden(face: number): boolean {
    return this.hidden[face] === 1;
  }

  /** Nearest visible face along the ray (direction need not be unit), or null. */
  raycast(origin: ArrayLike<number>, direction: ArrayLike<number>): SurfaceHit | null {
    this.ray.origin.set(origin[0], origin[1], origin[2]);
    this.ray.direction.set(direction[0], direction[1], direction[2]).normalize();
    let hit = this.bvh.raycastFirst(this.ray, DoubleSide);
    if (hit && this.hidden[hit.faceIndex!])
      hit = this.bvh
        .raycast(this.ray, DoubleSide)
        .filter((h) => !this.hidden[h.faceIndex!])
        .sort((a, b) => a.distance - b.distance)[0];
    if (!hit) return null;
    return this.describe(hit.faceIndex!, hit.point, hit.distance);
  }

  /** The surface near a point, seen against a direction: at most `reach` in front of it or behind; or null. */
  near(point: readonly number[], normal: readonly number[], reach: number): SurfaceHit | null {
    const from = point.map((v, k) => v + normal[k] * reach);
    const hit = this.raycast(
      from,
      normal.map((v) => -v),
    );
    return hit && hit.distance <= 2 * reach ? hit : null;
  }

  private describe(face: number, point: Vector3, distance: number): SurfaceHit {
    const [w0, w1, w2] = barycentric(this.model, face, point.x, point.y, point.z);
    const out = new Float32Array(6);
    surfacePoint(this.model, face, w0, w1, w2, out);
    const d = this.ray.direction;
    const side = out[3] * d.x + out[4] * d.y + out[5] * d.z > 0.2 ? -1 : 1;
    return {
      face,
      point: [point.x, point.y, point.z],
      normal: [out[3] * side, out[4] * side, out[5] * side],
      barycentric: [w0, w1, w2],
      distance,
    };
  }
}

/** A face whose vertices' normals lean further from its own than this (cosine of 40°) is not round: its own normal counts. */
const ROUND = 0.766;

export class SurfaceQuery extends RayQuery<Model> {
  /** 3 × the unit normal of each face's plane; 0 where it has no area. */
  readonly faceNormal: Float32Array;
  /** 1 for faces that are shaded as if they were bent further than any round thing's are. */
  readonly bent: Uint8Array;
  /** Per face: 2·generation + 1 when included in the current dab, 2·generation when looked at and left out. */
  readonly stamp: Uint32Array;
  readonly positions: Float32Array;
  readonly indices: Uint32Array;
  /** Welded vertex of each corner. */
  readonly corner: Uint32Array;
  readonly start: Uint32Array;
  readonly neighbours: Uint32Array;
  /** The faces that the last flood included, as many as it says. */
  readonly reached: Uint32Array;
  reachedCount = 0;
  private generation = 0;

  constructor(
    model: Model,
    readonly topology: Topology,
  ) {
    super(model);
    this.stamp = lasting(Uint32Array, model.facePart.length).fill(0);
    this.positions = placed(model.positions);
    this.indices = placed(model.indices);
    this.corner = placed(topology.corner);
    this.start = placed(topology.start);
    this.neighbours = placed(topology.neighbours);
    this.reached = lasting(Uint32Array, model.facePart.length);
    this.faceNormal = faceNormals(model);
    this.bent = bentFaces(model, this.faceNormal);
  }

  /**
   * Marks in `stamp` the faces that can be reached from `face` over shared edges without leaving the ball, and those around
   * them whose gutters may lie in it: up to `beyond` metres outside. Returns the value that marked faces carry. Parts
   * across a gap are never reached, however near.
   */
  floodBall(face: number, x: number, y: number, z: number, radius: number, beyond = 0): number {
    if (++this.generation > 0x3ffffff0) {
      this.generation = 1;
      this.stamp.fill(0);
    }
    const included = this.generation * 2 + 1;
    this.reachedCount = kernels().flood(this, face, x, y, z, radius, beyond, included);
    return included;
  }
}

function bentFaces({ normals: n, indices }: Model, faceNormal: Float32Array): Uint8Array {
  const out = lasting(Uint8Array, indices.length / 3).fill(0);
  for (let i = 0; i < indices.length; i++) {
    const v = indices[i] * 3;
    const f = (i / 3) | 0;
    if (n[v] * faceNormal[f * 3] + n[v + 1] * faceNormal[f * 3 + 1] + n[v + 2] * faceNormal[f * 3 + 2] < ROUND) out[f] = 1;
  }
  return out;
}

export function barycentric(
  model: Pick<Model, 'positions' | 'indices'>,
  face: number,
  x: number,
  y: number,
  z: number,
): [number, number, number] {
  const p = model.positions;
  const a = model.indices[face * 3] * 3;
  const b = model.indices[face * 3 + 1] * 3;
  const c = model.indices[face * 3 + 2] * 3;
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  const wx = x - p[a];
  const wy = y - p[a + 1];
  const wz = z - p[a + 2];
  const uu = ux * ux + uy * uy + uz * uz;
  const uv = ux * vx + uy * vy + uz * vz;
  const vv = vx * vx + vy * vy + vz * vz;
  const wu = wx * ux + wy * uy + wz * uz;
  const wv = wx * vx + wy * vy + wz * vz;
  const d = uu * vv - uv * uv;
  if (d === 0) return [1, 0, 0];
  const w1 = (vv * wu - uv * wv) / d;
  const w2 = (uu * wv - uv * wu) / d;
  return [1 - w1 - w2, w1, w2];
}
