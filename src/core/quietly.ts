/**
 * Libraries speak to the console of what they find odd in a file. What matters of it is said in our own sentences, and what a command
 * writes for programs to read holds nothing else. Only for work that ends before it returns.
 */
export function quietly<T>(work: () => T): T {
  const { log, warn, error } = console;
  Object.assign(console, { log: silent, warn: silent, error: silent });
  try {
    return work();
  } finally {
    Object.assign(console, { log, warn, error });
  }
}

const silent = (): void => undefined;
