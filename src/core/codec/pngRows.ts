/**
 * Reading PNG (W3C Portable Network Graphics, third edition) row by row, so that a large picture costs no more memory than a few of
 * its rows: all colour types and depths, interlaced or not, transparency by tRNS. Every chunk's CRC and the Adler sum of the texels
 * are checked. What was declared is checked before anything is allocated for it.
 */
import { Inflate } from 'fflate';

export const PNG_LIMITS = { maxSide: 16384, maxTexels: 8192 * 8192 } as const;

/** Bad input: `message` is one sentence for people. */
export class PictureError extends Error {}

export interface PngHead {
  width: number;
  height: number;
  /** As rows come out: 1 grey, 2 grey + alpha, 3 RGB, 4 RGBA. Palettes are opened, transparency is alpha. */
  channels: 1 | 2 | 3 | 4;
  bits: 8 | 16;
  /** What the file says of its colours: gAMA, cHRM; and whether it has a profile, or says sRGB. */
  tags: PngTags;
}

export interface PngTags {
  /** gAMA: the exponent that samples were made with; 1 / 2.2 is usual. */
  gamma: number | null;
  /** cHRM: x, y of white, red, green, blue. */
  chromaticities: readonly number[] | null;
  srgb: boolean;
  profile: boolean;
}

type Row = Uint8Array | Uint16Array;

/** Told what a picture is, it says who gets its rows; a row is valid until the next. */
export type TakeRows = (head: PngHead) => (row: Row, y: number) => void;

export function isPng(bytes: Uint8Array): boolean {
  return bytes.length > 24 && [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a].every((b, i) => bytes[i] === b);
}

interface Layout {
  head: PngHead;
  depth: number;
  type: number;
  interlaced: boolean;
  palette: Uint8Array | null;
  clear: Uint8Array | null;
  /** The compressed texels, chunk by chunk. */
  data: Uint8Array[];
}

const damaged = (name: string) => new PictureError(`${name} is damaged or cut short: copy or save it again.`);

/** Depths that each colour type has (table 11.1), and its samples a texel. */
const DEPTHS: Record<number, readonly number[]> = { 0: [1, 2, 4, 8, 16], 2: [8, 16], 3: [1, 2, 4, 8], 4: [8, 16], 6: [8, 16] };
const SAMPLES: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };

/** Chunks as they follow each other (5.3): where each begins, and the length that it says it has; the last may reach beyond the file. */
export function* pngChunks(bytes: Uint8Array): Generator<{ at: number; length: number; kind: string }> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 8; at + 12 <= bytes.length;) {
    const length = view.getUint32(at);
    yield { at, length, kind: String.fromCharCode(...bytes.subarray(at + 4, at + 8)) };
    at += 12 + length;
  }
}

