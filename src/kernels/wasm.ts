/** The kernels in WebAssembly SIMD (assembly/, built into build/wasm.ts as base64 so that they load at once everywhere). */
import { MOST_OCTAVES, type Kernels, type Octave } from './kernels';
import { tapsWasm } from './tapsWasm';

interface Exports {
  blendColour(
    mode: number,
    opaque: number,
    acc: number,
    src: number,
    n: number,
    opacity: number,
    mask: number,
    plane: number,
  ): void;
  blendValue: Exports['blendColour'];
  blendFloat(
    mode: number,
    opaque: number,
    acc: number,
    src: number,
    n: number,
    opacity: number,
    mask: number,
    channels: number,
  ): void;
  maskValues(out: number, src: number, n: number, ground: number, invert: number): void;
  lerpPlanes(acc: number, other: number, n: number, planes: number, amount: number, mask: number): void;
  blur(
    first: number,
    stride: number,
    step: number,
    width: number,
    height: number,
    side: number,
    radius: number,
    out: number,
  ): void;
  decimateX(...args: number[]): void;
  decimateY(...args: number[]): void;
  refineX(...args: number[]): void;
  refineY(...args: number[]): void;
  toUint16(out: number, src: number, count: number): void;
  throughTable(data: number, count: number, table: number): void;
  affine(out: number, source: number, count: number, base: number, span: number): void;
  boxPlaces(...args: number[]): void;
  liftRow(...args: number[]): void;
  distanceRow(...args: number[]): void;
  enlargeRow(...args: number[]): void;
  interleave16(out: number, src: number, n: number): void;
  noiseFractal(out: number, x: number, y: number, z: number, n: number, octaves: number, count: number, mode: number): void;
  noiseHash(out: number, x: number, y: number, z: number, n: number, octave: number): void;
  noiseCells(
    near: number,
    edge: number,
    id: number,
    x: number,
    y: number,
    z: number,
    n: number,
    octave: number,
    jitter: number,
    flat: number,
  ): void;
  reliefNormals(
    field: number,
    stride: number,
    width: number,
    height: number,
    weights: number,
    radius: number,
    rows: number,
    out: number,
    plane: number,
  ): void;
}

/**
 * 96 MiB, fixed, since growing would cut off all views; untouched pages cost nothing. A frame of the evaluator
 * takes 256 KiB an isolated group; 33 nested groups with masks, an echo of each, and a blur's window of σ = 256
 * (1.7 MiB a plane) stay under 40 MiB.
 */
const PAGES = 1536;
/** The first MiB is for sources that lie outside (a tile of RGBA is 128 KiB), from 16 KiB before its end for constants (cli/kernels.ts), then for weights. */
const SCRATCH_BYTES = 1 << 20;
const WEIGHTS_AT = SCRATCH_BYTES - 8192;
/** At the end: tables of 65,536 float32, the last few that were asked for. */
const TABLES = 8;
const TABLE_BYTES = 65536 * 4;
const TABLES_AT = PAGES * 65536 - TABLES * TABLE_BYTES;
const FRACTAL_MODES = ['plain', 'ridges', 'billows'];

/** 16 KiB of RGBA: half of a first-level cache. */
const CHUNK_TEXELS = 2048;

