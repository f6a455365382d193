/** A model that is baked from: its own, or a dense twin; with what is made of it once. */
import { kernels } from '../kernels';
import type { Rays } from '../../kernels/rays';
import { boundsOf, sizeOf, type Model } from '../mesh/model';
import { cornerTangents } from '../mesh/tangents';
import { weldCorners } from '../mesh/topology';
import { Curvature } from './curvature';
import { treeOf } from './tree';

/** Rays begin so far off the face, in shares of the model's size: some hundred steps of float32 there. */
const BIAS = 1e-5;

export class Ground {
  /** Longest side of its bounds, above 0. */
  readonly size: number;
  readonly bias: number;
  readonly min: readonly number[];
  readonly max: readonly number[];
  private trees = new Map<string, Rays>();
  private welded: Uint32Array | null = null;
  private curves = new Map<number, Curvature>();
  private tangents: Float32Array | null = null;
  private faces: Uint32Array[] | null = null;

  /** `colours`: sRGB of the vertices, 3 × float32, where the file has any. */
  constructor(
    readonly model: Model,
    readonly options: { uvSet?: number; colours?: Float32Array | null; islands?: Uint32Array | null } = {},
  ) {
    const { min, max } = boundsOf(model.positions);
    this.min = min;
    this.max = max;
    this.size = sizeOf({ min, max });
    this.bias = this.size * BIAS;
  }

  /** Rays among all of it. */
  get rays(): Rays {
    return this.tree('', () => undefined);
  }

  /** Rays among one of its parts. */
  raysOfPart(part: number): Rays {
    return this.tree(`part ${part}`, () => this.facesOfPart(part));
  }

  /** Rays among some of its faces, kept by a name. */
  tree(name: string, faces: () => Uint32Array | undefined): Rays {
    let rays = this.trees.get(name);
    if (!rays) this.trees.set(name, (rays = kernels().raysOf(treeOf(this.model, faces()))));
    return rays;
  }

  facesOfPart(part: number): Uint32Array {
    if (!this.faces) {
      const lists = this.model.parts.map((): number[] => []);
      this.model.facePart.forEach((p, f) => lists[p]?.push(f));
      this.faces = lists.map((l) => Uint32Array.from(l));
    }
    return this.faces[part] ?? new Uint32Array(0);
  }

  /** Welded vertex of each corner. */
  get corner(): Uint32Array {
    return (this.welded ??= weldCorners(this.model));
  }

  /** `radius`: a share of the size. */
  curvature(radius: number): Curvature {
    let found = this.curves.get(radius);
    if (!found) this.curves.set(radius, (found = new Curvature(this.model, this.corner, radius * this.size)));
    return found;
  }

  /** 4 × float32 a corner (mesh/tangents.ts). */
  get cornerTangents(): Float32Array {
    const { positions, normals, uvs, indices } = this.model;
    return (this.tangents ??= cornerTangents({ positions, normals, uv: uvs[this.options.uvSet ?? 0], indices }));
  }
}