/** Chunks and what they declare; no texels yet. */
export function layoutOf(bytes: Uint8Array, name: string): Layout {
  if (!isPng(bytes)) throw new PictureError(`${name} is not a PNG file: save it again as PNG.`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  const { maxSide, maxTexels } = PNG_LIMITS;
  if (width === 0 || height === 0 || width > maxSide || height > maxSide || width * height > maxTexels)
    throw new PictureError(
      `${name} says it is ${width} × ${height}, outside what is read (up to ${maxSide} a side): make it smaller.`,
    );
  const [depth, type, interlace] = [bytes[24], bytes[25], bytes[28]];
  if (!DEPTHS[type]?.includes(depth) || bytes[26] !== 0 || bytes[27] !== 0 || interlace > 1) throw damaged(name);
  const tags = noTags();
  let palette: Uint8Array | null = null;
  let clear: Uint8Array | null = null;
  const data: Uint8Array[] = [];
  let ended = false;
  for (const { at, length, kind } of pngChunks(bytes)) {
    if (at + 12 + length > bytes.length) throw damaged(name);
    const body = bytes.subarray(at + 8, at + 8 + length);
    if (crc32(bytes.subarray(at + 4, at + 8 + length)) !== view.getUint32(at + 8 + length)) throw damaged(name);
    if (at === 8 && (kind !== 'IHDR' || length !== 13)) throw damaged(name);
    if (kind === 'PLTE') palette = body;
    else if (kind === 'tRNS') clear = body;
    else if (kind === 'IDAT') data.push(body);
    else if (noteTag(tags, kind, body)) continue;
    else if (kind === 'IEND') {
      ended = true;
      break;
    } else if (kind !== 'IHDR' && !/^[A-Za-z]{4}$/.test(kind)) throw damaged(name);
    // Capitals: nobody may go on who does not know this chunk.
    else if (kind !== 'IHDR' && /^[A-Z]/.test(kind))
      throw new PictureError(`${name} has a part "${kind}" that is not known: save it again as PNG.`);
  }
  if (!ended || data.length === 0 || (type === 3 && (!palette || palette.length === 0 || palette.length % 3 !== 0)))
    throw damaged(name);
  if (clear && (type === 4 || type === 6)) clear = null;
  const channels = type === 3 ? (clear ? 4 : 3) : ((SAMPLES[type] + (clear ? 1 : 0)) as PngHead['channels']);
  const head: PngHead = { width, height, channels, bits: depth === 16 ? 16 : 8, tags };
  return { head, depth, type, interlaced: interlace === 1, palette, clear, data };
}

const noTags = (): PngTags => ({ gamma: null, chromaticities: null, srgb: false, profile: false });

/** Takes up what a chunk says of colours; false: it says nothing of them. */
function noteTag(tags: PngTags, kind: string, body: Uint8Array): boolean {
  const numbers = (count: number) => {
    const view = new DataView(body.buffer, body.byteOffset, body.byteLength);
    return Array.from({ length: count }, (_, i) => view.getUint32(i * 4) / 100_000);
  };
  if (kind === 'gAMA' && body.length === 4) tags.gamma = numbers(1)[0] || null;
  else if (kind === 'cHRM' && body.length === 32) tags.chromaticities = numbers(8);
  else if (kind === 'sRGB') tags.srgb = true;
  else if (kind === 'iCCP') tags.profile = true;
  else return false;
  return true;
}

/** The same of the first part of a file, whatever comes behind it. */
export function pngTagsOf(bytes: Uint8Array): PngTags {
  const tags = noTags();
  if (!isPng(bytes)) return tags;
  for (const { at, length, kind } of pngChunks(bytes)) {
    if (kind === 'IDAT') break;
    if (at + 8 + length <= bytes.length) noteTag(tags, kind, bytes.subarray(at + 8, at + 8 + length));
  }
  return tags;
}

/** Where the texels of each pass of an interlaced picture lie: x, y of the first, steps (8.2). */
const ADAM7 = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
];

/** Compressed bytes that are unpacked at a time: deflate makes at most 1032 of one. */
const FEED = 16384;

/** Hands out rows from top to bottom. Interlaced pictures are held whole first. */
export function readPngRows(bytes: Uint8Array, name: string, take: TakeRows): void {
  const lines = new PngLines(layoutOf(bytes, name), name, take);
  const inflate = new Inflate((chunk) => lines.push(chunk));
  const { parts } = lines;
  parts.forEach((part, n) => {
    try {
      inflate.push(part, n === parts.length - 1);
    } catch (error) {
      throw error instanceof PictureError ? error : damaged(name);
    }
  });
  lines.end();
}

/** Unpacked texels come in as they come, and go out as rows. */
export class PngLines {
  /** The compressed texels (raw deflate) in parts of up to FEED bytes. */
  readonly parts: Uint8Array[];
  private readonly give: (row: Row, y: number) => void;
  private readonly whole: Row | null;
  private readonly out: Row;
  private readonly passes: readonly (readonly number[])[];
  private pass = -1;
  private across = 0;
  private down = 0;
  private y = 0;
  /** Bytes of the line at hand, its filter's number first; and how many of them are there. */
  private line = new Uint8Array(0);
  private before = new Uint8Array(0);
  private got = 0;
  private sum = new Adler();
  private readonly expected: number;
  /** Bytes a texel, at least 1: how far left a filter looks. */
  private readonly step: number;

  constructor(
    private layout: Layout,
    private name: string,
    take: TakeRows,
    /** Whoever unpacks holds the Adler sum against the texels. */
    private readonly checked = false,
  ) {
    const { head, interlaced, type, depth } = layout;
    ({ parts: this.parts, sum: this.expected } = partsOf(layout, name));
    this.give = take(head);
    this.whole = interlaced ? rowOf(head, head.width * head.height) : null;
    this.out = rowOf(head, head.width);
    this.passes = interlaced ? ADAM7 : [[0, 0, 1, 1]];
    this.step = Math.max(1, (SAMPLES[type] * depth) >> 3);
    this.begin();
  }

  push(chunk: Uint8Array): void {
    if (!this.checked) this.sum.add(chunk);
    for (let at = 0; at < chunk.length;) {
      if (this.pass >= this.passes.length) throw damaged(this.name);
      const part = chunk.subarray(at, at + this.line.length - START + 1 - this.got);
      this.line.set(part, START - 1 + this.got);
      this.got += part.length;
      at += part.length;
      if (this.got === this.line.length - START + 1) this.finishLine();
    }
  }

