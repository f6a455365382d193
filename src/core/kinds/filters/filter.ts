/**
 * What an adjustment is. Each lives in a file of its own beside this one and has a line in `index.ts`; its
 * editor has a line in `ui/bench/filters/index.ts`.
 *
 * Buffers: float32 planes one after another, encoded values 0..1, straight alpha: three of colour (or of a
 * normal's axes) and alpha, or one of values and coverage. Point filters leave alpha and coverage alone.
 */
import type { z } from 'zod';
import { fromTable } from '../../colour/transfer';
import type { Control } from '../control';
import type { MapId, MapInfo } from '../maps';

export type MapKind = MapInfo['kind'];

/** Where a pass is carried out: what hangs on the place in the sheet, not only on the window. */
export interface Where {
  /** Texel of the sheet at the top left of `out`. */
  x: number;
  y: number;
  sheet: { width: number; height: number; wrapU: boolean; wrapV: boolean };
  /** One plane of another map's values, as large as the window; null where it is not asked for or not there. */
  aux: Float32Array | null;
}

/** One step of a filter that looks around: from a window with `rx` and `ry` more texels on each side. */
export interface Pass {
  rx: number;
  ry: number;
  /** The window lies this much further right and down. */
  dx?: number;
  dy?: number;
  /** Beyond the border the other side goes on, whether the sheet wraps or not. */
  round?: boolean;
  /** Asks for `where.aux`. */
  aux?: boolean;
  /**
   * `window`: planes of (width + 2·rx) × (height + 2·ry) texels; `out`: planes of width × height. `opaque`: alpha
   * is 1 all over and need not be looked at, but has to be 1 in `out`.
   */
  run: (
    window: Float32Array,
    width: number,
    height: number,
    kind: MapKind,
    out: Float32Array,
    opaque: boolean,
    where: Where,
  ) => void;
  /** Says that there is nothing to do for a kind of map. */
  skip?: (kind: MapKind, opaque: boolean) => boolean;
  /** What becomes of values (then alpha) that are the same all around; unchanged if left out. */
  even?: (values: readonly number[], kind: MapKind) => number[];
}

export interface FilterDef<P extends { type: string } = { type: string }> {
  type: P['type'];
  label: string;
  hint: string;
  schema: z.ZodType<P>;
  start: P;
  /** Its editor; empty for those that have one of their own (ui/bench/filters). Which of its numbers are lengths stands here too. */
  controls: readonly Control[];
  /** Maps that it does something sensible to. */
  fits: (kind: MapKind) => boolean;
  /** A point filter changes texels in place … */
  apply?: (data: Float32Array, texels: number, kind: MapKind, p: P) => void;
  /** … others say the passes they need, in order. None: they change nothing. */
  passes?: (p: P, extent: { width: number; height: number }) => Pass[];
  /** The map whose values the passes ask for beside their own. */
  aux?: (p: P) => MapId | null;
}

/** Changes all values, each by itself; not alpha or coverage. */
export function eachValue(data: Float32Array, texels: number, kind: MapKind, change: (v: number) => number): void {
  const count = kind === 'value' ? texels : texels * 3;
  for (let i = 0; i < count; i++) data[i] = change(data[i]);
}

/** Steps of a curve's table over 0..1. */
const TABLE_STEPS = 65536;

/**
 * Changes values by a curve as a table with straight lines between its points, 0..1. Error: h² / 8 · max|f''| with h = 2⁻¹⁶, so
 * 3e-11 · |f''|; where a curve has a kink, a quarter of a step times the change of slope.
 */
export function throughTable(data: Float32Array, texels: number, kind: MapKind, table: Float32Array): void {
  const count = kind === 'value' ? texels : texels * 3;
  for (let i = 0; i < count; i++) data[i] = fromTable(table, TABLE_STEPS, data[i]);
}

const byObject = new WeakMap<object, Float32Array>();
const tables = new Map<string, Float32Array>();
const MOST_TABLES = 32;
/** The last few tables are kept: the same parameters are asked for tile after tile. */
export function keptTable(key: string, make: () => Float32Array): Float32Array {
  let table = tables.get(key);
  if (!table) {
    table = make();
    if (tables.size >= MOST_TABLES) tables.delete(tables.keys().next().value!);
    tables.set(key, table);
  }
  return table;
}

export function tableOf(parameters: object, curve: () => (v: number) => number): Float32Array {
  const known = byObject.get(parameters);
  if (known) return known;
  const table = keptTable(JSON.stringify(parameters), () => {
    const of = curve();
    // The last point twice, for what lies on it.
    return Float32Array.from({ length: TABLE_STEPS + 2 }, (_, i) => Math.min(1, Math.max(0, of(Math.min(1, i / TABLE_STEPS)))));
  });
  byObject.set(parameters, table);
  return table;
}
