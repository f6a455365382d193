/**
 * Evaluation by pulling: a tile, or a rectangle of one, of a scope after its first `n` operations. Operations
 * that look around pull the tiles beside it. Results go into a cache by signature, so that what has not changed
 * is not computed again: nothing is ever marked out of date here.
 *
 * Compositing: W3C Compositing and Blending Level 1, 5.1, straight alpha, in the map's stored encoding.
 * A tile is always computed from whole tiles of what lies below, whatever part of it is asked for: any region
 * equals the same part of the whole, bit for bit.
 */
import { composite, SEPARABLE_BLENDS, type BlendId, type WholeBlend } from '../colour/blend';
import { maskGround, type Sheet } from '../document/schema';
import '../compute';
import { kernels } from '../kernels';
import type { LaidLayer } from '../../kernels/kernels';
import type { Rect } from '../tile/mips';
import { TILE, TILE_TEXELS, tileX, tileY, WHOLE_TILE, type TileIndex, type TileStore } from '../tile/tiles';
import { FILTERS } from '../kinds/filters';
import { blendWhole, lerpStraight, storedRect, type State } from './planes';
import { reachOf, type SeenTexels, type At, type MaskUse, type Op, type Scope } from './scope';
import { mixSignature, type Signature } from './signature';
import { Signatures, type Lasting } from './signatures';
import type { Surface } from '../mesh/surface';
import { surfaceUnder } from './surfaceUnder';
import { TileCache, type TileValue } from './tileCache';
import { gather } from './window';

export interface StrataSource {
  sheet: Sheet;
  store: TileStore;
  cache?: TileCache;
  /** Layer that is being worked on: what lies below it is kept ready. */
  hot?: string | null;
  lasting?: Lasting;
}

const MODE: Partial<Record<BlendId, number>> = Object.fromEntries(SEPARABLE_BLENDS.map((id, n) => [id, n]));
type Laying = Extract<Op, { type: 'blend' }>;

/** One moment of a sheet: valid until the document or a tile changes. Cheap to make; the cache outlives it. */
export class Evaluator extends Signatures implements At {
  readonly cache: TileCache;
  private readonly hot: string | null;
  private model: Surface | null | undefined;
  private last: { op: Op; tile: TileIndex; value: TileValue } | null = null;

  constructor(source: StrataSource) {
    super(source.sheet, source.store, source.lasting ?? null);
    this.cache = source.cache ?? new TileCache();
    this.hot = source.hot ?? null;
  }

  /** The model under the sheet; null on a canvas. */
  get surface(): Surface | null {
    if (this.model === undefined) this.model = surfaceUnder(this.store, this.sheet);
    return this.model;
  }

  /** A whole tile of a scope, through the cache. */
  tile(scope: Scope, tile: TileIndex, n = scope.ops.length): TileValue {
    const signature = this.signature(scope, n, tile);
    return this.cached(signature, () => {
      const mark = kernels().mark();
      try {
        const value = kept(scope, this.carryOut(scope, n, tile, WHOLE_TILE));
        return value;
      } finally {
        kernels().release(mark);
      }
    });
  }

  /**
   * A rectangle of a tile (texels within the tile; x and width multiples of 4) handed to `take`: values then
   * alpha if it is even, else planes that are valid until `take` returns.
   */
  rect(
    scope: Scope,
    tile: TileIndex,
    rect: Rect,
    take: (even: readonly number[] | null, planes: Float32Array | null) => void,
  ): void {
    const mark = kernels().mark();
    try {
      const state = this.carryOut(scope, scope.ops.length, tile, rect);
      take(state.even, state.acc);
    } finally {
      kernels().release(mark);
    }
  }

  /** A mask over a rectangle of a tile: one number if it is even, else a plane valid until `take` returns. */
  maskRect(use: MaskUse | null, tile: TileIndex, rect: Rect, take: (value: number | Float32Array) => void): void {
    const mark = kernels().mark();
    try {
      take(this.mask(use, tile, rect));
    } finally {
      kernels().release(mark);
    }
  }

  // ── Carrying out ─────────────────────────────────────────────────────────────────────────────────────

