/** The cage of a bake: the model blown up by the outward reach, see-through, so that it is seen what lies outside of it. */
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Group,
  LineSegments,
  LineBasicMaterial,
  Mesh,
  MeshBasicMaterial,
} from 'three';
import type { Painted } from '../core/bake/share';
import { averagedNormals } from '../core/bake/project';
import { weldCorners } from '../core/mesh/topology';
import type { Geometry } from '../engine/protocol';

/** Model units, and how far its directions follow hard edges (core/bake/project.ts); painted by masks, or the same everywhere. */
export interface CageShape {
  outward: number;
  split: number;
  painted?: Painted;
}

/** Tawny, as what is at work is everywhere. */
const TINT = 0xc07a3a;

export class Cage {
  readonly group = new Group();
  private readonly directions: Float32Array;
  private readonly position: BufferAttribute;
  private readonly things: (Mesh | LineSegments)[];

  constructor(private readonly g: Geometry) {
    this.directions = averagedNormals({ model: g, corner: weldCorners(g) });
    // A place a corner: at hard edges own directions go apart.
    this.position = new BufferAttribute(new Float32Array(g.indices.length * 3), 3);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', this.position);
    const lines = new BufferGeometry();
    lines.setAttribute('position', this.position);
    lines.setIndex([...g.indices.keys()].flatMap((c) => [c, c % 3 === 2 ? c - 2 : c + 1]));
    const see = { color: TINT, transparent: true, depthWrite: false };
    this.things = [
      new Mesh(geometry, new MeshBasicMaterial({ ...see, opacity: 0.16, side: DoubleSide })),
      new LineSegments(lines, new LineBasicMaterial({ ...see, opacity: 0.35 })),
    ];
    for (const thing of this.things) {
      thing.frustumCulled = false;
      thing.renderOrder = 3;
      this.group.add(thing);
    }
  }

  shape({ outward, split: everywhere, painted }: CageShape): void {
    const { positions, normals, indices, uv } = this.g;
    const to = this.position.array as Float32Array;
    for (let c = 0; c < indices.length; c++) {
      const v = indices[c] * 3;
      const [tu, tv] = [uv[indices[c] * 2], uv[indices[c] * 2 + 1]];
      const split = painted?.split?.at(tu, tv) ?? everywhere;
      const reach = outward * (painted?.reach?.at(tu, tv) ?? 1);
      const d = [0, 1, 2].map((k) => this.directions[c * 3 + k] * (1 - split) + normals[v + k] * split);
      const l = Math.hypot(d[0], d[1], d[2]) || 1;
      for (let k = 0; k < 3; k++) to[c * 3 + k] = positions[v + k] + (d[k] / l) * reach;
    }
    this.position.needsUpdate = true;
  }

  dispose(): void {
    for (const thing of this.things) {
      thing.geometry.dispose();
      (thing.material as MeshBasicMaterial).dispose();
    }
  }
}