  /** Everything has to have been there, and to be what its sum says. */
  end(): void {
    if (this.pass < this.passes.length || !(this.checked || this.sum.value() === this.expected)) throw damaged(this.name);
    const { whole, give } = this;
    const { width, height, channels } = this.layout.head;
    if (whole) for (let y = 0; y < height; y++) give(whole.subarray(y * width * channels, (y + 1) * width * channels), y);
  }

  /** The next pass that has any texels. */
  private begin(): void {
    const { width, height } = this.layout.head;
    for (this.pass++; this.pass < this.passes.length; this.pass++) {
      const [x0, y0, dx, dy] = this.passes[this.pass];
      [this.across, this.down, this.y] = [Math.ceil((width - x0) / dx), Math.ceil((height - y0) / dy), 0];
      if (this.across > 0 && this.down > 0) break;
    }
    const bytes = Math.ceil((this.across * SAMPLES[this.layout.type] * this.layout.depth) / 8);
    // The filter's number stands right before a whole word; what is behind the last byte is never looked at.
    const room = START + ((bytes + 3) & ~3);
    this.line = new Uint8Array(room).subarray(0, START + bytes);
    this.before = new Uint8Array(room).subarray(0, START + bytes);
    this.got = 0;
  }

  private finishLine(): void {
    if (!unfilter(this.line, this.before, this.step)) throw damaged(this.name);
    const { whole, out, across, y } = this;
    open(this.layout, this.line.subarray(START), across, out);
    if (!whole) this.give(out, y);
    else {
      const [x0, y0, dx, dy] = this.passes[this.pass];
      const { width, channels } = this.layout.head;
      for (let x = 0; x < across; x++) {
        const o = ((y0 + y * dy) * width + x0 + x * dx) * channels;
        for (let c = 0; c < channels; c++) whole[o + c] = out[x * channels + c];
      }
    }
    [this.line, this.before] = [this.before, this.line];
    this.got = 0;
    if (++this.y === this.down) this.begin();
  }
}

const rowOf = ({ bits, channels }: PngHead, texels: number): Row =>
  bits === 16 ? new Uint16Array(texels * channels) : new Uint8Array(texels * channels);

/** zlib (RFC 1950): two bytes before the compressed texels, the Adler sum behind them. */
function partsOf({ data }: Layout, name: string): { parts: Uint8Array[]; sum: number } {
  const total = data.reduce((n, d) => n + d.length, 0);
  const ends = new Uint8Array(6);
  const parts: Uint8Array[] = [];
  let at = 0;
  for (const d of data) {
    for (let i = 0; i < d.length && at + i < 2; i++) ends[at + i] = d[i];
    for (let i = Math.max(0, total - 4 - at); i < d.length; i++) ends[at + i - total + 6] = d[i];
    const from = Math.min(d.length, Math.max(0, 2 - at));
    const to = Math.min(d.length, Math.max(from, total - 4 - at));
    // In small parts, so that little is unpacked before it is taken.
    for (let i = from; i < to; i += FEED) parts.push(d.subarray(i, Math.min(to, i + FEED)));
    at += d.length;
  }
  if (total < 7 || (ends[0] & 15) !== 8 || ((ends[0] << 8) | ends[1]) % 31 !== 0 || ends[1] & 32) throw damaged(name);
  return { parts, sum: new DataView(ends.buffer).getUint32(2) };
}

/** Where a line's bytes begin in its buffer. */
const START = 4;

const wordsOf = (line: Uint8Array): Uint32Array => new Uint32Array(line.buffer, START, (line.buffer.byteLength - START) >> 2);

/** Four bytes added to four, each modulo 256. */
const added = (a: number, b: number): number => ((a & 0x7f7f7f7f) + (b & 0x7f7f7f7f)) ^ ((a ^ b) & 0x80808080);

