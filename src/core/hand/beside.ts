/** Which places lie beside a texel: on the surface, over seams, or in the sheet where there is no surface. */
import { waysOf, type Ways } from '../mesh/ways';
import type { TexelRect } from '../../kernels/dabs';
import type { StepTables } from '../../kernels/steps';
import { kernels } from '../kernels';
import { lasting, TILE, tileX, tileY, type TileIndex } from '../tile/tiles';
import type { Looked } from './looked';
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
  private ways: Ways | null;
  private matrices: Float64Array | null;
  private matrix = 0;
  private tileFaces: Int32Array | null = null;
  private left = 0;
  private top = 0;
  private px = 0;
  private py = 0;
  private w1 = 0;
  private w2 = 0;
  private within = false;

  /** `vector`: the n-th step on a face in metres along the surface, into an array of three. */
  constructor(
    private beside: Beside,
    private count: number,
    private vector: (face: number, n: number, out: Float64Array) => void,
    private inSheet: (n: number) => readonly [number, number],
  ) {
    this.ways = beside.ways;
    this.matrices = this.ways && this.ways.into;
  }

  /** Texels of this tile are asked for from now on. */
  inTile(tile: TileIndex): void {
    this.left = tileX(tile) * TILE + 0.5;
    this.top = tileY(tile) * TILE + 0.5;
    this.tileFaces = this.beside.facesOf(tile);
  }

  /** From this texel of the tile. */
  from(i: number): void {
    this.px = this.left + (i & (TILE - 1));
    this.py = this.top + (i >> 7);
    const face = this.tileFaces === null ? -1 : this.tileFaces[i];
    if (face !== this.face) this.comeTo(face);
    if (face < 0) return;
    const m = this.matrices!;
    const o = this.matrix;
    const qx = this.px - m[o + 4];
    const qy = this.py - m[o + 5];
    const w1 = m[o] * qx + m[o + 1] * qy;
    const w2 = m[o + 2] * qx + m[o + 3] * qy;
    this.w1 = w1;
    this.w2 = w2;
    this.within = w1 >= 0 && w2 >= 0 && w1 + w2 <= 1;
  }

  private comeTo(face: number): void {
    this.face = face;
    this.steps = face < 0 ? null : this.stepsOf(face);
    if (face >= 0) this.matrix = this.ways!.intoWeights(face);
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
    if (this.within && n1 >= 0 && n2 >= 0 && n1 + n2 <= 1) {
      this.x = this.px + steps[o + 2];
      this.y = this.py + steps[o + 3];
      return;
    }
    const ways = this.ways!;
    ways.goTo(this.face, this.w1, this.w2, n1, n2);
    this.x = ways.x;
    this.y = ways.y;
  }

  /**
   * For all texels of a tile's rectangle that are wanted and not done at once, by the kernels: their own value and what is
   * read at each step, weighed. false: they are to be asked for one by one.
   */
  read(
    looked: Looked,
    tile: TileIndex,
    weights: Float32Array,
    out: Float32Array,
    want: Float32Array,
    done: Uint8Array | null,
    rect: TexelRect,
  ): boolean {
    this.inTile(tile);
    const tables = this.beside.tablesFor(this, this.count, weights, this.inSheet);
    const { slots } = tables;
    const { tileFaces: faces } = this;
    let last = -1;
    for (let y = rect.y0; faces && y < rect.y1; y++)
      for (let i = y * TILE + rect.x0, end = y * TILE + rect.x1; i < end; i++) {
        const face = faces[i];
        if (face === last || face < 0 || !(want[i] > 0) || (done && done[i])) continue;
        last = face;
        if (slots[face] < 0) this.beside.giveSlot(tables, face, this.stepsOf(face));
      }
    const of = { faces, left: this.left, top: this.top, own: looked.tile(tile) };
    return kernels().readSteps(looked, this.ways, tables, of, out, want, done, rect);
  }

  private stepsOf(face: number): FaceSteps {
    const known = this.faces.get(face);
    if (known) return known;
    const { count } = this;
    const steps = new Float64Array(count * 4);
    const gradients = this.ways!.gradients(face);
    const c = this.ways!.corners;
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

/** Faces that tables have room for to begin with. */
const FIRST_SLOTS = 64;

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
      const ways = this.ways!;
      const m = ways.into;
      const o = ways.intoWeights(face);
      const w1 = m[o] * dx + m[o + 1] * dy;
      const w2 = m[o + 2] * dx + m[o + 3] * dy;
      const { positions: p, indices } = this.context.surface!.query.model;
      const [i0, i1, i2] = [indices[face * 3] * 3, indices[face * 3 + 1] * 3, indices[face * 3 + 2] * 3];
      for (let k = 0; k < 3; k++) out[k] = (p[i1 + k] - p[i0 + k]) * w1 + (p[i2 + k] - p[i0 + k]) * w2;
    };
    return new Steps(this, 1, vector, () => [dx, dy]);
  }

  private given: number[] = [];
  private givenTo: Steps | null = null;
  private kept: StepTables | null = null;

  /** Tables for steps: they are emptied when others ask for them. */
  tablesFor(steps: Steps, count: number, weights: Float32Array, inSheet: (n: number) => readonly [number, number]): StepTables {
    const faces = this.context.surface?.query.topology.faceCount ?? 0;
    if (this.kept && this.givenTo === steps) return this.kept;
    this.givenTo = steps;
    if (this.kept?.count !== count) {
      this.given = [];
      this.kept = {
        count,
        weights: lasting(Float32Array, count),
        inSheet: lasting(Float64Array, count * 2),
        slots: lasting(Int32Array, Math.max(1, faces)).fill(-1),
        table: lasting(Float64Array, FIRST_SLOTS * count * 4),
      };
    }
    const { kept } = this;
    for (const face of this.given) kept.slots[face] = -1;
    this.given = [];
    kept.weights.set(weights);
    for (let n = 0; n < count; n++) kept.inSheet.set(inSheet(n), n * 2);
    return kept;
  }

  giveSlot(tables: StepTables, face: number, steps: Float64Array): void {
    const { length } = steps;
    this.ways!.intoWeights(face);
    const slot = this.given.length;
    if ((slot + 1) * length > tables.table.length) {
      const larger = lasting(Float64Array, tables.table.length * 2);
      larger.set(tables.table);
      tables.table = larger;
    }
    tables.table.set(steps, slot * length);
    tables.slots[face] = slot;
    this.given.push(face);
  }

  /** By texel; null: the tile has none. */
  facesOf(tile: TileIndex): Int32Array | null {
    return this.context.surface?.map.tiles.get(tile)?.face ?? null;
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