  run(scope: Scope, tile: TileIndex, rect: Rect, asked: SeenTexels | null = null): State {
    return this.carryOut(scope, scope.ops.length, tile, rect, asked);
  }

  known(signature: Signature): TileValue | null {
    return this.cache.get(signature);
  }

  tileOf(scope: Scope, tile: TileIndex): TileValue {
    return this.tile(scope, tile);
  }

  private carryOut(scope: Scope, n: number, tile: TileIndex, rect: Rect, asked: SeenTexels | null = null): State {
    const start = this.resume(scope, n, tile, rect);
    const { state } = start;
    const saved: State[] = [];
    const texels = rect.width * rect.height;
    // Stored layers that follow each other are laid down together.
    const laid: LaidLayer[] = [];
    const lay = () => {
      if (laid.length > 0)
        kernels().blendStored(this.planes(state, texels), scope.channels, laid.splice(0), scope.ground !== null);
    };
    for (let i = start.at; i < n; i++) {
      const op = scope.ops[i];
      if (op.layerId === this.hot && i > start.at && saved.length === 0 && op.type !== 'restore' && !asked) {
        lay();
        this.keepBelow(scope, i, tile, rect, state);
      }
      if (op.type === 'blend') {
        if (this.hidden(scope, op, tile, laid.length > 0 ? null : state, texels)) continue;
        const mask = this.maskAt(op, tile, rect);
        if (mask === 0) continue;
        const layer = this.storedLayer(op, tile, rect, mask);
        if (layer) laid.push(layer);
        else {
          lay();
          this.blend(scope, op, tile, rect, state, mask, this.askedOf(scope, op, i, tile, state) ?? asked);
        }
        continue;
      }
      lay();
      if (op.type === 'save') saved.push(this.copy(scope, state, texels));
      else if (op.type === 'restore') this.restore(scope, op, tile, rect, saved.pop()!, state);
      else if (op.type === 'hold') hold(state, scope.channels * texels);
      else this.adjust(scope, op, i, tile, rect, state);
    }
    lay();
    return state;
  }

  /** The nearest known state: what lies below the layer at work, or below a filter that looks around. */
  private resume(scope: Scope, n: number, tile: TileIndex, rect: Rect): { at: number; state: State } {
    for (let i = n; i > 0; i--) {
      const op = scope.ops[i];
      const checkpoint = i === n || op?.layerId === this.hot || (op?.type === 'adjust' && op.passes !== null);
      if (!checkpoint || this.insideSave(scope, i)) continue;
      const known = this.cache.get(this.signature(scope, i, tile));
      if (known) return { at: i, state: this.cut(scope.channels + 1, known, rect) };
    }
    const even = scope.ground ? [...scope.ground, 1] : new Array<number>(scope.channels + 1).fill(0);
    return { at: 0, state: { even, acc: null } };
  }

  private insideSave(scope: Scope, n: number): boolean {
    let open = 0;
    for (let i = 0; i < n; i++) {
      if (scope.ops[i].type === 'save') open++;
      else if (scope.ops[i].type === 'restore') open--;
    }
    return open > 0;
  }

  /** A whole tile is at hand already; of a part the whole is pulled. */
  private keepBelow(scope: Scope, i: number, tile: TileIndex, rect: Rect, state: State): void {
    const whole = rect.width === TILE && rect.height === TILE;
    if (whole) this.cache.set(this.signature(scope, i, tile), kept(scope, state));
    else this.tile(scope, tile, i);
  }

  cut(planes: number, value: TileValue, rect: Rect): State {
    if (!value.data) return { even: [...value.uniform], acc: null };
    const acc = kernels().floats(rect.width * rect.height * planes);
    const texels = rect.width * rect.height;
    const there = value.data.length / TILE_TEXELS;
    for (let p = 0, o = 0; p < Math.min(planes, there); p++) {
      const from = { data: value.data, at: p * TILE_TEXELS + rect.y * TILE + rect.x, stride: TILE };
      kernels().copyRows(from, { data: acc, at: o, stride: rect.width }, rect.width, rect.height);
      o += texels;
    }
    if (there < planes) acc.fill(1, there * texels);
    return { even: null, acc };
  }

