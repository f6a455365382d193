/** So many at once; others wait for their turn, in order. Resolves to what ends the turn; ending it twice does no harm. */
export function openTurns(atOnce: number): () => Promise<() => void> {
  let free = atOnce;
  const waiting: (() => void)[] = [];
  return async () => {
    if (free > 0) free--;
    else await new Promise<void>((go) => waiting.push(go));
    let open = true;
    return () => {
      if (!open) return;
      open = false;
      // A turn passes from hand to hand: nobody slips in between.
      const next = waiting.shift();
      if (next) next();
      else free++;
    };
  };
}

/** The same around a piece of work. */
export const turns = (atOnce: number) => around(openTurns(atOnce));

export function around(begin: () => Promise<() => void>): <T>(work: () => Promise<T>) => Promise<T> {
  return async (work) => {
    const end = await begin();
    try {
      return await work();
    } finally {
      end();
    }
  };
}
