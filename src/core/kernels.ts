/**
 * The hot loops (src/kernels), as the rest of the core sees them: given from outside (compute.ts) and made when they
 * are first asked for, so that reading a document needs no memory of theirs.
 */
import type { Kernels } from '../kernels/kernels';

let make: (() => Kernels) | null = null;
let current: Kernels | null = null;

/** What makes the kernels from now on; those that are there already are let go. */
export function provideKernels(from: () => Kernels): void {
  make = from;
  current = null;
}

/** Throws where nobody has provided any: whoever computes imports compute.ts. */
export function kernels(): Kernels {
  if (current) return current;
  if (!make) throw new Error('Nothing computes here: import core/compute.ts first.');
  return (current = make());
}
