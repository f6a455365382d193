/**
 * Room in one memory that threads share (WebAssembly, growing up to 4 GiB): kernels read what lies there in place, and a
 * message says where, not what. What nobody holds any more is used again. Each thread has heaps of its own.
 */
const PAGE = 65536;
/** Bytes that the memory grows by. */
const STEP = 16 << 20;
/** What another thread was told of before it may still be reading: freed texels are left alone for so long. */
export const REST_MS = 1000;

/** Where texels lie. */
export interface TexelPlace {
  /** Bytes from the memory's start. */
  at: number;
  /** Numbers of 16 bits. */
  length: number;
}

export type View = Float64Array | Uint16Array | Float32Array | Int32Array | Uint32Array | Int8Array | Uint8Array;
export interface ViewKind<T extends View> {
  readonly BYTES_PER_ELEMENT: number;
  new (buffer: ArrayBufferLike, at: number, length: number): T;
}

interface Room {
  at: number;
  bytes: number;
  /** Somebody had it before: it is not zero. */
  used: boolean;
}

interface Freed {
  at: number;
  since: number;
}

export interface HeapOptions {
  /** Bytes behind this, up to where the memory ends now, are the heap's too. */
  from?: number;
  /** Milliseconds, for resting. */
  now?: () => number;
  /** How long freed room is left alone. */
  restMs?: number;
  /** Bytes that it gives out at most. */
  budget?: number;
}

export class Heap {
  private free = new Map<number, Freed[]>();
  private live = 0;
  private gone = new FinalizationRegistry<Room>((room) => this.release(room));
  private next: number;
  private end: number;
  private readonly now: () => number;
  private readonly restMs: number;
  private readonly budget: number;

  constructor(
    readonly memory: WebAssembly.Memory,
    { from = memory.buffer.byteLength, now = () => 0, restMs = 0, budget = Infinity }: HeapOptions = {},
  ) {
    this.next = from;
    this.end = memory.buffer.byteLength;
    this.now = now;
    this.restMs = restMs;
    this.budget = budget;
  }

  /** Bytes that somebody holds. */
  get bytes(): number {
    return this.live;
  }

  /** Numbers of 16 bits, zero; null when there is no room. */
  texels(length: number): Uint16Array | null {
    const room = this.take(length * 2);
    if (!room) return null;
    const texels = this.watched(new Uint16Array(bufferOf(this.memory, room.at, room.bytes), room.at, length), room);
    return room.used ? texels.fill(0) : texels;
  }

  /** Float32, whatever they are; null when there is no room. */
  floats(length: number): Float32Array | null {
    return this.view(Float32Array, length);
  }

  /** Numbers of any kind, whatever they are; null when there is no room. */
  view<T extends View>(kind: ViewKind<T>, length: number): T | null {
    // Whole vectors: kernels read and write sixteen bytes at a time.
    const room = this.take((length * kind.BYTES_PER_ELEMENT + 15) & ~15);
    return room && this.watched(new kind(bufferOf(this.memory, room.at, room.bytes), room.at, length), room);
  }

  /** Where texels lie, if it is here. */
  placeOf(texels: Uint16Array): TexelPlace | null {
    if (!isPartOf(this.memory, texels.buffer)) return null;
    return { at: texels.byteOffset, length: texels.length };
  }

  private watched<T extends View>(view: T, room: Room): T {
    this.live += room.bytes;
    this.gone.register(view, room);
    return view;
  }

  private take(bytes: number): Room | null {
    if (this.live + bytes > this.budget) return null;
    this.tellCollector(bytes);
    const used = this.freed(bytes);
    const at = used ?? this.fresh(bytes);
    return at === null ? null : { at, bytes, used: used !== null };
  }

  /** Views weigh next to nothing: what they show is told to the collector by something as large, let go at once. */
  private tellCollector(bytes: number): void {
    this.untold += bytes;
    if (this.untold < STEP) return;
    this.untold = 0;
    void new ArrayBuffer(STEP);
  }
  private untold = 0;

  private release({ at, bytes }: Room): void {
    this.live -= bytes;
    const freed = { at, since: this.now() };
    const list = this.free.get(bytes);
    if (list) list.push(freed);
    else this.free.set(bytes, [freed]);
  }

  private freed(bytes: number): number | null {
    const list = this.free.get(bytes);
    if (!list?.length || list[0].since + this.restMs > this.now()) return null;
    return list.shift()!.at;
  }

  /** Where the memory ended before; null when it cannot grow. */
  private grow(bytes: number): number | null {
    const pages = Math.ceil(bytes / PAGE);
    try {
      const at = this.memory.grow(pages) * PAGE;
      // Another thread may have made it grow since: what was left of the piece before is given up.
      if (at !== this.end) this.next = at;
      this.end = at + pages * PAGE;
      return at;
    } catch {
      return null;
    }
  }

  private fresh(bytes: number): number | null {
    while (this.next + bytes > this.end) {
      const missing = this.next + bytes - this.end;
      if (this.grow(Math.max(missing, STEP)) === null && this.grow(missing) === null) return null;
    }
    const at = this.next;
    this.next = at + bytes;
    return at;
  }
}

/** The buffers that a memory has shown itself as; each time it grows there is another. */
const buffers = new WeakMap<WebAssembly.Memory, WeakSet<ArrayBufferLike>>();

/** Whether numbers of this buffer lie in the memory. */
export const isPartOf = (memory: WebAssembly.Memory, buffer: ArrayBufferLike): boolean =>
  !(buffer instanceof ArrayBuffer) && (buffers.get(memory)?.has(buffer) ?? false);

/** A buffer that shows the memory at least up to there. */
function bufferOf(memory: WebAssembly.Memory, at: number, bytes: number): ArrayBufferLike {
  // Growing by nothing brings what another thread made it grow to.
  if (memory.buffer.byteLength < at + bytes) memory.grow(0);
  const buffer = memory.buffer as ArrayBufferLike;
  const known = buffers.get(memory);
  if (known) known.add(buffer);
  else buffers.set(memory, new WeakSet([buffer]));
  return buffer;
}

/** Texels of another thread, by where they lie in the memory that both share. */
export const viewAt = (memory: WebAssembly.Memory, { at, length }: TexelPlace): Uint16Array =>
  new Uint16Array(bufferOf(memory, at, length * 2), at, length);