  private copy(scope: Scope, state: State, texels: number): State {
    if (state.even) return { even: [...state.even], acc: null };
    const acc = kernels().floats(texels * (scope.channels + 1));
    acc.set(state.acc!);
    return { even: null, acc };
  }

  /** Makes an even state into planes. */
  private planes(state: State, texels: number): Float32Array {
    if (state.acc) return state.acc;
    const { even } = state;
    const acc = kernels().floats(texels * even!.length);
    even!.forEach((v, p) => acc.fill(v, p * texels, (p + 1) * texels));
    state.even = null;
    state.acc = acc;
    return acc;
  }

  /** The mask of an operation, with all that it is made of if it is the layer at work's. */
  private maskAt(op: Op, tile: TileIndex, rect: Rect): number | Float32Array {
    const before = this.atWork;
    this.atWork ||= op.layerId === this.hot;
    try {
      return this.mask(op.mask, tile, rect);
    } finally {
      this.atWork = before;
    }
  }
  private atWork = false;

  /** A mask as one number, or a plane. */
  private mask(use: MaskUse | null, tile: TileIndex, rect: Rect): number | Float32Array {
    if (!use) return 1;
    const { painted, scope } = use;
    if (!painted) {
      // A whole tile at a time: all maps, and all that is painted above, ask for the same again.
      const value = this.cut(scope.channels + 1, this.tile(scope, tile), rect);
      return value.even ? value.even[0] : value.acc!.subarray(0, rect.width * rect.height);
    }
    const data = this.store.get(painted.plane, tile)?.data;
    if (!data) return maskGround(painted);
    const out = kernels().floats(rect.width * rect.height);
    kernels().maskValues(out, storedRect(data, rect), painted.ground, painted.invert);
    return out;
  }

  /** An operation that changes nothing here. */
  private hidden(scope: Scope, op: Laying, tile: TileIndex, below: State | null, texels: number): boolean {
    if (op.source.absent?.(this, tile)) return true;
    // Nothing times, or less, anything is nothing: what a recipe's first step hides costs no more.
    return scope.ground !== null && staysBlack(op.blend) && below !== null && isBlack(below, scope.channels * texels);
  }

  /** Texels that are laid down as they are stored. */
  private storedLayer(op: Laying, tile: TileIndex, rect: Rect, mask: number | Float32Array): LaidLayer | null {
    const mode = MODE[op.blend];
    const stored = mode === undefined ? undefined : op.source.stored?.(this, tile);
    if (!stored || mode === undefined) return null;
    const source = storedRect(stored, rect);
    if (typeof mask === 'number') return { source, mode, opacity: op.opacity * mask, mask: null };
    return { source, mode, opacity: op.opacity, mask };
  }

  /**
   * What is seen of a source: through its layer's mask, or where a recipe is not black yet. All is, as far as anybody knows, of the
   * layer at work, whose rules would else be made anew with every change of what hides them.
   */
  private askedOf(scope: Scope, op: Laying, i: number, tile: TileIndex, { acc }: State): SeenTexels | null {
    if (this.atWork || op.layerId === this.hot) return null;
    if (scope.whole) {
      if (acc?.length !== TILE_TEXELS * 2 || !staysBlack(op.blend)) return null;
      return { signature: this.signature(scope, i, tile), where: () => acc.subarray(0, TILE_TEXELS) };
    }
    const { mask } = op;
    if (!mask || op.source.scopes.length > 0) return null;
    const where = () => {
      const whole = this.mask(mask, tile, WHOLE_TILE);
      return typeof whole === 'number' ? null : whole;
    };
    return { signature: this.maskSignature(mask, tile), where };
  }

