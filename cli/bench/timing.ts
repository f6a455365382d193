/** Medians of runs that alternate between a subject and its reference, so that a noisy machine hits both. */
const RUNS = 5;

export const median = (values: number[]): number => values.toSorted((a, b) => a - b)[values.length >> 1];

/** Seconds of each, after one warm-up of both. */
export function alternate(subject: () => void, reference: () => void, runs = RUNS): { subject: number; reference: number } {
  const times = { subject: [] as number[], reference: [] as number[] };
  const time = (work: () => void) => {
    const start = performance.now();
    work();
    return (performance.now() - start) / 1000;
  };
  subject();
  reference();
  for (let n = 0; n < runs; n++) {
    times.subject.push(time(subject));
    times.reference.push(time(reference));
  }
  return { subject: median(times.subject), reference: median(times.reference) };
}

/**
 * The same for work in memory that threads share: what it let go comes back when the event loop turns, as it does between
 * the messages of an engine.
 */
export const alternateResting = (subject: () => void, reference: () => void): Promise<{ subject: number; reference: number }> =>
  alternateAsync(
    () => Promise.resolve(subject()),
    () => Promise.resolve(reference()),
    RUNS,
    () => new Promise((resolve) => setTimeout(resolve, REST_MS)),
  );
const REST_MS = 1200;

/** The same for work that waits. `before`: what is waited for before each run, which does not count. */
export async function alternateAsync(
  subject: () => Promise<void>,
  reference: () => Promise<void>,
  runs = RUNS,
  before: () => Promise<void> = () => Promise.resolve(),
): Promise<{ subject: number; reference: number }> {
  const times = { subject: [] as number[], reference: [] as number[] };
  for (let n = -1; n < runs; n++)
    for (const [name, work] of [['subject', subject] as const, ['reference', reference] as const]) {
      await before();
      const start = performance.now();
      await work();
      if (n >= 0) times[name].push((performance.now() - start) / 1000);
    }
  return { subject: median(times.subject), reference: median(times.reference) };
}
