/**
 * Finds the paint that makes the stack show a wanted value. A tool that reads the visible result and paints it unchanged onto a layer
 * would apply the layer's blend mode, opacity, mask and groups a second time. So for each texel the joins from the layer up to the sheet
 * are inverted; where no paint gives the wanted value, the nearest is used. Layers above this one are not part of it.
 */
import { blendValue, FREE_BLENDS, WHOLE, type BlendId, type WholeBlend } from '../colour/blend';
import { unblendOverClear, unblendValue, unblendWhole } from '../colour/unblend';
import type { Sheet } from '../document/schema';
import { mapKind, type MapId } from '../kinds/maps';
import { standingOf } from '../strata/program';
import type { Scope } from '../strata/scope';
import type { Standing } from '../strata/standing';
import type { TileValue } from '../strata/tileCache';
import { TILE_TEXELS, type TileIndex } from '../tile/tiles';

/** An evaluated tile of a scope, as it was when the stroke began. */
export type EvaluateTile = (scope: Scope, tile: TileIndex) => TileValue;

/** One scope that contains the layer, with its state at one texel. */
interface Rung {
  readonly standing: Standing;
  /** Of the tile at hand. */
  below: TileValue | null;
  mask: TileValue | null;
  /** What lies below: straight values and alpha. */
  readonly backdrop: Float64Array;
  backdropAlpha: number;
  /** Opacity times mask. */
  weight: number;
  /** Alpha of what is blended onto the backdrop, and of the result. */
  sourceAlpha: number;
  alpha: number;
}

const STEP = 1 / 65535;
/** Paint is rounded to 16 bits. With a larger error than this, other alphas are tried. */
const REACHED = STEP;
/** Further off than this counts as out of reach: a fifth of a step of 8 bits, which nobody sees. */
const MISSED = 50 * STEP;

export class Meant {
  /** How many of the texels that were laid could not show the wanted value. */
  missed = 0;
  laid = 0;
  private rungs: Rung[] = [];
  private tile: TileIndex | null = null;
  /** Of the paint on the texel at hand. */
  private wasAlpha = 0;
  private readonly channels: number;
  private readonly direction: boolean;

  /** null: the layer is not visible on the map, so no paint on it can show. */
  static of(sheet: Sheet, layerId: string, map: MapId, evaluate: EvaluateTile): Meant | null {
    const layer = sheet.layers.find((l) => l.id === layerId);
    const standing = layer && standingOf(sheet, map, layer);
    return standing ? new Meant(standing, map, evaluate) : null;
  }

  private constructor(
    standing: readonly Standing[],
    map: MapId,
    private readonly evaluate: EvaluateTile,
  ) {
    this.channels = mapKind(map) === 'value' ? 1 : 3;
    this.direction = mapKind(map) === 'normal';
    this.rungs = standing.map((s) => ({
      ...{ standing: s, below: null, mask: null, backdrop: new Float64Array(this.channels), backdropAlpha: 1 },
      ...{ weight: 1, sourceAlpha: 1, alpha: 1 },
    }));
  }

  /** The layer is in Normal at full opacity without mask or groups: source-over already shows the paint as it is. */
  get plain(): boolean {
    const [only] = this.rungs;
    return this.rungs.length === 1 && only.standing.blend === 'normal' && only.standing.opacity === 1 && !only.standing.mask;
  }

  /** How the layer itself joins. */
  get blend(): BlendId | 'through' {
    return this.rungs[this.rungs.length - 1].standing.blend;
  }

  /** Selects the tile for the calls that follow. */
  inTile(tile: TileIndex): void {
    if (this.tile === tile) return;
    this.tile = tile;
    for (const rung of this.rungs) {
      rung.below = this.evaluate(rung.standing.below, tile);
      rung.mask = rung.standing.mask && this.evaluate(rung.standing.mask.scope, tile);
    }
  }

  /**
   * Selects a texel, given the paint that is on it (straight values and alpha, 0 … 1). Writes what the stack shows there to `out`, straight.
   */
  at(i: number, paint: ArrayLike<number>, alpha: number, out: { [index: number]: number }): void {
    for (const rung of this.rungs) {
      read(rung.below!, i, rung.backdrop);
      rung.backdropAlpha = alphaOf(rung.below!, this.channels, i);
      rung.weight = rung.standing.opacity * (rung.mask ? valueAt(rung.mask, i) : 1);
    }
    this.shown(paint, alpha, out);
    for (let k = 0; k < this.channels; k++) [was[k], wasSeen[k]] = [paint[k], out[k]];
    this.wasAlpha = alpha;
  }

