/** At least this long between two runs that are asked for one after another. */
const SPACING_MS = 250;

/** `work`, which runs once at a time: calls while it runs, and shortly after, lead to one more run. A failure ends that run alone. */
export function onceAtATime(work: () => Promise<void>): () => void {
  let isRunning = false;
  let isDue = false;
  const run = async () => {
    isRunning = true;
    do {
      isDue = false;
      await work().catch(() => undefined);
      await new Promise((resolve) => setTimeout(resolve, SPACING_MS));
    } while (isDue);
    isRunning = false;
  };
  return () => {
    isDue = true;
    if (!isRunning) void run();
  };
}
