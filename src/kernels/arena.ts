/** A memory, and one thread's part of it: what kernels work with, given out like a stack. */
import type { StoredSource } from './kernels';

const PAGE = 65536;
/** Constants of the modules lie in the first page (cli/kernels.ts), the same for all threads. */
const FIRST = PAGE;
/**
 * 96 MiB a thread; untouched pages cost nothing. A frame of the evaluator takes 256 KiB an isolated group; 33 nested
 * groups with masks, an echo of each, and a blur's window of σ = 256 (1.7 MiB a plane) stay under 40 MiB.
 */
const ARENA = 96 << 20;
/** Stored texels that lie outside (a tile of RGBA is 128 KiB) are copied to the arena's start, weights behind them. */
const SCRATCH = 1 << 20;
const WEIGHTS = 8192;
/** At the end: tables that never change, some 280 KiB of them (the transfer curve both ways). */
const TABLES_BYTES = 1 << 19;

/** Threads that can share one memory: an engine and its helpers. */
export const MOST_ARENAS = 5;
/** Where the arenas end: what lies behind them is anybody's. */
export const ARENAS_END = FIRST + MOST_ARENAS * ARENA;

/** A memory for one thread alone: fixed, since growing would cut off all views. */
export function ownMemory(): WebAssembly.Memory {
  const pages = (FIRST + ARENA) / PAGE;
  return new WebAssembly.Memory({ initial: pages, maximum: pages });
}

/** One that all threads see, up to 4 GiB; null where there is none to be had. */
export function sharedMemory(): WebAssembly.Memory | null {
  try {
    return new WebAssembly.Memory({ initial: ARENAS_END / PAGE, maximum: 65536, shared: true });
  } catch {
    return null;
  }
}

export type Numbers = Float64Array | Float32Array | Uint16Array | Int32Array | Int8Array | Uint8Array | Uint32Array;

export class Arena {
  private readonly buffer: ArrayBufferLike;
  readonly u16: Uint16Array;
  readonly i32: Int32Array;
  readonly f32: Float32Array;
  readonly f64: Float64Array;
  readonly bytes: Uint8Array;
  /** Address of room for weights and other small lists. */
  readonly weights: number;
  private readonly scratch: number;
  private readonly end: number;
  private top: number;
  private tables = new Map<Float32Array, number>();
  private tablesEnd: number;

  /** `index`: which of the memory's arenas. `isPart`: other buffers that the memory shows itself as, one each time it grows. */
  constructor(
    memory: WebAssembly.Memory,
    index: number,
    private readonly isPart: (buffer: ArrayBufferLike) => boolean,
  ) {
    const { buffer } = memory;
    this.buffer = buffer;
    this.u16 = new Uint16Array(buffer);
    this.i32 = new Int32Array(buffer);
    this.f32 = new Float32Array(buffer);
    this.f64 = new Float64Array(buffer);
    this.bytes = new Uint8Array(buffer);
    this.scratch = FIRST + index * ARENA;
    this.weights = this.scratch + SCRATCH;
    this.top = this.weights + WEIGHTS;
    this.end = this.tablesEnd = this.scratch + ARENA - TABLES_BYTES;
  }

  mark(): number {
    return this.top;
  }

  release(mark: number): void {
    this.top = mark;
  }

  /** Address of so many bytes. Throws when the arena is full. */
  take(bytes: number): number {
    const at = this.top;
    this.top = (at + bytes + 15) & ~15;
    if (this.top > this.end) throw new Error(`The kernels' arena of ${ARENA} bytes is full`);
    return at;
  }

  room(bytes: number): Uint8Array {
    return new Uint8Array(this.buffer, this.take(bytes), bytes);
  }

  floats(count: number): Float32Array {
    return new Float32Array(this.buffer, this.take(count * 4), count);
  }

  /** Numbers of 16 bits at an address. */
  codes(at: number, count: number): Uint16Array {
    return new Uint16Array(this.buffer, at, count);
  }

  /** Whether an array lies in the memory, where the kernels reach it. */
  private inside({ buffer }: Numbers): boolean {
    if (buffer === this.buffer || buffer === this.lastPart) return true;
    if (!this.isPart(buffer)) return false;
    this.lastPart = buffer;
    return true;
  }
  private lastPart: ArrayBufferLike | null = null;

  /** Address of an array; null if it lies outside. */
  inPlace(a: Numbers): number | null {
    return this.inside(a) ? a.byteOffset : null;
  }

  /** Address of an array, copied in if it lies outside. */
  address(a: Float32Array): number {
    if (this.inside(a)) return a.byteOffset;
    const at = this.take(a.byteLength);
    this.f32.set(a, at >> 2);
    return at;
  }

  /** Address of a source's first texel where the kernels read it in place; null if it lies outside. */
  placeOf({ data, offset }: StoredSource, channels: number): number | null {
    return this.inside(data) ? data.byteOffset + offset * channels * 2 : null;
  }

  /** Address of a copy of stored texels, one row behind the other. */
  copied({ data, offset, stride, width, rows }: StoredSource, channels: number): number {
    const first = offset * channels;
    const row = width * channels;
    if (width === stride) this.u16.set(data.subarray(first, first + rows * row), this.scratch >> 1);
    else
      for (let y = 0, to = this.scratch >> 1; y < rows; y++, to += row) {
        const from = first + y * stride * channels;
        this.u16.set(data.subarray(from, from + row), to);
      }
    return this.scratch;
  }

  /** Runs with temporary space; `out` comes back if it lay outside. */
  within(out: Float32Array, work: (address: number) => void): void {
    const before = this.top;
    const at = this.address(out);
    work(at);
    if (!this.inside(out)) out.set(this.f32.subarray(at >> 2, (at >> 2) + out.length));
    this.top = before;
  }

  /** The same for several. */
  withAll(outs: Float32Array[], work: (addresses: number[]) => void): void {
    const before = this.top;
    const at = outs.map((o) => this.address(o));
    work(at);
    outs.forEach((o, n) => !this.inside(o) && o.set(this.f32.subarray(at[n] >> 2, (at[n] >> 2) + o.length)));
    this.top = before;
  }

  /** Writes one number of 64 bits. */
  put64(at: number, value: number): void {
    this.f64[at >> 3] = value;
  }

  /** Address of `weights`, written behind `after` bytes of others. */
  putWeights(weights: Float32Array, after = 0): number {
    this.f32.set(weights, (this.weights + after) >> 2);
    return this.weights + after;
  }

  /** Address of a table that never changes. Throws where there are more of them than there is room. */
  table(table: Float32Array): number {
    const known = this.tables.get(table);
    if (known !== undefined) return known;
    const at = this.tablesEnd;
    if (at + table.byteLength > this.end + TABLES_BYTES) throw new Error(`No room for a table of ${table.length}`);
    this.f32.set(table, at >> 2);
    this.tables.set(table, at);
    this.tablesEnd = at + ((table.byteLength + 15) & ~15);
    return at;
  }
}