  private blend(
    scope: Scope,
    op: Laying,
    tile: TileIndex,
    rect: Rect,
    state: State,
    mask: number | Float32Array,
    asked: SeenTexels | null,
  ): void {
    const { source } = op;
    const texels = rect.width * rect.height;
    const opacity = typeof mask === 'number' ? op.opacity * mask : op.opacity;
    const plane = typeof mask === 'number' ? null : mask;
    const opaque = scope.ground !== null;
    const mode = MODE[op.blend];
    const from = source.evaluate(this, tile, rect, scope, asked);
    if (from.even && state.even && !plane) {
      const values = state.even.slice(0, -1);
      const out = composite(op.blend, values, state.even.at(-1)!, from.even.slice(0, -1), from.even.at(-1)! * opacity);
      // In float32, as planes would hold it.
      state.even = out.map(Math.fround);
      return;
    }
    if (from.even && from.even.at(-1) === 0) return;
    const acc = this.planes(state, texels);
    const planes = this.planes(from, texels);
    if (mode !== undefined) kernels().blendFloat(acc, scope.channels, planes, texels, mode, opacity, plane, opaque);
    else blendWhole(op.blend as WholeBlend, acc, planes, texels, opacity, plane, opaque);
  }

  cached(signature: Signature, make: () => TileValue): TileValue {
    const known = this.cache.get(signature);
    if (known) return known;
    const value = make();
    this.cache.set(signature, value);
    return value;
  }

  private adjust(scope: Scope, op: Extract<Op, { type: 'adjust' }>, i: number, tile: TileIndex, rect: Rect, state: State): void {
    const texels = rect.width * rect.height;
    const mask = this.maskAt(op, tile, rect);
    if (mask === 0) return;
    const amount = typeof mask === 'number' ? op.opacity * mask : op.opacity;
    const plane = typeof mask === 'number' ? null : mask;
    const alone = op.blend === 'normal' && amount === 1 && !plane;
    const changed = op.passes
      ? this.lookAround(scope, op, i, tile, rect)
      : this.pointFilter(scope, op, alone ? state : this.copy(scope, state, texels), texels);
    const opaque = scope.ground !== null;
    if (alone) {
      state.even = changed.even;
      state.acc = changed.acc;
      return;
    }
    if (state.even && changed.even && !plane) {
      const alpha = state.even.at(-1)!;
      const out = composite(op.blend, state.even.slice(0, -1), 1, changed.even.slice(0, -1), amount);
      state.even = [...out.slice(0, -1).map(Math.fround), alpha];
      return;
    }
    const acc = this.planes(state, texels);
    const other = this.planes(changed, texels);
    if (op.blend === 'normal') {
      if (opaque || !op.passes) kernels().lerp(acc, other, texels, scope.channels, amount, plane);
      else lerpStraight(acc, other, texels, scope.channels, amount, plane);
      return;
    }
    // With a blend mode what was changed counts as solid; where there was nothing there still is nothing.
    other.fill(1, scope.channels * texels);
    const mode = MODE[op.blend];
    if (mode !== undefined) kernels().blendFloat(acc, scope.channels, other, texels, mode, amount, plane, true);
    else blendWhole(op.blend as WholeBlend, acc, other, texels, amount, plane, true);
  }

  /** Changes a state in place. */
  private pointFilter(scope: Scope, op: Extract<Op, { type: 'adjust' }>, state: State, texels: number): State {
    const { apply } = FILTERS[op.filter.type];
    if (state.even) {
      const one = Float32Array.from(state.even);
      apply!(one, 1, scope.kind, op.filter);
      return { even: [...one], acc: null };
    }
    apply!(state.acc!, texels, scope.kind, op.filter);
    return state;
  }

  private lookAround(scope: Scope, op: Extract<Op, { type: 'adjust' }>, i: number, tile: TileIndex, rect: Rect): State {
    // Strips of one tile come one after the other.
    const { last } = this;
    if (last?.op !== op || last.tile !== tile)
      this.last = { op, tile, value: this.passTile(scope, op, i, op.passes!.length - 1, tile) };
    return this.cut(scope.channels + 1, this.last!.value, rect);
  }

