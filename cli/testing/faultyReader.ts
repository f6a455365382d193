/** For tests: readers with faults, each met by some inputs. */
import { serveBatches } from '../fuzzing/reader';
import type { Target } from '../fuzzing/target';

/** The bytes are the input's number. */
const numbered = (name: string, read: (n: number) => string | null): Target => ({
  name,
  files: () => [Uint8Array.of(0)],
  ways: [(_, random) => Uint8Array.of(Math.floor(random() * 64))],
  read: ([byte]) => read(byte),
});

serveBatches([
  numbered('sound', (n) => (n % 2 ? 'The file is odd: save it again.' : null)),
  numbered('throws', (n) => {
    if (n === 7) throw new TypeError('Cannot read properties of undefined');
    return null;
  }),
  numbered('mumbles', (n) => (n === 9 ? 'undefined is not a function' : null)),
  numbered('spins', (n) => {
    while (n === 11);
    return null;
  }),
  numbered('hoards', (n) => {
    const all: Buffer[] = [];
    while (n === 13) all.push(Buffer.alloc(32 << 20, n));
    return null;
  }),
]);
