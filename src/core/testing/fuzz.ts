/** Files spoilt in every way that a seed thinks of: for readers, which have to answer with a result or a sentence of ours. */
import { crc32, pngChunks } from '../codec/pngRows';
import { seededRandom } from './models';

type Random = () => number;

const NUMBERS = ['0', '-1', '1e999', 'NaN', '4294967295', '99999999999999999999', '0.5', '""', 'null', '[]', '{}', 'true', '-0'];

/** One of many ways to spoil bytes. */
export function spoilt(file: Uint8Array, random: Random): Uint8Array {
  let out = Uint8Array.from(file);
  const at = (n: number) => Math.floor(random() * n);
  for (let n = 1 + at(4); n > 0 && out.length > 0; n--) {
    const from = at(out.length);
    const way = at(8);
    if (way === 0) out[from] ^= 1 << at(8);
    else if (way === 1) out[from] = at(256);
    else if (way === 2) out = out.slice(0, from);
    else if (way === 3) out.copyWithin(at(out.length), from, from + at(64));
    else if (way === 4) out = joined(out.subarray(0, from), out.subarray(Math.max(0, from - at(200))));
    else if (way === 5) out = joined(out.subarray(0, from), out.subarray(Math.min(out.length, from + at(40))));
    else if (way === 6 && out.length >= from + 4)
      new DataView(out.buffer).setUint32(from, [0, 0xffffffff, 0x7fffffff, at(65536)][at(4)], random() < 0.5);
    else out = withNumber(out, random);
  }
  return out;
}

function joined(...parts: Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}

/** A number written in the file, or a word in quotes, becomes another one. */
function withNumber(bytes: Uint8Array<ArrayBuffer>, random: Random): Uint8Array<ArrayBuffer> {
  const start = Math.floor(random() * bytes.length);
  for (let i = start; i < Math.min(bytes.length, start + 400); i++) {
    if (!(bytes[i] >= 48 && bytes[i] <= 57)) continue;
    let end = i;
    while (end < bytes.length && ((bytes[end] >= 48 && bytes[end] <= 57) || bytes[end] === 46)) end++;
    const text = NUMBERS[Math.floor(random() * NUMBERS.length)];
    return joined(bytes.subarray(0, i), new TextEncoder().encode(text), bytes.subarray(end));
  }
  return bytes;
}

/** Some value somewhere in a document becomes something else, or goes. */
export function spoiltJson(document: unknown, random: Random): unknown {
  const copy: unknown = structuredClone(document);
  for (let n = 1 + Math.floor(random() * 3); n > 0; n--) {
    let node = copy as Record<string, unknown>;
    for (let depth = 0; depth < 20; depth++) {
      const keys = Object.keys(node);
      if (keys.length === 0) break;
      const key = keys[Math.floor(random() * keys.length)];
      const inner = node[key];
      if (typeof inner === 'object' && inner !== null && random() < 0.85) {
        node = inner as Record<string, unknown>;
        continue;
      }
      const value = JSON.parse(NUMBERS.filter((v) => !/^(NaN|1e999)$/.test(v))[Math.floor(random() * 11)]) as unknown;
      if (random() < 0.2) delete node[key];
      else node[key] = random() < 0.2 ? [node[key], node[key]] : value;
      break;
    }
  }
  return copy;
}

/** Sums of a PNG's chunks made right again, so that what is spoilt lies deeper. */
export function mendedPng(png: Uint8Array): Uint8Array {
  const view = new DataView(png.buffer, png.byteOffset, png.byteLength);
  for (const { at, length } of pngChunks(png)) {
    if (at + 12 + length > png.length) break;
    view.setUint32(at + 8 + length, crc32(png.subarray(at + 4, at + 8 + length)));
  }
  return png;
}

/** As often as the full run asks (FUZZ=10000 for each file), else a few. */
export const FUZZ_TIMES = Number(process.env.FUZZ ?? 40);
/** Nobody waits longer for a small file. */
const MOST_MS = 2000;

/**
 * Reads each file spoilt so many times; with a clock, none may take long. Whatever is thrown has to be one of `ours`; a sentence has to be one, and no inner error.
 * Answers how many were read, and what was wrong.
 */
export async function fuzz(
  files: readonly Uint8Array[],
  spoil: (file: Uint8Array, random: Random) => Uint8Array,
  read: (bytes: Uint8Array) => unknown,
  ours: readonly (new (...args: never[]) => Error)[],
  { times = FUZZ_TIMES, mostMs = MOST_MS, clock = null as (() => number) | null } = {},
): Promise<{ read: number; refused: number; faults: string[] }> {
  const faults = new Set<string>();
  let [fine, refused] = [0, 0];
  for (const [n, file] of files.entries())
    for (let seed = 0; seed < times; seed++) {
      const bytes = spoil(file, seededRandom(n * 1_000_003 + seed));
      const begun = clock?.() ?? 0;
      try {
        await read(bytes);
        fine++;
      } catch (error) {
        refused++;
        const { message, stack } = error as Error;
        if (!ours.some((kind) => error instanceof kind))
          faults.add(`file ${n} seed ${seed}: ${stack?.split('\n').slice(0, 3).join(' ')}`);
        else if (!isSentence(message)) faults.add(`file ${n} seed ${seed}: no sentence: ${message}`);
      }
      const took = (clock?.() ?? 0) - begun;
      if (took > mostMs) faults.add(`file ${n} seed ${seed}: took ${Math.round(took)} ms`);
    }
  return { read: fine, refused, faults: [...faults].slice(0, 5) };
}

const INNER =
  /Cannot read|is not a function|is not iterable|Invalid typed array|Maximum call stack|undefined|\[object|Unexpected token|out of bounds|Offset is outside/;

/** One line that ends with a full stop, and says nothing of the inside. */
export const isSentence = (text: string): boolean => /^[^\n]{10,500}[.!?]$/.test(text) && !INNER.test(text);