  /** Nothing that is laid on this texel is seen. */
  get hidden(): boolean {
    return this.rungs.some((r) => r.weight <= 0);
  }

  /** What the stack shows with this paint on the texel at hand. */
  private shown(paint: ArrayLike<number>, alpha: number, out: { [index: number]: number }): void {
    const { channels, rungs } = this;
    for (let k = 0; k < channels; k++) source[k] = paint[k];
    let as = alpha;
    for (let n = rungs.length - 1; n >= 0; n--) {
      const rung = rungs[n];
      const { backdrop: b, backdropAlpha: ab, weight, standing } = rung;
      if (standing.blend === 'through') {
        const ao = ab * (1 - weight) + as * weight;
        if (ao > 0) for (let k = 0; k < channels; k++) source[k] = (b[k] * ab * (1 - weight) + source[k] * as * weight) / ao;
        as = ao;
        continue;
      }
      as *= weight;
      const ao = as + ab * (1 - as);
      if (ao > 0) {
        blended(standing.blend, b, source, mixed, channels);
        const free = channels === 1 && FREE_BLENDS.has(standing.blend);
        for (let k = 0; k < channels; k++) {
          const v = (source[k] * as * (1 - ab) + b[k] * ab * (1 - as) + as * ab * mixed[k]) / ao;
          source[k] = free ? v : Math.min(1, Math.max(0, v));
        }
      } else source.fill(0);
      as = ao;
    }
    for (let k = 0; k < channels; k++) out[k] = source[k];
  }

  /**
   * Finds the paint for which the selected texel shows `wanted`. Writes straight values as 16-bit codes to `out` and returns the alpha,
   * 0 … 1, a multiple of 1/65535. `alpha` is tried first, then 1, then the alpha of the paint that is there, since some blend modes reach a
   * colour at one alpha only. If none comes nearer than the paint that is there, that is returned.
   */
  lay(wanted: ArrayLike<number>, alpha: number, out: { [index: number]: number }): number {
    const { channels } = this;
    this.laid++;
    let as = Math.max(STEP, Math.round(Math.min(1, alpha) * 65535) * STEP);
    let best = this.solve(wanted, as, found);
    for (let n = 0; n < 2 && best > REACHED; n++) {
      const other = n === 0 ? 1 : this.wasAlpha;
      if (other === as || other <= 0) continue;
      const off = this.solve(wanted, other, foundOther);
      if (off >= best) continue;
      [best, as] = [off, other];
      found.set(foundOther);
    }
    if (best > REACHED) {
      const off = this.off(wasSeen, wanted);
      if (off < best) {
        [best, as] = [off, this.wasAlpha];
        found.set(was);
      }
    }
    if (best > MISSED) this.missed++;
    for (let k = 0; k < channels; k++) out[k] = found[k] * 65535;
    return as;
  }

  /** Writes the best paint of this alpha to `out`, rounded to 16 bits. Returns the largest error of what the stack then shows. */
  private solve(wanted: ArrayLike<number>, alpha: number, out: Float64Array): number {
    const { channels, rungs } = this;
    // 1. The alpha of each scope's result, from the innermost outwards.
    let a = alpha;
    for (let n = rungs.length - 1; n >= 0; n--) {
      const rung = rungs[n];
      rung.sourceAlpha = a * rung.weight;
      const { backdropAlpha: ab, weight } = rung;
      a = rung.standing.blend === 'through' ? ab * (1 - weight) + a * weight : rung.sourceAlpha + ab * (1 - rung.sourceAlpha);
      rung.alpha = a;
    }
    // 2. The value that each scope has to show, from the outermost inwards.
    for (let k = 0; k < channels; k++) target[k] = wanted[k];
    for (const rung of rungs) this.into(rung);
    // 3. Rounded as it will be stored, then composited to measure the error.
    for (let k = 0; k < channels; k++) out[k] = Math.round(Math.min(1, Math.max(0, target[k] || 0)) * 65535) * STEP;
    this.shown(out, alpha, tried);
    return this.off(tried, wanted);
  }

  private off(a: ArrayLike<number>, b: ArrayLike<number>): number {
    return this.direction ? apart(a, b) : farthest(a, b, this.channels);
  }

