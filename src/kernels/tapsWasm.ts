/** Reading placed pictures in WebAssembly SIMD (assembly/taps.ts). Pictures are copied into its memory once and stay. */
import {
  MOST_READS,
  MOST_TAPS,
  TABLE_BINS,
  TILE_TEXELS,
  TURNS,
  type Pixels,
  type Places,
  type Reads,
  type TapKernels,
  type TapSet,
  type TapViews,
} from './taps';
import { tapsTwin } from './tapsTwin';

type Numbers = (...args: number[]) => number;
interface Exports {
  addPlain: Numbers;
  addPatches: Numbers;
  readValues: Numbers;
  readColours: Numbers;
}

const PAGE = 65536;
const TURNS_AT = 4096;
const MATRIX_AT = 6144;
const TABLES_AT = 8192;
const PLACES_AT = PAGE;
const PLANE = TILE_TEXELS * 4;
const OUT_AT = PLACES_AT + 3 * PLANE;
const SETS_AT = OUT_AT + 3 * PLANE;
/** Bytes of a set's arrays, in the order of TapViews. */
const SET_PARTS = [...[4, 4, 4, 4 * MOST_READS, 16 * MOST_READS, 4 * MOST_READS].map((b) => b * MOST_TAPS), 4 * TILE_TEXELS];
const SET_BYTES = SET_PARTS.reduce((a, b) => a + b);
const MOST_SETS = 4;
const PIXELS_AT = SETS_AT + MOST_SETS * SET_BYTES;
/** 768 MiB, as the module is built (cli/kernels.ts): when they are used up, all pictures are let go and come again. */
const MOST_PAGES = 12288;

class WasmTaps implements TapSet {
  count = 0;
  reads: Reads = 1;
  readonly parts: number[];

  constructor(
    private readonly memory: WebAssembly.Memory,
    base: number,
  ) {
    let at = base;
    this.parts = SET_PARTS.map((bytes) => (at += bytes) - bytes);
  }

  views(): TapViews {
    const { buffer } = this.memory;
    const [texel, share, scale, at, weights, turn, seen] = this.parts;
    return {
      texel: new Int32Array(buffer, texel, MOST_TAPS),
      share: new Float32Array(buffer, share, MOST_TAPS),
      scale: new Float32Array(buffer, scale, MOST_TAPS),
      at: new Int32Array(buffer, at, MOST_TAPS * MOST_READS),
      weights: new Float32Array(buffer, weights, MOST_TAPS * MOST_READS * 4),
      turn: new Int32Array(buffer, turn, MOST_TAPS * MOST_READS),
      seen: new Float32Array(buffer, seen, TILE_TEXELS),
    };
  }
}

export function tapsWasm(base64: string): TapKernels {
  const binary = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
  const memory = new WebAssembly.Memory({ initial: Math.ceil(PIXELS_AT / PAGE), maximum: MOST_PAGES });
  const instance = new WebAssembly.Instance(new WebAssembly.Module(binary), { env: { memory, abort: () => {} } });
  const k = instance.exports as unknown as Exports;
  const twin = tapsTwin();
  let sets = 0;
  let top = PIXELS_AT;
  let resident = new WeakMap<Pixels, number>();
  let f32 = new Float32Array(memory.buffer);
  const floats = () => (f32.buffer === memory.buffer ? f32 : (f32 = new Float32Array(memory.buffer)));
  floats().set(TURNS, TURNS_AT >> 2);

  /** Whether `bytes` more fit, the memory grown as needed. */
  const fits = (bytes: number): boolean => {
    const missing = Math.ceil((top + bytes - memory.buffer.byteLength) / PAGE);
    if (missing <= 0) return true;
    if (memory.buffer.byteLength / PAGE + missing > MOST_PAGES) return false;
    try {
      memory.grow(missing);
      return true;
    } catch {
      return false;
    }
  };
  /** Address of pixels; 0: there is no memory for them. */
  const address = (pixels: Pixels): number => {
    const known = resident.get(pixels);
    if (known !== undefined) return known;
    // Reads of four pixels go a little beyond the last one.
    const bytes = (pixels.length * 2 + 31) & ~15;
    if (!fits(bytes)) {
      resident = new WeakMap();
      top = PIXELS_AT;
      if (!fits(bytes)) return 0;
    }
    const at = top;
    pixels.fill(new Int16Array(memory.buffer, at, pixels.length));
    top += bytes;
    resident.set(pixels, at);
    return at;
  };
  const place = ({ x, y, weight }: Places): number[] => {
    const f = floats();
    f.set(x, PLACES_AT >> 2);
    f.set(y, (PLACES_AT + PLANE) >> 2);
    if (weight) f.set(weight, (PLACES_AT + 2 * PLANE) >> 2);
    return [PLACES_AT, PLACES_AT + PLANE, weight ? PLACES_AT + 2 * PLANE : 0, x.length];
  };
  const read = (table: Float32Array | null, out: Float32Array, work: (tableAt: number) => void) => {
    const f = floats();
    f.fill(0, OUT_AT >> 2, (OUT_AT >> 2) + out.length);
    if (table) f.set(table, TABLES_AT >> 2);
    work(table ? TABLES_AT : 0);
    out.set(f.subarray(OUT_AT >> 2, (OUT_AT >> 2) + out.length));
  };
  const head = (set: TapSet) => [...(set as WasmTaps).parts.slice(0, 5), set.count, set.reads];

  return {
    tapSet: () => {
      if (sets === MOST_SETS) throw new Error(`There are ${MOST_SETS} tap sets already`);
      return new WasmTaps(memory, SETS_AT + sets++ * SET_BYTES);
    },
    clearTaps: twin.clearTaps,
    addPlain: (set, places, width, height) => {
      const [texel, share, scale, at, weights, , seen] = (set as WasmTaps).parts;
      set.count = k.addPlain(...place(places), width, height, texel, share, scale, at, weights, seen, set.count);
    },
    addPatches: (set, places, width, height, { cells, per, strength }) => {
      const { parts } = set as WasmTaps;
      const grid = [...cells, ...per, strength, TURNS_AT];
      set.count = k.addPatches(...place(places), width, height, ...grid, ...parts, set.count);
    },
    readValues: (set, pixels, down, finish, out) => {
      const at = address(pixels);
      if (at === 0) return twin.readValues(set, pixels, down, finish, out);
      read(finish.table, out, (table) =>
        k.readValues(...head(set), at, down * 2, table, TABLE_BINS, finish.steps, finish.by, finish.lift, OUT_AT),
      );
    },
    readColours: (set, pixels, down, finish, out) => {
      const at = address(pixels);
      if (at === 0) return twin.readColours(set, pixels, down, finish, out);
      floats().set(finish.matrix, MATRIX_AT >> 2);
      read(finish.table, out.subarray(0, 3 * TILE_TEXELS), (table) =>
        k.readColours(...head(set), at, down * 8, table, TABLE_BINS, finish.steps, MATRIX_AT, OUT_AT, PLANE),
      );
    },
    pixelsOf: (pixels) => {
      const at = address(pixels);
      return at === 0 ? twin.pixelsOf(pixels) : new Int16Array(memory.buffer, at, pixels.length);
    },
  };
}
