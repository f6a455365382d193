/** Filters that look around, straight lines, colours, slopes and distances (assembly/blur.ts, wide.ts, affine.ts, oklab.ts, relief.ts, distance.ts). */
import type { Arena } from '../arena';
import type { Kernels } from '../kernels';

type Numbers = (...args: number[]) => void;

export interface FilterExports {
  blur: Numbers;
  decimateX: Numbers;
  decimateY: Numbers;
  refineX: Numbers;
  refineY: Numbers;
  affine(out: number, source: number, count: number, base: number, span: number, held: number): void;
  turnInOklab: Numbers;
  reliefNormals: Numbers;
  liftRow: Numbers;
  distanceRow: Numbers;
}

type Filters = Pick<Kernels, 'blur' | 'blurWide' | 'affine' | 'turnInOklab' | 'normals' | 'distanceRows'>;

export function filters(k: FilterExports, arena: Arena): Filters {
  const { f32 } = arena;
  return {
    normals: (field, width, height, smooth, slope, out) =>
      arena.within(out, (at) => {
        const weights = arena.putWeights(smooth);
        arena.putWeights(slope, smooth.byteLength);
        const radius = (smooth.length - 1) / 2;
        const across = width + 2 * radius;
        const rows = arena.take(across * 8);
        k.reliefNormals(arena.address(field), across * 4, width, height, weights, radius, rows, at, width * height * 4);
      }),
    blur: (source, width, height, side, axis, out) =>
      arena.within(out, (at) => {
        const weights = arena.putWeights(side);
        const radius = side.length - 1;
        const stride = (axis === 'x' ? width + 2 * radius : width) * 4;
        const step = axis === 'x' ? 4 : stride;
        k.blur(arena.address(source) + radius * step, stride, step, width, height, weights, radius, at);
      }),
    blurWide: (source, width, height, { factor, decimate, side, period, step, taps, table }, axis, out) =>
      arena.within(out, (at) => {
        const long = axis === 'x' ? width : height;
        const radius = side.length - 1;
        // Two more samples on each side for coming back.
        const inner = long / factor + 4;
        const count = inner + 2 * radius;
        const from = arena.address(source);
        const weights = arena.address(decimate);
        const back = arena.address(table);
        const own = arena.putWeights(side);
        if (axis === 'x') {
          const samples = arena.take(count * height * 4);
          const soft = arena.take(inner * height * 4);
          k.decimateX(from, (source.length / height) * 4, height, count, factor, weights, samples);
          k.blur(samples + radius * 4, count * 4, 4, inner, height, own, radius, soft);
          k.refineX(soft, inner * 4, height, width, period, step, taps, back, at);
        } else {
          const row = width * 4;
          const samples = arena.take(count * row);
          const soft = arena.take(inner * row);
          k.decimateY(from, width, count, factor, weights, samples);
          k.blur(samples + radius * row, row, row, width, inner, own, radius, soft);
          k.refineY(soft, width, height, period, step, taps, back, at);
        }
      }),
    affine: (out, source, base, span, held = false) =>
      arena.within(out, (at) => k.affine(at, arena.address(source), out.length, base, span, held ? 1 : 0)),
    turnInOklab: (data, texels, { lift, turn, tint, roomy }, { toLinear, toSrgb }) =>
      arena.within(data, (at) => {
        const how = arena.putWeights(Float32Array.of(lift, ...turn[0], ...turn[1], ...tint, roomy ? 1 : 0));
        const steps = [toLinear, toSrgb].map((t) => t.length - 2);
        k.turnInOklab(at, texels, how, arena.table(toLinear), steps[0], arena.table(toSrgb), steps[1]);
      }),
    distanceRows: (rows, width, far, none) => {
      const before = arena.mark();
      // In fours: what is too much stays out of the way.
      const wide = ((width + 3) & ~3) * 4;
      const [below, at] = [arena.take(wide), arena.take(wide)];
      const parabolas = arena.take((width + 1) * 24);
      const row = f32.subarray(at >> 2, (at >> 2) + width);
      f32.fill(far, below >> 2, (at + wide) >> 2);
      for (let y = rows.length - width; y >= 0; y -= width) {
        row.set(rows.subarray(y, y + width));
        k.liftRow(at, below, width);
        f32.copyWithin(below >> 2, at >> 2, (at + wide) >> 2);
        k.distanceRow(at, width, far, none, parabolas);
        rows.set(row, y);
      }
      arena.release(before);
    },
  };
}