/** Undoes a line's filter in place (9.2); its number stands before START. False: there is no such filter. */
function unfilter(line: Uint8Array, before: Uint8Array, step: number): boolean {
  const n = line.length;
  const first = Math.min(n, START + step);
  switch (line[START - 1]) {
    case 0:
      return true;
    case 1: {
      if (step % 4 === 0) {
        const words = wordsOf(line);
        for (let i = step >> 2; i < words.length; i++) words[i] = added(words[i], words[i - (step >> 2)]);
      } else for (let i = first; i < n; i++) line[i] += line[i - step];
      return true;
    }
    case 2: {
      const [words, above] = [wordsOf(line), wordsOf(before)];
      for (let i = 0; i < words.length; i++) words[i] = added(words[i], above[i]);
      return true;
    }
    case 3:
      for (let i = START; i < first; i++) line[i] += before[i] >> 1;
      for (let i = first; i < n; i++) line[i] += (line[i - step] + before[i]) >> 1;
      return true;
    case 4:
      for (let i = START; i < first; i++) line[i] += before[i];
      for (let i = first; i < n; i++) {
        const a = line[i - step];
        const b = before[i];
        const c = before[i - step];
        const pa = Math.abs(b - c);
        const pb = Math.abs(a - c);
        const pc = Math.abs(a + b - 2 * c);
        line[i] += pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
      }
      return true;
    default:
      return false;
  }
}

/** A line's samples as they come out: 8 or 16 bits, palettes opened, what is transparent by tRNS as alpha. */
function open({ head, depth, type, palette, clear }: Layout, line: Uint8Array, across: number, out: Row): void {
  const samples = SAMPLES[type];
  const { channels } = head;
  if (type === 3) {
    for (let x = 0, o = 0; x < across; x++, o += channels) {
      const i = depth === 8 ? line[x] : sampleOf(line, x, depth);
      for (let c = 0; c < 3; c++) out[o + c] = palette![i * 3 + c] ?? 0;
      if (channels === 4) out[o + 3] = clear![i] ?? (i * 3 < palette!.length ? 255 : 0);
    }
    return;
  }
  if (depth === 16 && channels === samples && (across * samples) % 2 === 0) {
    // Two samples at a time, their bytes changed about (files have the high byte first).
    const from = new Uint32Array(line.buffer, line.byteOffset, (across * samples) >> 1);
    const to = new Uint32Array(out.buffer, out.byteOffset, from.length);
    for (let i = 0; i < from.length; i++) to[i] = ((from[i] & 0x00ff00ff) << 8) | ((from[i] >>> 8) & 0x00ff00ff);
  } else if (depth === 16)
    for (let i = 0, o = 0, s = 0; i < across; i++, o += channels)
      for (let c = 0; c < samples; c++, s += 2) out[o + c] = (line[s] << 8) | line[s + 1];
  else if (depth === 8 && channels === samples) out.set(line.subarray(0, across * samples));
  else if (depth === 8)
    for (let i = 0, o = 0, s = 0; i < across; i++, o += channels) for (let c = 0; c < samples; c++, s++) out[o + c] = line[s];
  else for (let x = 0, o = 0; x < across; x++, o += channels) out[o] = (sampleOf(line, x, depth) * 255) / ((1 << depth) - 1);
  if (!clear) return;
  // One colour, as it stands in the file, is clear (11.3.2.1).
  const scale = depth < 8 ? 255 / ((1 << depth) - 1) : 1;
  const wanted = Array.from(
    { length: samples },
    (_, c) => (((clear[c * 2] << 8) | clear[c * 2 + 1]) & ((1 << depth) - 1)) * scale,
  );
  const full = head.bits === 16 ? 65535 : 255;
  for (let i = 0, o = 0; i < across; i++, o += channels) {
    let same = true;
    for (let c = 0; c < samples && same; c++) same = out[o + c] === wanted[c];
    out[o + samples] = same ? 0 : full;
  }
}

/** Samples of 1, 2 or 4 bits: lines start on a byte, high bits first (7.2). */
function sampleOf(line: Uint8Array, x: number, depth: number): number {
  const bit = x * depth;
  return (line[bit >> 3] >> (8 - depth - (bit & 7))) & ((1 << depth) - 1);
}

/** Adler-32 (RFC 1950, 8.2), as data comes. */
class Adler {
  private a = 1;
  private b = 0;
  add(data: Uint8Array): void {
    let { a, b } = this;
    // 3854 bytes of 255 more than 2^31 would not hold; sums are reduced well before.
    for (let i = 0; i < data.length;) {
      const end = Math.min(i + 2048, data.length);
      for (; i < end; i++) b += a += data[i];
      a %= 65521;
      b %= 65521;
    }
    this.a = a;
    this.b = b;
  }
  value(): number {
    return ((this.b << 16) | this.a) >>> 0;
  }
}

const CRC_TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

/** CRC-32 as in ISO 3309 (annex D). */
export function crc32(bytes: Uint8Array): number {
  let crc = 0xffffffff;
  for (let i = 0; i < bytes.length; i++) crc = CRC_TABLE[(crc ^ bytes[i]) & 255] ^ (crc >>> 8);
  return (crc ^ 0xffffffff) >>> 0;
}
