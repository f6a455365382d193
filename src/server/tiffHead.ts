/** What a TIFF says of its samples in its first directory (TIFF 6.0, section 2; BigTIFF), read in a few short reads that no file can draw out. */
import { open, type FileHandle } from 'node:fs/promises';

export interface TiffHead {
  width: number;
  height: number;
  /** 1 whole, 2 with a sign, 3 with fractions (section 19). */
  format: number;
  /** Of the first sample. */
  bits: number;
  compression: number;
  /** How colours are meant (section 8). */
  photometric: number;
  samples: number;
  /** Number of samples beyond the colour channels that the file declares (ExtraSamples), such as alpha. */
  extra: number;
}

const TAGS = {
  width: 256,
  height: 257,
  bits: 258,
  compression: 259,
  photometric: 262,
  samples: 277,
  extra: 338,
  format: 339,
} as const;
/** RowsPerStrip, TileWidth and TileLength: a reader divides by them to count its strips or tiles. */
const DIVISORS: readonly number[] = [278, 322, 323];
/** Tags from which a decoder computes counts or positions. Their values have to be whole numbers: a strip of 1e-300 rows never ends. */
const COUNTS: readonly number[] = [...Object.values(TAGS), ...DIVISORS, 273, 279, 284, 324, 325];
const MOST_ENTRIES = 4096;
/** Bytes of a whole number by its type: BYTE, SHORT, LONG, LONG8. */
const BYTES: Record<number, 1 | 2 | 4 | 8> = { 1: 1, 3: 2, 4: 4, 16: 8 };

/** Bytes of a value by its type (TIFF 6.0, section 2; BigTIFF). */
const TYPE_BYTES: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
  13: 4,
  16: 8,
  17: 8,
  18: 8,
};

/** Throws where the file is none, or cut short. */
export async function tiffHead(path: string): Promise<TiffHead> {
  const file = await open(path);
  try {
    return await read(file);
  } finally {
    await file.close();
  }
}

async function bytesAt(file: FileHandle, at: number, length: number): Promise<DataView> {
  const bytes = new Uint8Array(length);
  const { bytesRead } = await file.read(bytes, 0, length, at);
  if (bytesRead < length) throw new Error('cut short');
  return new DataView(bytes.buffer);
}

async function read(file: FileHandle): Promise<TiffHead> {
  const start = await bytesAt(file, 0, 16);
  const little = start.getUint16(0) === 0x4949;
  const big = start.getUint16(2, little) === 43;
  const place = (view: DataView, at: number) => (big ? Number(view.getBigUint64(at, little)) : view.getUint32(at, little));
  const directory = place(start, big ? 8 : 4);
  const [countBytes, entryBytes] = big ? [8, 20] : [2, 12];
  const counted = await bytesAt(file, directory, countBytes);
  const count = big ? Number(counted.getBigUint64(0, little)) : counted.getUint16(0, little);
  if (count > MOST_ENTRIES) throw new Error('too many tags');
  const entries = await bytesAt(file, directory + countBytes, count * entryBytes);
  const countOf = (at: number) => (big ? Number(entries.getBigUint64(at + 4, little)) : entries.getUint32(at + 4, little));
  const { size: length } = await file.stat();
  const found: TiffHead = { width: 0, height: 0, bits: 1, compression: 1, format: 1, photometric: 1, samples: 1, extra: 0 };
  for (let n = 0; n < count; n++) {
    const at = n * entryBytes;
    // Readers go through as many values as a tag declares, whether they are there or not.
    const whole = (TYPE_BYTES[entries.getUint16(at + 2, little)] ?? 1) * countOf(at);
    if (whole > length) throw new Error('a tag of more values than the file has bytes');
    const tag = entries.getUint16(at, little);
    const name = (Object.keys(TAGS) as (keyof typeof TAGS)[]).find((key) => TAGS[key] === tag);
    const size = BYTES[entries.getUint16(at + 2, little)];
    if (!size && COUNTS.includes(tag)) throw new Error('a tag of counts that are no whole numbers');
    if (!size || (!name && !DIVISORS.includes(tag))) continue;
    const values = countOf(at);
    if (name === 'extra') {
      found.extra = values;
      continue;
    }
    const field = at + (big ? 12 : 8);
    // What does not fit into the field stands elsewhere: the first of it is enough.
    const inField = values * size <= (big ? 8 : 4);
    const view = inField ? entries : await bytesAt(file, place(entries, field), size);
    const o = inField ? field : 0;
    const value =
      size === 1
        ? view.getUint8(o)
        : size === 2
          ? view.getUint16(o, little)
          : size === 4
            ? view.getUint32(o, little)
            : Number(view.getBigUint64(o, little));
    if (name) found[name] = value;
    else if (value === 0) throw new Error('strips or tiles of no rows');
  }
  return found;
}
