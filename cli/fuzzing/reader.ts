/** A process that reads spoilt files (./brindle fuzz), whose end is watched by the one that started it. */
import '../../src/core/compute';
import { serveTasks } from '../../src/server/readers/child';
import { tryInput, inputOf, type Target } from './target';

export interface Batch {
  target: string;
  seed: number;
  from: number;
  count: number;
}

export interface BatchResult {
  refused: number;
  faults: { n: number; what: string }[];
}

export async function readBatch(targets: readonly Target[], { target: name, seed, from, count }: Batch): Promise<BatchResult> {
  const target = targets.find((one) => one.name === name)!;
  const result: BatchResult = { refused: 0, faults: [] };
  for (let n = from; n < from + count; n++) {
    const { refused, fault } = await tryInput(target, await inputOf(target, seed, n));
    if (refused) result.refused++;
    if (fault) result.faults.push({ n, what: fault });
  }
  return result;
}

/** Called by the process's own file. */
export const serveBatches = (targets: readonly Target[]): void =>
  serveTasks({ batch: async (batch: Batch) => ({ type: 'done', value: await readBatch(targets, batch) }) });
