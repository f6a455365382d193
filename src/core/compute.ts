/** Whoever computes imports this: it gives the core its kernels, SIMD where it runs, else the twin. */
import { ARENAS_END, hasSimd, kernelsOf, kernelsOn, MOST_ARENAS, sharedMemory, type KernelsKind } from '../kernels';
import type { Kernels } from '../kernels/kernels';
import { SEPARABLE, SEPARABLE_BLENDS } from './colour/blend';
import { provideKernels } from './kernels';
import { Heap, isPartOf, REST_MS } from './tile/heap';
import { shareTexels } from './tile/tiles';

/** The twin blends with the very formulas of colour/blend.ts. */
const BLENDS = SEPARABLE_BLENDS.map((id) => SEPARABLE[id]);

export const getKernels = (which: KernelsKind): Kernels => kernelsOf(which, BLENDS);

/** For tests and for comparing: runs with one implementation or the other from now on. */
export function chooseKernels(which: KernelsKind): void {
  provideKernels(() => getKernels(which));
}

chooseKernels(hasSimd() ? 'wasm' : 'twin');

/** A memory that threads share, and which part of it is one thread's to work in. */
export interface ThreadMemory {
  memory: WebAssembly.Memory;
  index: number;
}

/**
 * From now on tiles lie in a memory that all threads see, and this thread's kernels read them there. Gives what helpers
 * join with, at most `MOST_HELPERS` of them; null where memory cannot be shared: then everything works with copies.
 */
export function shareMemory(now: () => number): ((helper: number) => ThreadMemory) | null {
  const memory = hasSimd() ? sharedMemory() : null;
  shareTexels(memory && new Heap(memory, { from: ARENAS_END, now, restMs: REST_MS }));
  if (!memory) return null;
  joinMemory({ memory, index: 0 });
  return (helper) => ({ memory, index: helper + 1 });
}

export const MOST_HELPERS = MOST_ARENAS - 1;

/** Evaluated tiles of a thread that lie in the shared memory: as many as the engine's cache holds. */
const KEPT_BYTES = 160 << 20;

/** In a helper's thread: its kernels work in the memory of the thread that it helps. */
export function joinMemory({ memory, index }: ThreadMemory): void {
  const kept = new Heap(memory, { budget: KEPT_BYTES });
  provideKernels(() =>
    kernelsOn({ memory, index, isPart: (buffer) => isPartOf(memory, buffer), room: (count) => kept.floats(count) }),
  );
}