  /** Replaces `target`, the value that a scope has to show, by the value that has to be blended onto its backdrop. */
  private into({ standing, backdrop: b, backdropAlpha: ab, weight, sourceAlpha: as, alpha: ao }: Rung): void {
    const { channels } = this;
    if (as <= 0) return;
    if (standing.blend === 'through') {
      for (let k = 0; k < channels; k++) target[k] = (target[k] * ao - b[k] * ab * (1 - weight)) / as;
      return;
    }
    const straight = as * (1 - ab);
    const mix = as * ab;
    const whole = channels === 3 && standing.blend in WHOLE;
    if (this.direction && standing.blend === 'reorient' && ab > 0) this.lengthen(b, ab, as);
    for (let k = 0; k < channels; k++) target[k] = target[k] * ao - b[k] * ab * (1 - as);
    if (ab <= 0) for (let k = 0; k < channels; k++) target[k] /= straight;
    else if (whole) {
      // An approximation where the backdrop is partly transparent: the unblended share of the source is treated as blended.
      for (let k = 0; k < channels; k++) target[k] /= as;
      for (let k = 0; k < 3; k++) rest[k] = target[k];
      unblendWhole(standing.blend, b, rest, target);
    } else if (straight < STEP)
      for (let k = 0; k < channels; k++) target[k] = unblendValue(standing.blend, b[k], target[k] / mix);
    else for (let k = 0; k < channels; k++) target[k] = unblendOverClear(standing.blend, b[k], target[k], straight, mix);
  }

  /**
   * Only the direction of a normal matters. A mix of two unit normals is shorter than 1, so the target is scaled to the length (the one
   * nearest to its own) for which the normal to be laid has unit length.
   */
  private lengthen(b: ArrayLike<number>, ab: number, as: number): void {
    // Solves |l·t − p| = as·ab for l, where t is the target and p the remaining share of the base, both as vectors −1 … 1.
    const [tt, tp, pp] = [0, 1, 2].reduce(
      ([sum, mid, own], k) => {
        const t = target[k] * 2 - 1;
        const p = (b[k] * 2 - 1) * ab * (1 - as);
        return [sum + t * t, mid + t * p, own + p * p];
      },
      [0, 0, 0],
    );
    const inside = tp * tp - tt * (pp - (as * ab) ** 2);
    if (tt <= 0 || inside < 0) return;
    const root = Math.sqrt(inside);
    const [low, high] = [(tp - root) / tt, (tp + root) / tt];
    const l = Math.abs(low - 1) < Math.abs(high - 1) ? low : high;
    if (l > 0) for (let k = 0; k < 3; k++) target[k] = ((target[k] * 2 - 1) * l + 1) / 2;
  }
}

const source = new Float64Array(3);
const mixed = new Float64Array(3);
const target = new Float64Array(3);
const rest = new Float64Array(3);
const tried = new Float64Array(3);
const found = new Float64Array(3);
const foundOther = new Float64Array(3);
/** The paint on the texel at hand, and what is seen of it. */
const was = new Float64Array(3);
const wasSeen = new Float64Array(3);

function blended(blend: BlendId, b: Float64Array, s: Float64Array, out: Float64Array, channels: number): void {
  if (channels === 3 && blend in WHOLE) WHOLE[blend as WholeBlend](b, s, out);
  else for (let k = 0; k < channels; k++) out[k] = blendValue(blend, b[k], s[k]);
}

function read(value: TileValue, i: number, out: Float64Array): void {
  for (let k = 0; k < out.length; k++) out[k] = value.data ? value.data[k * TILE_TEXELS + i] : value.uniform[k];
}

const valueAt = (value: TileValue, i: number): number => (value.data ? value.data[i] : value.uniform[0]);

function alphaOf(value: TileValue, channels: number, i: number): number {
  if (!value.data) return value.uniform[channels] ?? 1;
  return value.data.length > channels * TILE_TEXELS ? value.data[channels * TILE_TEXELS + i] : 1;
}

function farthest(a: ArrayLike<number>, b: ArrayLike<number>, channels: number): number {
  let most = 0;
  for (let k = 0; k < channels; k++) most = Math.max(most, Math.abs(a[k] - b[k]));
  return most;
}

/** Of two directions, each 0 … 1 an axis, at unit length. */
function apart(a: ArrayLike<number>, b: ArrayLike<number>): number {
  const la = Math.hypot(a[0] * 2 - 1, a[1] * 2 - 1, a[2] * 2 - 1) || 1;
  const lb = Math.hypot(b[0] * 2 - 1, b[1] * 2 - 1, b[2] * 2 - 1) || 1;
  let most = 0;
  for (let k = 0; k < 3; k++) most = Math.max(most, Math.abs((a[k] * 2 - 1) / la - (b[k] * 2 - 1) / lb) / 2);
  return most;
}
