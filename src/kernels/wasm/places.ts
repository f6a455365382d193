/** Places on the sides of a box, and pictures made larger (assembly/box.ts, enlarge.ts). */
import type { Arena } from '../arena';
import type { Kernels } from '../kernels';

type Numbers = (...args: number[]) => void;

export interface PlaceExports {
  boxPlaces: Numbers;
  enlargeRow: Numbers;
}

export function places(k: PlaceExports, arena: Arena): Pick<Kernels, 'boxPlaces' | 'enlarge'> {
  const { bytes, i32, u16 } = arena;
  return {
    boxPlaces: ({ face, position, normal }, shares, how, x, y, weight) => {
      const before = arena.mark();
      const n = face.length;
      const normals = arena.take(n * 3);
      new Int8Array(bytes.buffer).set(normal, normals);
      const faces = arena.take(n * 4);
      i32.set(face, faces >> 2);
      const settings = arena.take(80);
      new Float64Array(bytes.buffer, settings, 10).set(how);
      const counts = arena.take(16);
      arena.withAll([x, y, weight], ([ax, ay, aw]) =>
        k.boxPlaces(faces, arena.address(position), normals, arena.address(shares), n, settings, ax, ay, aw, counts),
      );
      const [a, b, c, alone] = i32.subarray(counts >> 2, (counts >> 2) + 4);
      arena.release(before);
      return [a, b, c, alone];
    },
    enlarge: (from, width, columns, rows, out) => {
      const before = arena.mark();
      const across = columns.left.length;
      const first = columns.left[0];
      const count = Math.min(width - 1, columns.left[across - 1] + 1) - first + 1;
      const last = from.length / 4 / width - 1;
      // Pixels are read two at a time, a pair may begin with the last one.
      const firstRow = rows.left[0];
      const lastRow = Math.min(last, rows.left[rows.left.length - 1] + 1);
      const picture = arena.take((lastRow - firstRow + 1) * width * 4 + 16);
      const between = arena.take(count * 8 + 32);
      const starts = arena.take(across * 4);
      const shares = arena.take(across * 16);
      const to = arena.take(across * 4);
      bytes.set(from.subarray(firstRow * width * 4, (lastRow + 1) * width * 4), picture);
      for (let x = 0; x < across; x++) {
        i32[(starts >> 2) + x] = columns.left[x] - first;
        const at = (shares >> 1) + x * 8;
        u16.fill(256 - columns.share[x], at, at + 4);
        u16.fill(columns.share[x], at + 4, at + 8);
      }
      for (let y = 0; y < rows.left.length; y++) {
        const upper = picture + ((rows.left[y] - firstRow) * width + first) * 4;
        const lower = picture + ((Math.min(last, rows.left[y] + 1) - firstRow) * width + first) * 4;
        k.enlargeRow(upper, lower, rows.share[y], count, between, starts, shares, across, to);
        out.set(bytes.subarray(to, to + across * 4), y * across * 4);
      }
      arena.release(before);
    },
  };
}
