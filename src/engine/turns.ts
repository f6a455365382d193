/** Long work in slices, between the messages that wait. */
export interface Clock {
  now: () => number;
  /** Runs a callback after the messages that wait now. */
  later: (callback: () => void) => void;
}

/** Strokes and what is drawn come in between. */
const SLICE_MS = 10;

/** To be awaited at every step: nothing while the slice lasts, then a promise of the next. */
export function turnsOf({ now, later }: Clock, sliceMs = SLICE_MS): () => Promise<void> | undefined {
  let since = now();
  return () => {
    if (now() < since + sliceMs) return undefined;
    return new Promise<void>((resolve) =>
      later(() => {
        since = now();
        resolve();
      }),
    );
  };
}
