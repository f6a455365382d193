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
  const tags: PngTags = { gamma: null, chromaticities: null, srgb: false, profile: false };
  let palette: Uint8Array | null = null;
  let clear: Uint8Array | null = null;
  const data: Uint8Array[] = [];
  let ended = false;
  for (let at = 8; at + 12 <= bytes.length && !ended;) {
    const length = view.getUint32(at);
    if (at + 12 + length > bytes.length) throw damaged(name);
    const kind = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    const body = bytes.subarray(at + 8, at + 8 + length);
    if (crc32(bytes.subarray(at + 4, at + 8 + length)) !== view.getUint32(at + 8 + length)) throw damaged(name);
    if (at === 8 && (kind !== 'IHDR' || length !== 13)) throw damaged(name);
    if (kind === 'PLTE') palette = body;
    else if (kind === 'tRNS') clear = body;
    else if (kind === 'IDAT') data.push(body);
    else if (kind === 'gAMA' && length === 4) tags.gamma = view.getUint32(at + 8) / 100_000 || null;
    else if (kind === 'cHRM' && length === 32)
      tags.chromaticities = Array.from({ length: 8 }, (_, i) => view.getUint32(at + 8 + i * 4) / 100_000);
    else if (kind === 'sRGB') tags.srgb = true;
    else if (kind === 'iCCP') tags.profile = true;
    else if (kind === 'IEND') ended = true;
    // Capitals: nobody may go on who does not know this chunk.
    else if (kind !== 'IHDR' && /^[A-Z]/.test(kind))
      throw new PictureError(`${name} has a part "${kind}" that is not known: save it again as PNG.`);
    at += 12 + length;
  }
  if (!ended || data.length === 0 || (type === 3 && (!palette || palette.length === 0 || palette.length % 3 !== 0)))
    throw damaged(name);
  if (clear && (type === 4 || type === 6)) clear = null;
  const channels = type === 3 ? (clear ? 4 : 3) : ((SAMPLES[type] + (clear ? 1 : 0)) as PngHead['channels']);
  const head: PngHead = { width, height, channels, bits: depth === 16 ? 16 : 8, tags };
  return { head, depth, type, interlaced: interlace === 1, palette, clear, data };
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

/** Hands out rows from top to bottom; a row is valid until the next. Interlaced pictures are held whole first. */
export function readPngRows(bytes: Uint8Array, name: string, take: (head: PngHead) => (row: Row, y: number) => void): void {
  const layout = layoutOf(bytes, name);
  const { head, interlaced } = layout;
  const { width, height, channels } = head;
  const give = take(head);
  const whole = interlaced ? rowOf(head, width * height) : null;
  const passes = interlaced ? ADAM7 : [[0, 0, 1, 1]];
  const reader = new Scanlines(layout, name);
  const out = rowOf(head, width);
  let at = 0;
  for (const [x0, y0, dx, dy] of passes) {
    const [across, down] = [Math.ceil((width - x0) / dx), Math.ceil((height - y0) / dy)];
    if (across <= 0 || down <= 0) continue;
    reader.begin(across);
    for (let y = 0; y < down; y++) {
      open(layout, reader.next(), across, out);
      if (!whole) give(out, y);
      else
        for (let x = 0; x < across; x++) {
          const o = ((y0 + y * dy) * width + x0 + x * dx) * channels;
          for (let c = 0; c < channels; c++) whole[o + c] = out[x * channels + c];
        }
    }
    at += down;
  }
  reader.end();
  if (at === 0) throw damaged(name);
  if (whole) for (let y = 0; y < height; y++) give(whole.subarray(y * width * channels, (y + 1) * width * channels), y);
}

const rowOf = ({ bits, channels }: PngHead, texels: number): Row =>
  bits === 16 ? new Uint16Array(texels * channels) : new Uint8Array(texels * channels);

/** Unpacked and unfiltered scanlines, one after another. */
class Scanlines {
  private pending: Uint8Array[] = [];
  private offset = 0;
  private fed = 0;
  private sum = new Adler();
  private readonly inflate: Inflate;
  private readonly raw: Uint8Array[];
  private readonly expected: number;
  private line = new Uint8Array(0);
  private before = new Uint8Array(0);
  /** Bytes a texel, at least 1: how far left a filter looks. */
  private readonly step: number;

