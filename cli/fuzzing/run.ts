/** Runs batches of inputs for all targets in turn. If a batch ends its process, its inputs are run one by one to find the cause. */
import { ReaderPool, type ReaderOutcome } from '../../src/server/readers/pool';
import type { ReaderLimits, TaskKind } from '../../src/server/readers/protocol';
import type { Batch, BatchResult } from './reader';

/** Limits for one input: the same that the server sets for small files. */
export const INPUT_LIMITS: ReaderLimits = { cpuMs: 10_000, memoryBytes: 1024 ** 3 };
const BATCH = 100;
/** A batch may take so many times as long as one input: all of them are small. */
const BATCH_FACTOR = 3;

export interface Fault {
  target: string;
  seed: number;
  n: number;
  what: string;
}

export interface Tally {
  target: string;
  tried: number;
  refused: number;
  /** Ended by the limit of time where that may be. */
  givenUp: number;
  faults: Fault[];
}

export interface FuzzOptions {
  names: readonly string[];
  seed: number;
  /** Asked before each batch. */
  goOn: () => boolean;
  atOnce: number;
  /** Arguments for Node that start the process that reads. */
  entry: readonly string[];
  onFault?: (fault: Fault) => void;
  /** Targets that may take too long (target.ts). */
  mayTakeLong?: readonly string[];
  /** Of one input. */
  limits?: ReaderLimits;
}

export const ENTRY = ['--disable-warning=ExperimentalWarning', '--import', 'tsx', 'cli/fuzzing/main.ts'];

const why = (outcome: Exclude<ReaderOutcome, { type: 'done' }>, limits: ReaderLimits): string => {
  if (outcome.type === 'over time') return `took more than ${limits.cpuMs / 1000} s of the processor`;
  if (outcome.type === 'over memory') return `took more than ${limits.memoryBytes / 1024 ** 2} MiB`;
  return outcome.type === 'refused' ? outcome.message : 'ended its process';
};

export async function fuzzAll({
  names,
  seed,
  goOn,
  atOnce,
  entry,
  onFault,
  mayTakeLong = [],
  limits = INPUT_LIMITS,
}: FuzzOptions): Promise<Tally[]> {
  const pool = new ReaderPool(1024, entry);
  const tallies = names.map((target): Tally => ({ target, tried: 0, refused: 0, givenUp: 0, faults: [] }));
  const run = (batch: Batch, limits: ReaderLimits) => pool.run({ kind: 'batch' as TaskKind, input: batch, limits });
  const add = (tally: Tally, n: number, what: string) => {
    const fault = { target: tally.target, seed, n, what };
    tally.faults.push(fault);
    onFault?.(fault);
  };
  const batchOf = async (tally: Tally, from: number): Promise<void> => {
    const outcome = await run(
      { target: tally.target, seed, from, count: BATCH },
      { ...limits, cpuMs: limits.cpuMs * BATCH_FACTOR },
    );
    tally.tried += BATCH;
    if (outcome.type === 'done') return take(tally, outcome.value as BatchResult);
    for (let n = from; n < from + BATCH; n++) {
      const one = await run({ target: tally.target, seed, from: n, count: 1 }, limits);
      if (one.type === 'done') take(tally, one.value as BatchResult);
      else if (one.type === 'over time' && mayTakeLong.includes(tally.target)) tally.givenUp++;
      else add(tally, n, why(one, limits));
    }
  };
  const take = (tally: Tally, { refused, faults }: BatchResult) => {
    tally.refused += refused;
    for (const { n, what } of faults) add(tally, n, what);
  };
  let next = 0;
  const lane = async () => {
    while (goOn()) {
      const turn = next++;
      const tally = tallies[turn % tallies.length];
      await batchOf(tally, Math.floor(turn / tallies.length) * BATCH);
    }
  };
  try {
    await Promise.all(Array.from({ length: atOnce }, lane));
  } finally {
    pool.dispose();
  }
  return tallies;
}
