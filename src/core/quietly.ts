/**
 * Runs synchronous work with the console silenced. Model and picture loaders print warnings about odd files; we report faults in our own
 * sentences, and the JSON that commands print must not be mixed with other text.
 */
export function quietly<T>(work: () => T): T {
  const { log, warn, error, debug, info } = console;
  Object.assign(console, { log: silent, warn: silent, error: silent, debug: silent, info: silent });
  try {
    return work();
  } finally {
    Object.assign(console, { log, warn, error, debug, info });
  }
}

const silent = (): void => undefined;
