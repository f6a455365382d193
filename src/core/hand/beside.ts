/** Which places lie beside a texel: on the surface, over seams, or in the sheet where there is no surface. */
import { waysOf, type Ways } from '../mesh/ways';
import { TILE, tileX, tileY, type TileIndex } from '../tile/tiles';
import { texelsPerMetre, type StrokeContext } from './context';

/** What a step is on a face: how much further the weights of its corners 1 and 2 are, and where in the sheet; 4 a step. */
type FaceSteps = Float64Array;

/**
 * Steps of the same lengths from many texels, worked out once a face: nearly all of them end in the face they begin in,
 * which costs a few sums. The others go their way over the edge.
 */
export class Steps {
  /** The place that was asked for last, in texels of the sheet. */
  x = 0;
  y = 0;
  private faces = new Map<number, FaceSteps>();
  private face = -1;
  private steps: FaceSteps | null = null;
  private px = 0;
  private py = 0;
  private w1 = 0;
  private w2 = 0;

  /** `vector`: the n-th step on a face in metres along the surface, into an array of three. */
  constructor(
    private beside: Beside,
    private count: number,
    private vector: (face: number, n: number, out: Float64Array) => void,
    private inSheet: (n: number) => readonly [number, number],
  ) {}

  /** From this texel. */
  from(tile: TileIndex, i: number): void {
    const { beside } = this;
    this.px = tileX(tile) * TILE + (i % TILE) + 0.5;
    this.py = tileY(tile) * TILE + ((i / TILE) | 0) + 0.5;
    const face = beside.faceOf(tile, i);
    if (face !== this.face) {
      this.face = face;
      this.steps = face < 0 ? null : this.stepsOf(face);
    }
    if (face < 0) return;
    const m = beside.intoWeights(face);
    const qx = this.px - m[4];
    const qy = this.py - m[5];
    this.w1 = m[0] * qx + m[1] * qy;
    this.w2 = m[2] * qx + m[3] * qy;
  }

  /** The n-th step from there. */
  go(n: number): void {
    const { steps } = this;
    if (steps === null) {
      const [a, b] = this.inSheet(n);
      this.x = this.px + a;
      this.y = this.py + b;
      return;
    }
    const o = n * 4;
    const n1 = this.w1 + steps[o];
    const n2 = this.w2 + steps[o + 1];
    // From within a face to within it; what lies in a gutter begins elsewhere.
    if (n1 >= 0 && n2 >= 0 && n1 + n2 <= 1 && this.w1 >= 0 && this.w2 >= 0 && this.w1 + this.w2 <= 1) {
      this.x = this.px + steps[o + 2];
      this.y = this.py + steps[o + 3];
      return;
    }
    const ways = this.beside.ways!;
    ways.goTo(this.face, this.w1, this.w2, n1, n2);
    this.x = ways.x;
    this.y = ways.y;
  }

  private stepsOf(face: number): FaceSteps {
    const known = this.faces.get(face);
    if (known) return known;
    const { beside, count } = this;
    const steps = new Float64Array(count * 4);
    const gradients = beside.ways!.gradients(face);
    const c = beside.corners;
    const o = face * 6;
    for (let n = 0; n < count; n++) {
      this.vector(face, n, scratch);
      const s1 = gradients[0] * scratch[0] + gradients[1] * scratch[1] + gradients[2] * scratch[2];
      const s2 = gradients[3] * scratch[0] + gradients[4] * scratch[1] + gradients[5] * scratch[2];
      steps[n * 4] = s1;
      steps[n * 4 + 1] = s2;
      steps[n * 4 + 2] = (c[o + 2] - c[o]) * s1 + (c[o + 4] - c[o]) * s2;
      steps[n * 4 + 3] = (c[o + 3] - c[o + 1]) * s1 + (c[o + 5] - c[o + 1]) * s2;
    }
    this.faces.set(face, steps);
    return steps;
  }
}
const scratch = new Float64Array(3);

export class Beside {
  readonly texelsPerMetre: number;
  /** Two unit vectors in the plane of a face, × a texel's length in metres. */
  private readonly u = new Float64Array(3);
  private readonly v = new Float64Array(3);
  private framed = -1;

  constructor(private context: Pick<StrokeContext, 'sheet' | 'surface'>) {
    this.texelsPerMetre = texelsPerMetre(context);
  }

  /** null on canvases. */
  get ways(): Ways | null {
    const { surface } = this.context;
    return surface && waysOf(surface.map, surface.query);
  }

  /** Steps by offsets in texels of the mean density, along axes that are the same for a whole face. */
  around(offsets: readonly (readonly [number, number])[]): Steps {
    const vector = (face: number, n: number, out: Float64Array) => {
      if (face !== this.framed) this.frame(face);
      const [a, b] = offsets[n];
      for (let k = 0; k < 3; k++) out[k] = this.u[k] * a + this.v[k] * b;
    };
    return new Steps(this, offsets.length, vector, (n) => offsets[n]);
  }

  /** One step by a vector along the surface, metres. */
  along(step: readonly number[]): Steps {
    const vector = (_face: number, _n: number, out: Float64Array) => out.set(step);
    return new Steps(this, 1, vector, () => [0, 0]);
  }

  /** One step by a vector in texels of the sheet; over a seam it goes on on the surface. */
  alongSheet(dx: number, dy: number): Steps {
    const vector = (face: number, _n: number, out: Float64Array) => {
      const m = this.intoWeights(face);
      const w1 = m[0] * dx + m[1] * dy;
      const w2 = m[2] * dx + m[3] * dy;
      const { positions: p, indices } = this.context.surface!.query.model;
      const [i0, i1, i2] = [indices[face * 3] * 3, indices[face * 3 + 1] * 3, indices[face * 3 + 2] * 3];
      for (let k = 0; k < 3; k++) out[k] = (p[i1 + k] - p[i0 + k]) * w1 + (p[i2 + k] - p[i0 + k]) * w2;
    };
    return new Steps(this, 1, vector, () => [dx, dy]);
  }

  get corners(): Float32Array {
    return this.context.surface!.map.cornersTexels;
  }

  /** From a place in the sheet to the weights of corners 1 and 2: a matrix of two rows, then the place of corner 0. */
  intoWeights(face: number): Float64Array {
    const known = this.matrices.get(face);
    if (known) return known;
    const c = this.corners;
    const o = face * 6;
    const area2 = (c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1]);
    // A face without area in the sheet owns no texel.
    const k = Math.abs(area2) > 1e-9 ? 1 / area2 : 0;
    const m = Float64Array.of(
      (c[o + 5] - c[o + 1]) * k,
      -(c[o + 4] - c[o]) * k,
      -(c[o + 3] - c[o + 1]) * k,
      (c[o + 2] - c[o]) * k,
      c[o],
      c[o + 1],
    );
    this.matrices.set(face, m);
    return m;
  }
  private matrices = new Map<number, Float64Array>();

  faceOf(tile: TileIndex, i: number): number {
    return this.context.surface?.map.tiles.get(tile)?.face[i] ?? -1;
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
