/**
 * One engine has a piece at a time. A tab that opens a piece which another tab of this browser has asks for it; the
 * other one ends its stroke, writes what it has into the journal, and lets go.
 */
export interface Lease {
  /** `letGo` is called when another tab asks, and when it has taken the piece without asking: it must not send any more. */
  take(pieceId: string, letGo: () => Promise<void>, force: boolean): Promise<'taken' | 'busy'>;
}

/** So long a tab has to hand over: finishing an undo's download included. */
const ANSWER_MS = 6000;

/** Through the browser's locks; where there are none, nobody is kept out. */
export function browserLease(locks: LockManager | undefined = globalThis.navigator?.locks): Lease {
  return {
    async take(pieceId, letGo, force) {
      if (!locks) return 'taken';
      const name = `brindle-piece-${pieceId}`;
      const channel = new BroadcastChannel(name);
      const hold = (options: LockOptions): Promise<boolean> =>
        new Promise((resolve, reject) => {
          locks
            .request(name, options, (lock) => {
              if (!lock) return resolve(false);
              resolve(true);
              // Held until this tab lets go or ends.
              return new Promise<void>((release) => {
                channel.onmessage = () => void letGo().finally(release);
              });
            })
            .catch((error: unknown) => {
              // Stolen: somebody could not wait for this tab.
              if ((error as Error).name === 'AbortError') void letGo();
              reject(error as Error);
            });
        });
      if (force) return hold({ steal: true }).then(() => 'taken');
      if (await hold({ ifAvailable: true })) return 'taken';
      channel.postMessage('asks');
      const waiting = new AbortController();
      const timer = setTimeout(() => waiting.abort(), ANSWER_MS);
      try {
        await hold({ signal: waiting.signal });
        return 'taken';
      } catch {
        return 'busy';
      } finally {
        clearTimeout(timer);
      }
    },
  };
}
