/**
 * Texels in one memory that threads share (WebAssembly, growing up to 4 GiB): kernels read them where they lie, and a
 * message says where, not what. What nobody holds any more is used again.
 */
const PAGE = 65536;
/** Bytes that the memory grows by. */
const STEP = 16 << 20;
/** What another thread was told of before it may still be reading: freed texels are left alone for so long. */
const REST_MS = 1000;

/** Where texels lie. */
export interface TexelPlace {
  /** Bytes from the memory's start. */
  at: number;
  /** Numbers of 16 bits. */
  length: number;
}

interface Freed {
  at: number;
  since: number;
}

export class TexelHeap {
  private free = new Map<number, Freed[]>();
  private live = 0;
  private gone = new FinalizationRegistry<TexelPlace>((place) => this.release(place));

  /** Bytes behind `next` are the heap's. `now`: milliseconds. */
  constructor(
    readonly memory: WebAssembly.Memory,
    private next: number,
    private now: () => number,
  ) {}

  /** Bytes of texels that somebody holds. */
  get bytes(): number {
    return this.live;
  }

  /** Texels, zero; null when the memory is used up. */
  take(length: number): Uint16Array | null {
    const at = this.freed(length * 2) ?? this.fresh(length * 2);
    if (at === null) return null;
    const place = { at, length };
    const texels = viewAt(this.memory, place);
    this.live += length * 2;
    this.gone.register(texels, place);
    return texels;
  }

  /** Where texels lie, if it is here. */
  placeOf(texels: Uint16Array): TexelPlace | null {
    if (!isPartOf(this.memory, texels.buffer)) return null;
    return { at: texels.byteOffset, length: texels.length };
  }

  private release({ at, length }: TexelPlace): void {
    const size = length * 2;
    this.live -= size;
    const list = this.free.get(size);
    const freed = { at, since: this.now() };
    if (list) list.push(freed);
    else this.free.set(size, [freed]);
  }

  private freed(size: number): number | null {
    const list = this.free.get(size);
    if (!list?.length || list[0].since + REST_MS > this.now()) return null;
    const { at } = list.shift()!;
    viewAt(this.memory, { at, length: size / 2 }).fill(0);
    return at;
  }

  private grow(bytes: number): boolean {
    try {
      this.memory.grow(Math.ceil(bytes / PAGE));
    } catch {
      return false;
    }
    // Views weigh next to nothing: what the memory grew by is told to the collector by something as large, let go at once.
    void new ArrayBuffer(bytes);
    return true;
  }

  private fresh(size: number): number | null {
    const at = this.next;
    const missing = at + size - this.memory.buffer.byteLength;
    if (missing > 0 && !this.grow(Math.max(missing, STEP)) && !this.grow(missing)) return null;
    this.next = at + size;
    return at;
  }
}

/** The buffers that a memory has shown itself as; each time it grows there is another. */
const buffers = new WeakMap<WebAssembly.Memory, WeakSet<ArrayBufferLike>>();

/** Whether texels of this buffer lie in the memory. */
export const isPartOf = (memory: WebAssembly.Memory, buffer: ArrayBufferLike): boolean =>
  !(buffer instanceof ArrayBuffer) && (buffers.get(memory)?.has(buffer) ?? false);

/** Texels of another thread, by where they lie in the memory that both share. */
export function viewAt(memory: WebAssembly.Memory, { at, length }: TexelPlace): Uint16Array {
  // Growing by nothing brings what another thread made it grow to.
  if (memory.buffer.byteLength < at + length * 2) memory.grow(0);
  const buffer = memory.buffer as ArrayBufferLike;
  const known = buffers.get(memory);
  if (known) known.add(buffer);
  else buffers.set(memory, new WeakSet([buffer]));
  return new Uint16Array(buffer, at, length);
}
