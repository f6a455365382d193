/** What is fuzzed: a reader, sound files for it, and ways to spoil them. */
import { seededRandom } from '../../src/core/testing/models';
import { isSentence, spoilt, spoiltJson } from '../../src/core/testing/fuzz';

export type Random = () => number;
export type Spoil = (file: Uint8Array, random: Random) => Uint8Array;

export interface Target {
  name: string;
  files: () => Promise<Uint8Array[]> | Uint8Array[];
  /** By bytes, by fields, by structure. Each file is spoilt by one of them. */
  ways: readonly Spoil[];
  /** The sentence of a refusal; null: it was read. Whatever is thrown is a fault. */
  read: (bytes: Uint8Array) => Promise<string | null> | string | null;
  /** Why it may take too long, which ends its process, and is told in a sentence (server/readers); left out: it may not. */
  mayTakeLong?: string;
}

export const text = (value: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(value);
export const untext = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

/** For readers that throw one of the given errors to refuse a file: returns its message, or null if the file was read. */
export async function orRefusal(
  work: () => unknown,
  ...ours: readonly (new (...args: never[]) => Error)[]
): Promise<string | null> {
  try {
    await work();
    return null;
  } catch (error) {
    if (ours.some((kind) => error instanceof kind)) return (error as Error).message;
    throw error;
  }
}

/** The same for readers that answer `ok`. */
export const refusalIn = (answer: { ok: true } | { ok: false; message: string }): string | null =>
  answer.ok ? null : answer.message;

const EDGES = [0, 1, 2, 255, 256, 32767, 32768, 65535, 65536, 0x7fffffff, 0x80000000, 0xfffffffe, 0xffffffff];

/** A number in the first half kilobyte, where headers are, becomes one of the edges of its range. */
export function fields(file: Uint8Array, random: Random): Uint8Array {
  const out = Uint8Array.from(file);
  const view = new DataView(out.buffer);
  for (let n = 1 + Math.floor(random() * 2); n > 0 && out.length >= 4; n--) {
    const at = Math.floor(random() * Math.min(512, out.length - 3));
    const value = EDGES[Math.floor(random() * EDGES.length)];
    const [little, size] = [random() < 0.5, Math.floor(random() * 3)];
    if (size === 0) view.setUint8(at, value & 255);
    else if (size === 1) view.setUint16(at & ~1, value & 65535, little);
    else view.setUint32(Math.min(at & ~1, out.length - 4), value, little);
  }
  return out;
}

/** Changes or deletes random values in a JSON document. */
export const json: Spoil = (file, random) => text(JSON.stringify(spoiltJson(JSON.parse(untext(file)), random)));

/** Deletes, duplicates or moves an XML tag. */
export function tags(file: Uint8Array, random: Random): Uint8Array {
  const parts = untext(file).split(/(?=<)/);
  const at = () => Math.floor(random() * parts.length);
  const way = Math.floor(random() * 3);
  if (way === 0) parts.splice(at(), 1);
  else if (way === 1) parts.splice(at(), 0, parts[at()]);
  else parts.splice(at(), 0, ...parts.splice(at(), 1 + Math.floor(random() * 4)));
  return text(parts.join(''));
}

/** Duplicates or deletes a line of text. */
export function lines(file: Uint8Array, random: Random): Uint8Array {
  const parts = untext(file).split('\n');
  const at = () => Math.floor(random() * parts.length);
  if (random() < 0.5) parts.splice(at(), 0, parts[at()]);
  else parts.splice(at(), 1);
  return text(parts.join('\n'));
}

export const BYTES: readonly Spoil[] = [spoilt, fields];

/** Input `n` of a target, which depends on the seed and on `n` alone. */
export async function inputOf(target: Target, seed: number, n: number): Promise<Uint8Array> {
  const random = seededRandom((seed * 2_654_435_761 + n * 40_503) >>> 0);
  const files = await target.files();
  const file = files[Math.floor(random() * files.length)];
  return target.ways[Math.floor(random() * target.ways.length)](file, random);
}

/** What is wrong with how it was read; null: nothing. `refused`: it was, in a sentence. */
export async function tryInput(target: Target, bytes: Uint8Array): Promise<{ refused: boolean; fault: string | null }> {
  try {
    const sentence = await target.read(bytes);
    const fault = sentence === null || isSentence(sentence) ? null : `no sentence: ${sentence}`;
    return { refused: sentence !== null, fault };
  } catch (error) {
    const { stack } = error as Error;
    return { refused: true, fault: stack?.split('\n').slice(0, 3).join(' ') ?? String(error) };
  }
}