  /** A tile after the passes up to `p` of a filter that looks around; −1: what it starts from. */
  private passTile(scope: Scope, op: Extract<Op, { type: 'adjust' }>, i: number, p: number, tile: TileIndex): TileValue {
    if (p < 0) return this.tile(scope, tile, i);
    const pass = op.passes![p];
    if (pass.skip?.(scope.kind, scope.ground !== null)) return this.passTile(scope, op, i, p - 1, tile);
    const reach = reachOf(op.passes!.slice(0, p + 1));
    let signature = mixSignature(mixSignature(mixSignature(scope.key, op.key), p + 1), tile);
    for (const near of this.around(tile, reach)) {
      signature = mixSignature(signature, this.signature(scope, i, near));
      if (op.aux) signature = mixSignature(signature, this.signatureOf(op.aux, near));
    }
    const known = this.cache.get(signature);
    if (known) return known;
    const near = new Map(this.around(tile, pass).map((t) => [t, this.passTile(scope, op, i, p - 1, t)]));
    let value: TileValue;
    const [first, ...others] = near.values();
    const even = first.uniform && others.every((v) => v.uniform && v.uniform.every((x, c) => x === first.uniform[c]));
    if (even && first.uniform) value = { uniform: pass.even?.(first.uniform, scope.kind) ?? first.uniform, data: null };
    else {
      const planes = scope.channels + 1;
      const width = TILE + 2 * pass.rx;
      const height = TILE + 2 * pass.ry;
      const mark = kernels().mark();
      try {
        const window = kernels().floats(width * height * planes);
        const opaque = scope.ground !== null;
        const x = tileX(tile) * TILE;
        const y = tileY(tile) * TILE;
        const rect = { x: x - pass.rx + (pass.dx ?? 0), y: y - pass.ry + (pass.dy ?? 0), width, height };
        const extent = pass.round ? { ...this.sheet, wrapU: true, wrapV: true } : this.sheet;
        // Alpha is not asked for where it is known.
        gather(extent, rect, opaque && p > 0 ? scope.channels : planes, (t) => near.get(t)!, window);
        let aux: Float32Array | null = null;
        if (pass.aux && op.aux) {
          const other = op.aux;
          aux = kernels().floats(width * height);
          gather(extent, rect, 1, (t) => this.tile(other, t), aux);
        }
        const out = kernels().floats(TILE_TEXELS * planes);
        pass.run(window, TILE, TILE, scope.kind, out, opaque, { x, y, sheet: this.sheet, aux });
        value = { uniform: null, data: kernels().keep(out.subarray(0, keptPlanes(scope) * TILE_TEXELS)) };
      } finally {
        kernels().release(mark);
      }
    }
    this.cache.set(signature, value);
    return value;
  }

  private restore(scope: Scope, op: Op, tile: TileIndex, rect: Rect, before: State, state: State): void {
    const texels = rect.width * rect.height;
    const mask = this.maskAt(op, tile, rect);
    const amount = typeof mask === 'number' ? op.opacity * mask : op.opacity;
    const after: State = { ...state };
    state.even = before.even;
    state.acc = before.acc;
    if (amount === 0) return;
    const acc = this.planes(state, texels);
    const lerp = scope.ground !== null ? kernels().lerp : lerpStraight;
    lerp(acc, this.planes(after, texels), texels, scope.channels, amount, typeof mask === 'number' ? null : mask);
  }
}

/** Holds the first `count` numbers of planes, or all values, to 0..1. */
function hold(state: State, count: number): void {
  if (state.even) state.even = state.even.map((v) => Math.min(1, Math.max(0, v)));
  else {
    const values = state.acc!.subarray(0, count);
    kernels().affine(values, values, 0, 1, true);
  }
}

/** What is black stays black below a layer that multiplies, or takes away. */
const staysBlack = (blend: BlendId): boolean => blend === 'multiply' || blend === 'subtract';

/** Values all 0, the first `count` numbers of planes; alpha does not count. */
function isBlack({ even, acc }: State, count: number): boolean {
  if (even) return even.every((v, n) => v === 0 || n === even.length - 1);
  for (let i = 0; i < count; i++) if (acc![i] !== 0) return false;
  return true;
}

/** Where a scope has a ground alpha is 1 all over: it is not kept. */
const keptPlanes = (scope: Scope): number => (scope.ground === null ? scope.channels + 1 : scope.channels);

function kept(scope: Scope, { even, acc }: State): TileValue {
  return even
    ? { uniform: even, data: null }
    : { uniform: null, data: kernels().keep(acc!.subarray(0, keptPlanes(scope) * TILE_TEXELS)) };
}