export function wasmKernels(base64: string, tapsBase64: string): Kernels {
  const binary = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
  const memory = new WebAssembly.Memory({ initial: PAGES, maximum: PAGES });
  const instance = new WebAssembly.Instance(new WebAssembly.Module(binary), { env: { memory, abort: () => {} } });
  const k = instance.exports as unknown as Exports;
  const { buffer } = memory;
  const u16 = new Uint16Array(buffer);
  const i32 = new Int32Array(buffer);
  const f32 = new Float32Array(buffer);
  const end = TABLES_AT;
  const tables: Float32Array[] = [];
  let nextTable = 0;
  let top = SCRATCH_BYTES;

  const take = (bytes: number): number => {
    const at = top;
    top = (top + bytes + 15) & ~15;
    if (top > end) throw new Error(`The kernels' arena of ${end} bytes is full`);
    return at;
  };
  const inside = (a: Float32Array) => a.buffer === buffer && (a.byteOffset & 15) === 0;
  /** Address of an array, copied in if it lies outside. */
  const address = (a: Float32Array): number => {
    if (inside(a)) return a.byteOffset;
    const at = take(a.byteLength);
    f32.set(a, at >> 2);
    return at;
  };
  const stored = (s: { data: Uint16Array; offset: number; stride: number; width: number; rows: number }, channels: number) => {
    const row = s.width * channels;
    if (s.width === s.stride) u16.set(s.data.subarray(s.offset * channels, (s.offset + s.width * s.rows) * channels), 0);
    else
      for (let y = 0; y < s.rows; y++) {
        const from = (s.offset + y * s.stride) * channels;
        u16.set(s.data.subarray(from, from + row), y * row);
      }
    return 0;
  };
  /** Runs with temporary space; `out` comes back if it lay outside. */
  const within = (out: Float32Array, work: (address: number) => void) => {
    const before = top;
    const at = address(out);
    work(at);
    if (!inside(out)) out.set(f32.subarray(at >> 2, (at >> 2) + out.length));
    top = before;
  };

  /** Octaves as records (assembly/noise.ts) where the weights of blurs lie else. */
  const octavesAt = (octaves: readonly Octave[]): number => {
    if (octaves.length > MOST_OCTAVES) throw new Error(`${octaves.length} octaves are more than ${MOST_OCTAVES}`);
    octaves.forEach((o, n) => {
      const at = (WEIGHTS_AT >> 2) + n * 8;
      f32.set([o.fx, o.fy, o.fz], at);
      i32.set([o.px, o.py, o.pz], at + 3);
      f32[at + 6] = o.amplitude;
      i32[at + 7] = o.seed;
    });
    return WEIGHTS_AT;
  };
  /** Each array's address, and after the work what was written to those that lie outside. */
  const withAll = (outs: Float32Array[], work: (addresses: number[]) => void) => {
    const before = top;
    const at = outs.map(address);
    work(at);
    outs.forEach((o, n) => !inside(o) && o.set(f32.subarray(at[n] >> 2, (at[n] >> 2) + o.length)));
    top = before;
  };

  return {
    name: 'wasm',
    pictures: tapsWasm(tapsBase64),
    noiseFractal: (out, x, y, z, octaves, mode) =>
      within(out, (at) =>
        k.noiseFractal(
          at,
          address(x),
          address(y),
          z ? address(z) : 0,
          out.length,
          octavesAt(octaves),
          octaves.length,
          FRACTAL_MODES.indexOf(mode),
        ),
      ),
    noiseHash: (out, x, y, z, octave) =>
      within(out, (at) => k.noiseHash(at, address(x), address(y), address(z), out.length, octavesAt([octave]))),
    noiseCells: (near, edge, id, x, y, z, octave, jitter, flat) =>
      withAll(edge ? [near, id, edge] : [near, id], ([a, c, b]) =>
        k.noiseCells(a, b ?? 0, c, address(x), address(y), address(z), near.length, octavesAt([octave]), jitter, flat ? 1 : 0),
      ),
    normals: (field, width, height, smooth, slope, out) =>
      within(out, (at) => {
        f32.set(smooth, WEIGHTS_AT >> 2);
        f32.set(slope, (WEIGHTS_AT >> 2) + smooth.length);
        const radius = (smooth.length - 1) / 2;
        const across = width + 2 * radius;
        const rows = take(across * 8);
        k.reliefNormals(address(field), across * 4, width, height, WEIGHTS_AT, radius, rows, at, width * height * 4);
      }),
    mark: () => top,
    release: (mark) => void (top = mark),
    floats: (count) => new Float32Array(buffer, take(count * 4), count),
    blendStored: (acc, channels, source, mode, opacity, mask, opaque) =>
      within(acc, (at) => {
        const { width, rows } = source;
        const plane = width * rows * 4;
        const m = mask ? address(mask) : 0;
        const blend = channels === 3 ? k.blendColour : k.blendValue;
        // A few rows at a time: what was copied in is still in the nearest cache when it is read.
        const step = Math.max(1, Math.floor(CHUNK_TEXELS / width));
        for (let y = 0; y < rows; y += step) {
          const part = { ...source, offset: source.offset + y * source.stride, rows: Math.min(step, rows - y) };
          const skip = y * width * 4;
          stored(part, channels + 1);
          blend(mode, opaque ? 1 : 0, at + skip, 0, width * part.rows, opacity, m && m + skip, plane);
        }
      }),
    blendFloat: (acc, channels, source, texels, mode, opacity, mask, opaque) =>
      within(acc, (at) =>
        k.blendFloat(mode, opaque ? 1 : 0, at, address(source), texels, opacity, mask ? address(mask) : 0, channels),
      ),
    maskValues: (out, source, ground, invert) =>
      within(out, (at) => k.maskValues(at, stored(source, 2), source.width * source.rows, ground, invert ? 1 : 0)),
    lerp: (acc, other, texels, planes, amount, mask) =>
      within(acc, (at) => k.lerpPlanes(at, address(other), texels, planes, amount, mask ? address(mask) : 0)),
    blur: (source, width, height, side, axis, out) =>
      within(out, (at) => {
        f32.set(side, WEIGHTS_AT >> 2);
        const radius = side.length - 1;
        const stride = (axis === 'x' ? width + 2 * radius : width) * 4;
        const step = axis === 'x' ? 4 : stride;
        k.blur(address(source) + radius * step, stride, step, width, height, WEIGHTS_AT, radius, at);
      }),
    interleave16: (planes, texels, out) => {
      const before = top;
      const to = take(texels * 6 + 16);
      k.interleave16(to, address(planes), texels);
      out.set(u16.subarray(to >> 1, (to >> 1) + texels * 3));
      top = before;
    },
    blurWide: (source, width, height, { factor, decimate, side, period, step, taps, table }, axis, out) =>
      within(out, (at) => {
        const long = axis === 'x' ? width : height;
        const radius = side.length - 1;
        // Two more samples on each side for coming back.
        const inner = long / factor + 4;
        const count = inner + 2 * radius;
        const from = address(source);
        const weights = address(decimate);
        const back = address(table);
        f32.set(side, WEIGHTS_AT >> 2);
        if (axis === 'x') {
          const samples = take(count * height * 4);
          const soft = take(inner * height * 4);
          k.decimateX(from, (source.length / height) * 4, height, count, factor, weights, samples);
          k.blur(samples + radius * 4, count * 4, 4, inner, height, WEIGHTS_AT, radius, soft);
          k.refineX(soft, inner * 4, height, width, period, step, taps, back, at);
        } else {
          const row = width * 4;
          const samples = take(count * row);
          const soft = take(inner * row);
          k.decimateY(from, width, count, factor, weights, samples);
          k.blur(samples + radius * row, row, row, width, inner, WEIGHTS_AT, radius, soft);
          k.refineY(soft, width, height, period, step, taps, back, at);
        }
      }),
    affine: (out, source, base, span) => within(out, (at) => k.affine(at, address(source), out.length, base, span)),
    throughTable: (data, table) =>
      within(data, (at) => {
        let known = tables.findIndex((t) => t === table);
        if (known < 0) {
          known = nextTable++ % TABLES;
          tables[known] = table;
          f32.set(table, (TABLES_AT + known * TABLE_BYTES) >> 2);
        }
        // Memory is taken in fours, so a few more do no harm.
        k.throughTable(at, (data.length + 3) & ~3, TABLES_AT + known * TABLE_BYTES);
      }),
    distanceRows: (rows, width, far, none) => {
      const before = top;
      // In fours: what is too much stays out of the way.
      const wide = ((width + 3) & ~3) * 4;
      const [below, at] = [take(wide), take(wide)];
      const parabolas = take((width + 1) * 24);
      const row = f32.subarray(at >> 2, (at >> 2) + width);
      f32.fill(far, below >> 2, (at + wide) >> 2);
      for (let y = rows.length - width; y >= 0; y -= width) {
        row.set(rows.subarray(y, y + width));
        k.liftRow(at, below, width);
        f32.copyWithin(below >> 2, at >> 2, (at + wide) >> 2);
        k.distanceRow(at, width, far, none, parabolas);
        rows.set(row, y);
      }
      top = before;
    },
    boxPlaces: ({ face, position, normal }, shares, how, x, y, weight) => {
      const before = top;
      const n = face.length;
      const normals = take(n * 3);
      new Int8Array(buffer).set(normal, normals);
      const faces = take(n * 4);
      i32.set(face, faces >> 2);
      const settings = take(80);
      new Float64Array(buffer, settings, 10).set(how);
      const counts = take(16);
      withAll([x, y, weight], ([ax, ay, aw]) =>
        k.boxPlaces(faces, address(position), normals, address(shares), n, settings, ax, ay, aw, counts),
      );
      const [a, b, c, alone] = i32.subarray(counts >> 2, (counts >> 2) + 4);
      top = before;
      return [a, b, c, alone];
    },
    enlarge: (from, width, columns, rows, out) => {
      const before = top;
      const across = columns.left.length;
      const first = columns.left[0];
      const count = Math.min(width - 1, columns.left[across - 1] + 1) - first + 1;
      const last = from.length / 4 / width - 1;
      // Pixels are read two at a time, a pair may begin with the last one.
      const firstRow = rows.left[0];
      const lastRow = Math.min(last, rows.left[rows.left.length - 1] + 1);
      const picture = take((lastRow - firstRow + 1) * width * 4 + 16);
      const between = take(count * 8 + 32);
      const places = take(across * 4);
      const shares = take(across * 16);
      const to = take(across * 4);
      const bytes = new Uint8Array(buffer);
      bytes.set(from.subarray(firstRow * width * 4, (lastRow + 1) * width * 4), picture);
      for (let x = 0; x < across; x++) {
        i32[(places >> 2) + x] = columns.left[x] - first;
        const at = (shares >> 1) + x * 8;
        u16.fill(256 - columns.share[x], at, at + 4);
        u16.fill(columns.share[x], at + 4, at + 8);
      }
      for (let y = 0; y < rows.left.length; y++) {
        const upper = picture + ((rows.left[y] - firstRow) * width + first) * 4;
        const lower = picture + ((Math.min(last, rows.left[y] + 1) - firstRow) * width + first) * 4;
        k.enlargeRow(upper, lower, rows.share[y], count, between, places, shares, across, to);
        out.set(bytes.subarray(to, to + across * 4), y * across * 4);
      }
      top = before;
    },
    toUint16: (source, out) => {
      const before = top;
      const whole = source.length & ~7;
      const to = take(source.length * 2);
      k.toUint16(to, address(source), whole);
      out.set(u16.subarray(to >> 1, (to >> 1) + whole));
      for (let i = whole; i < source.length; i++) out[i] = Math.min(1, Math.max(0, source[i])) * 65535 + 0.5;
      top = before;
    },
  };
}
