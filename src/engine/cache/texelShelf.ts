/**
 * Texels of a piece kept in the browser by address: a piece that is opened again needs to fetch and unpack only what was painted
 * elsewhere. Texels are painted on, so each half of a tile carries a check of its own, bound to its address: what the disk has
 * damaged is fetched again.
 *
 * A file (slots.ts) a piece; a slot is 64 KiB, all of a tile of two channels or half of one of four. An entry's body, little endian:
 *   0 u8 channels (2 or 4) · 1 u8 half · 4 the address (SHA-256, 32 bytes) · 36 u32 × 2 check of the slot.
 */
import { toHex } from '../../core/codec/tileBlob';
import { newTexels, TILE_TEXELS } from '../../core/tile/tiles';
import { Slots, type Filled, type ShelfFile } from './slots';

const BODY = 44;
const SLOT = TILE_TEXELS * 4;
/** 256 MiB: four planes of 2048² three times over. */
const SHAPE = { most: 4096, body: BODY, slot: SLOT };
/** Tiles that wait to be written: 4 MiB at most. */
const BATCH = 32;

interface Half {
  at: number;
  check: [number, number];
}

interface Kept {
  channels: number;
  /** Two of a tile of four channels; not all may be there. */
  halves: (Half | undefined)[];
}

export class TexelShelf {
  private slots: Slots;
  private kept = new Map<string, Kept>();
  private waiting = new Map<string, Uint16Array>();
  private scratch = new Uint8Array(SLOT);

  constructor(file: ShelfFile) {
    this.slots = new Slots(file, SHAPE, SHAPE.most, (at, body) => {
      const channels = body.getUint8(0);
      const half = body.getUint8(1);
      if ((channels !== 2 && channels !== 4) || half >= channels / 2) return false;
      const hash = toHex(new Uint8Array(body.buffer, body.byteOffset + 4, 32));
      const kept = this.kept.get(hash) ?? { channels, halves: [] };
      if (kept.channels !== channels || kept.halves[half]) return false;
      kept.halves[half] = { at, check: [body.getUint32(36, true), body.getUint32(40, true)] };
      this.kept.set(hash, kept);
      return true;
    });
  }

  has(hash: string): boolean {
    if (this.waiting.has(hash)) return true;
    const kept = this.kept.get(hash);
    return kept !== undefined && placesOf(kept).length === kept.channels / 2;
  }

  /** null: they are not there, or not as they were put. */
  read(hash: string): Uint16Array | null {
    const kept = this.kept.get(hash);
    if (!kept || !this.has(hash)) return null;
    const texels = newTexels(TILE_TEXELS * kept.channels);
    const bytes = new Uint8Array(texels.buffer, texels.byteOffset, texels.byteLength);
    for (const [n, half] of kept.halves.entries()) {
      // Files do not read into memory that threads share.
      if (!half || !this.slots.read(half.at, this.scratch)) return null;
      const [a, b] = checkOf(hash, this.scratch);
      if (a !== half.check[0] || b !== half.check[1]) {
        this.drop([hash]);
        return null;
      }
      bytes.set(this.scratch, n * SLOT);
    }
    return texels;
  }

  /** `texels`: of that address, not to be changed afterwards. false: there is no room for more. */
  put(hash: string, texels: Uint16Array): boolean {
    if (!this.slots.writable) return false;
    if (this.has(hash)) return true;
    this.waiting.set(hash, texels);
    return this.waiting.size < BATCH || this.flush();
  }

  /** Gives up all but these. */
  keepOnly(hashes: ReadonlySet<string>): void {
    const gone = [...this.kept.keys()].filter((hash) => !hashes.has(hash));
    if (gone.length > 0) this.drop(gone);
  }

  private drop(hashes: readonly string[]): void {
    const places = hashes.flatMap((hash) => placesOf(this.kept.get(hash)!));
    for (const hash of hashes) this.kept.delete(hash);
    this.slots.replace(places, []);
  }

  /** Writes all pending texels. Returns whether there was room for all of them. */
  flush(): boolean {
    const added: { hash: string; channels: number; half: number; filled: Filled; check: [number, number] }[] = [];
    for (const [hash, texels] of this.waiting) {
      const bytes = new Uint8Array(texels.buffer, texels.byteOffset, texels.byteLength);
      const channels = texels.length / TILE_TEXELS;
      for (let half = 0; half < channels / 2; half++) {
        const slot = new Uint8Array(bytes.subarray(half * SLOT, (half + 1) * SLOT));
        const check = checkOf(hash, slot);
        added.push({ hash, channels, half, check, filled: { body: bodyOf(hash, channels, half, check), slot } });
      }
    }
    // Halves left over from an interrupted write.
    const removed = [...this.waiting.keys()].flatMap((hash) => placesOf(this.kept.get(hash) ?? NOTHING));
    for (const hash of this.waiting.keys()) this.kept.delete(hash);
    this.waiting.clear();
    const places = this.slots.replace(
      removed,
      added.map((entry) => entry.filled),
    );
    places.forEach((at, n) => {
      const { hash, channels, half, check } = added[n];
      const kept = this.kept.get(hash) ?? { channels, halves: [] };
      kept.halves[half] = { at, check };
      this.kept.set(hash, kept);
    });
    return places.length === added.length;
  }
}

const NOTHING: Kept = { channels: 2, halves: [] };
const placesOf = ({ halves }: Kept): number[] => halves.flatMap((half) => (half ? [half.at] : []));

function bodyOf(hash: string, channels: number, half: number, check: readonly number[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(BODY);
  const view = new DataView(out.buffer);
  out[0] = channels;
  out[1] = half;
  for (let n = 0; n < 32; n++) out[4 + n] = parseInt(hash.slice(n * 2, n * 2 + 2), 16);
  view.setUint32(36, check[0], true);
  view.setUint32(40, check[1], true);
  return out;
}

/**
 * Sixty-four bits of a slot under an address: words take turns in two lanes of the rounds of MurmurHash3 (Austin Appleby, public
 * domain). Each round can be undone, so damage to a single word always shows.
 */
function checkOf(hash: string, bytes: Uint8Array<ArrayBuffer>): [number, number] {
  const words = new Uint32Array(bytes.buffer, bytes.byteOffset, bytes.length >> 2);
  let a = parseInt(hash.slice(0, 8), 16) | 0;
  let b = parseInt(hash.slice(8, 16), 16) | 0;
  for (let i = 0; i < words.length; i += 2) {
    const p = Math.imul(words[i], 0xcc9e2d51);
    const q = Math.imul(words[i + 1], 0x1b873593);
    a ^= (p << 15) | (p >>> 17);
    a = (Math.imul((a << 13) | (a >>> 19), 5) + 0xe6546b64) | 0;
    b ^= (q << 16) | (q >>> 16);
    b = (Math.imul((b << 13) | (b >>> 19), 5) + 0x0bcaa747) | 0;
  }
  return [a >>> 0, b >>> 0];
}
