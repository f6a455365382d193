/**
 * Signatures say what a result was made from: equal signatures, equal pixels. They are 128-bit hashes (MurmurHash3
 * x86_128, Austin Appleby, public domain), held as strings of eight 16-bit units, since those are quick keys of a map.
 * Among 10^9 results the chance that any two meet by accident is under 10^-20.
 */
export type Signature = string;

const C1 = 0x239b961b;
const C2 = 0xab0e9789;
const C3 = 0x38b34ae5;
const C4 = 0xa1e38b93;

/** State of the hash in progress: the algorithm's h1 … h4. One at a time. */
let h1 = 0;
let h2 = 0;
let h3 = 0;
let h4 = 0;

const rotated = (x: number, by: number): number => (x << by) | (x >>> (32 - by));

/** One block of four 32-bit words. */
function block(a: number, b: number, c: number, d: number): void {
  h1 ^= Math.imul(rotated(Math.imul(a, C1), 15), C2);
  h1 = (Math.imul((rotated(h1, 19) + h2) | 0, 5) + 0x561ccd1b) | 0;
  h2 ^= Math.imul(rotated(Math.imul(b, C2), 16), C3);
  h2 = (Math.imul((rotated(h2, 17) + h3) | 0, 5) + 0x0bcaa747) | 0;
  h3 ^= Math.imul(rotated(Math.imul(c, C3), 17), C4);
  h3 = (Math.imul((rotated(h3, 15) + h4) | 0, 5) + 0x96cd1c35) | 0;
  h4 ^= Math.imul(rotated(Math.imul(d, C4), 18), C1);
  h4 = (Math.imul((rotated(h4, 13) + h1) | 0, 5) + 0x32ac3b17) | 0;
}

/** The finaliser of MurmurHash3. */
function scramble(h: number): number {
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  return h ^ (h >>> 16);
}

function finish(length: number): Signature {
  h1 ^= length;
  h2 ^= length;
  h3 ^= length;
  h4 ^= length;
  h1 = (h1 + h2 + h3 + h4) | 0;
  h2 = (h2 + h1) | 0;
  h3 = (h3 + h1) | 0;
  h4 = (h4 + h1) | 0;
  const a = scramble(h1);
  const b = scramble(h2);
  const c = scramble(h3);
  const d = scramble(h4);
  const e = (a + b + c + d) | 0;
  return words(e, (b + e) | 0, (c + e) | 0, (d + e) | 0);
}

const words = (a: number, b: number, c: number, d: number): Signature =>
  // fromCharCode takes the lower 16 bits of each.
  String.fromCharCode(a, a >>> 16, b, b >>> 16, c, c >>> 16, d, d >>> 16);

function add(part: Signature | number): void {
  if (typeof part === 'number') block(part | 0, (part / 4294967296) | 0, 0, 1);
  else
    block(
      part.charCodeAt(0) | (part.charCodeAt(1) << 16),
      part.charCodeAt(2) | (part.charCodeAt(3) << 16),
      part.charCodeAt(4) | (part.charCodeAt(5) << 16),
      part.charCodeAt(6) | (part.charCodeAt(7) << 16),
    );
}

/** Of two parts in this order. Numbers are whole, below 2^53. */
export function mixSignature(a: Signature | number, b: Signature | number): Signature {
  h1 = h2 = h3 = h4 = 0;
  add(a);
  add(b);
  return finish(32);
}

/** A whole number below 2^53 by itself: never equal to a hash, but for one chance in 2^64. */
export const numberSignature = (n: number): Signature => words(n | 0, (n / 4294967296) | 0, 0, 0x5eed);

/** 52 bits of a signature as a number: enough to tell things apart of which there are few. */
export const signatureNumber = (s: Signature): number =>
  s.charCodeAt(0) + s.charCodeAt(1) * 2 ** 16 + s.charCodeAt(2) * 2 ** 32 + (s.charCodeAt(3) & 15) * 2 ** 48;

export function textSignature(text: string): Signature {
  h1 = h2 = h3 = h4 = 0x9747b28c | 0;
  const { length } = text;
  const at = (i: number) => (i < length ? text.charCodeAt(i) : 0);
  for (let i = 0; i < length; i += 8)
    block(at(i) | (at(i + 1) << 16), at(i + 2) | (at(i + 3) << 16), at(i + 4) | (at(i + 5) << 16), at(i + 6) | (at(i + 7) << 16));
  return finish(length * 2);
}
