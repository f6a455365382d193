/** So many at once; others wait for their turn, in order. */
export function turns(atOnce: number): <T>(work: () => Promise<T>) => Promise<T> {
  let free = atOnce;
  const waiting: (() => void)[] = [];
  return async (work) => {
    if (free > 0) free--;
    else await new Promise<void>((go) => waiting.push(go));
    try {
      return await work();
    } finally {
      // A turn passes from hand to hand: nobody slips in between.
      const next = waiting.shift();
      if (next) next();
      else free++;
    }
  };
}
