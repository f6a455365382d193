/** The kernels in WebAssembly SIMD (assembly/, built into build/wasm.ts as base64 so that they load at once everywhere). */
import { Arena, ownMemory } from '../arena';
import { RAYS_BASE64, SHARED_BASE64, TAPS_BASE64, WASM_BASE64 } from '../build/wasm';
import type { Kernels } from '../kernels';
import { raysWasm } from '../raysWasm';
import { tapsWasm } from '../tapsWasm';
import { bends, type BendExports } from './bends';
import { compositing, type CompositingExports } from './compositing';
import { dabs, type DabExports } from './dabs';
import { flood, type FloodExports } from './flood';
import { filters, type FilterExports } from './filters';
import { rules, type RuleExports } from './rules';
import { seen, type SeenExports } from './seen';
import { segments, type SegmentExports } from './segments';
import { steps, type StepExports } from './steps';
import { sums, type SumExports } from './sums';
import { noise, type NoiseExports } from './noise';
import { places, type PlaceExports } from './places';

type Exports = BendExports &
  CompositingExports &
  DabExports &
  FloodExports &
  FilterExports &
  NoiseExports &
  PlaceExports &
  RuleExports &
  SeenExports &
  SegmentExports &
  StepExports &
  SumExports;

/** A memory that threads share, which of its arenas is this thread's, and whether a buffer is part of it (it grows). */
export interface CommonMemory {
  memory: WebAssembly.Memory;
  index: number;
  isPart: (buffer: ArrayBufferLike) => boolean;
  /** Room in it for numbers that stay; null when there is none. */
  room: (count: number) => Float32Array | null;
}

/** In a common memory, or one of their own. */
export function wasmKernels(common?: CommonMemory): Kernels {
  const memory = common?.memory ?? ownMemory();
  // The same sources twice: whether a memory is shared stands in the module.
  const binary = Uint8Array.from(atob(common ? SHARED_BASE64 : WASM_BASE64), (c) => c.charCodeAt(0));
  const instance = new WebAssembly.Instance(new WebAssembly.Module(binary), { env: { memory, abort: () => {} } });
  const k = instance.exports as unknown as Exports;
  const arena = new Arena(memory, common?.index ?? 0, common?.isPart ?? (() => false));
  return {
    name: 'wasm',
    pictures: tapsWasm(TAPS_BASE64),
    raysOf: (tree) => raysWasm(RAYS_BASE64, tree),
    mark: () => arena.mark(),
    release: (mark) => arena.release(mark),
    floats: (count) => arena.floats(count),
    bytes: (count) => arena.room(count),
    keep: (values) => {
      const to = common?.room(values.length);
      const from = arena.inPlace(values);
      if (!to || from === null) return values.slice();
      k.copyRows(from, values.byteLength, to.byteOffset, values.byteLength, values.length, 1);
      return to;
    },
    ...bends(k, arena),
    ...compositing(k, arena),
    ...dabs(k, arena, (count) => common?.room(count) ?? null),
    ...flood(k, arena),
    ...filters(k, arena),
    ...noise(k, arena),
    ...places(k, arena),
    ...rules(k, arena),
    ...seen(k, arena),
    ...segments(k, arena),
    ...steps(k, arena),
    ...sums(k, arena),
  };
}