  constructor(
    private layout: Layout,
    private name: string,
  ) {
    // zlib (RFC 1950): two bytes before, the Adler sum behind.
    const total = layout.data.reduce((n, d) => n + d.length, 0);
    const ends = new Uint8Array(6);
    let at = 0;
    for (const d of layout.data)
      for (let i = 0; i < d.length; i++, at++) if (at < 2 || at >= total - 4) ends[at < 2 ? at : at - total + 6] = d[i];
    if (total < 7 || (ends[0] & 15) !== 8 || ((ends[0] << 8) | ends[1]) % 31 !== 0 || ends[1] & 32) throw damaged(name);
    this.expected = new DataView(ends.buffer).getUint32(2);
    let skip = 2;
    let left = total - 6;
    this.raw = [];
    for (const d of layout.data) {
      const from = Math.min(skip, d.length);
      skip -= from;
      const part = d.subarray(from, from + Math.min(left, d.length - from));
      left -= part.length;
      // Fed in small parts, so that little waits to be taken.
      for (let i = 0; i < part.length; i += FEED) this.raw.push(part.subarray(i, i + FEED));
    }
    this.inflate = new Inflate((chunk) => {
      this.sum.add(chunk);
      if (chunk.length) this.pending.push(chunk);
    });
    this.step = Math.max(1, (SAMPLES[layout.type] * layout.depth) >> 3);
  }

  begin(across: number): void {
    const bytes = Math.ceil((across * SAMPLES[this.layout.type] * this.layout.depth) / 8);
    this.line = new Uint8Array(bytes + 1);
    this.before = new Uint8Array(bytes + 1);
  }

  /** Bytes of the next line, without its filter's number. */
  next(): Uint8Array {
    [this.line, this.before] = [this.before, this.line];
    this.fill(this.line);
    if (!unfilter(this.line, this.before, this.step)) throw damaged(this.name);
    return this.line.subarray(1);
  }

  /** Everything has to have been there, and to be what its sum says. */
  end(): void {
    while (this.fed < this.raw.length) this.feed();
    const left = this.pending.reduce((n, p) => n + p.length, 0) - this.offset;
    if (left !== 0 || this.sum.value() !== this.expected) throw damaged(this.name);
  }

  private fill(line: Uint8Array): void {
    for (let got = 0; got < line.length;) {
      while (this.pending.length === 0) {
        if (this.fed >= this.raw.length) throw damaged(this.name);
        this.feed();
      }
      const [first] = this.pending;
      const part = first.subarray(this.offset, this.offset + line.length - got);
      line.set(part, got);
      got += part.length;
      this.offset += part.length;
      if (this.offset === first.length) {
        this.pending.shift();
        this.offset = 0;
      }
    }
  }

  private feed(): void {
    const part = this.raw[this.fed++];
    try {
      this.inflate.push(part, this.fed === this.raw.length);
    } catch {
      throw damaged(this.name);
    }
  }
}

/** Compressed bytes at a time: deflate makes at most 1032 of one. */
const FEED = 16384;

/** Undoes a line's filter in place (9.2); its number comes first. False: there is no such filter. */
function unfilter(line: Uint8Array, before: Uint8Array, step: number): boolean {
  const n = line.length;
  switch (line[0]) {
    case 0:
      return true;
    case 1:
      for (let i = 1 + step; i < n; i++) line[i] += line[i - step];
      return true;
    case 2:
      for (let i = 1; i < n; i++) line[i] += before[i];
      return true;
    case 3:
      for (let i = 1; i <= step && i < n; i++) line[i] += before[i] >> 1;
      for (let i = 1 + step; i < n; i++) line[i] += (line[i - step] + before[i]) >> 1;
      return true;
    case 4:
      for (let i = 1; i <= step && i < n; i++) line[i] += before[i];
      for (let i = 1 + step; i < n; i++) {
        const [a, b, c] = [line[i - step], before[i], before[i - step]];
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
  if (depth === 16)
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
