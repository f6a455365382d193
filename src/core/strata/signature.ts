/**
 * Signatures say what a result was made from: equal signatures, equal pixels. They are 53-bit hashes held in a
 * double; with 100,000 results in a cache the chance of two meeting by accident is under one in a million.
 */
export type Signature = number;

function scramble(h: number): number {
  // The finaliser of MurmurHash3 (Austin Appleby, public domain).
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  return h ^ (h >>> 16);
}

export function mixSignature(a: Signature, b: Signature): Signature {
  const aHigh = (a / 4294967296) | 0;
  const bHigh = (b / 4294967296) | 0;
  const low = scramble(Math.imul(a | 0, 0x9e3779b1) ^ Math.imul((b | 0) + 0x7f4a7c15, 0x27d4eb2f) ^ Math.imul(aHigh, 31) ^ bHigh);
  const high = scramble(low ^ Math.imul(aHigh + 0x165667b1, 0x85ebca77) ^ Math.imul(bHigh ^ (b | 0), 0xc2b2ae3d) ^ (a | 0));
  return (high & 0x1fffff) * 4294967296 + (low >>> 0);
}

export function textSignature(text: string): Signature {
  let low = 0x811c9dc5;
  let high = 0x9747b28c;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    low = Math.imul(low ^ c, 0x01000193);
    high = Math.imul(high ^ c, 0x5bd1e995) ^ (high >>> 15);
  }
  return (scramble(high) & 0x1fffff) * 4294967296 + (scramble(low) >>> 0);
}
