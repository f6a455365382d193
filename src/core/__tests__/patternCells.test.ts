/**
 * Patterns against lists of cells: each pattern is laid out here as rectangles, six-sided cells, shingles, strands or circles by its
 * definition, and the cell of a place is found by a search through all of them. Lengths are in cell heights.
 */
import { SOURCES, type MadeOf } from '../kinds/sources';
import type { Field } from '../kinds/sources/source';
import { seededRandom } from '../testing/models';

/** The cell that a place lies in and its distance to the cell's outline, without any gap; null: in none. */
type Search = (x: number, y: number) => { cell: string; inside: number } | null;

const PLACES = 1 << 17;
/** Places this close to an edge are skipped: rounding to float32 may put them on either side of it. */
const NEAR = 1e-3;
const mod = (a: number, n: number): number => ((a % n) + n) % n;

function field(period: readonly [number, number], seed: number, reach = 2): Field {
  const random = seededRandom(seed);
  const along = () => Float32Array.from({ length: PLACES }, () => (random() - 0.5) * 2 * reach);
  return { n: PLACES, x: along(), y: along(), z: new Float32Array(PLACES), flat: true, period, texel: 1e-6, below: null };
}

type Pattern = Extract<
  keyof typeof SOURCES,
  'bricks' | 'checks' | 'stripes' | 'hexagons' | 'dots' | 'scales' | 'weave' | 'rings'
>;
function filled<P extends Pattern>(type: P, over: Partial<MadeOf<P>>, at: Field): Float32Array {
  const def = SOURCES[type] as unknown as { start: object; fill: (p: object, field: Field, out: Float32Array) => void };
  const out = new Float32Array(at.n);
  def.fill({ ...def.start, ...over }, at, out);
  return out;
}

/** Which cell, how far inside and how high: all that a pattern shows is compared with the search. */
function agrees<P extends Pattern>(type: P, over: Partial<MadeOf<P>>, period: readonly [number, number], search: Search): void {
  const at = field(period, 7);
  const [gap, bevel] = [0.06, 0.2];
  const all = { ...over, gap, bevel, vary: 0, tilt: 0, wobble: 0, seed: 3 } as Partial<MadeOf<P>>;
  const [gaps, tones, relief] = (['gaps', 'tones', 'relief'] as const).map((show) => filled(type, { ...all, show }, at));
  const toneOf = new Map<string, number>();
  let wrong = 0;
  let covered = 0;
  for (let i = 0; i < at.n; i++) {
    const found = search(at.x[i], at.y[i]);
    const inside = (found?.inside ?? -1) - gap;
    if (Math.abs(inside) < NEAR) continue;
    if (gaps[i] !== (inside > 0 ? 0 : 1)) wrong++;
    if (inside <= 0) {
      if (tones[i] !== 0 || relief[i] !== 0) wrong++;
      continue;
    }
    covered++;
    // A quarter of a circle from the gap to the top.
    const t = Math.min(1, inside / bevel);
    if (Math.abs(relief[i] - Math.sqrt(1 - (1 - t) ** 2)) > 2e-2) wrong++;
    const known = toneOf.get(found!.cell);
    if (known === undefined) toneOf.set(found!.cell, tones[i]);
    else if (known !== tones[i]) wrong++;
  }
  expect(wrong).toBe(0);
  expect(covered).toBeGreaterThan(at.n / 10);
  // Each cell has a tone of its own.
  expect(new Set(toneOf.values()).size).toBeGreaterThanOrEqual(toneOf.size * 0.99);
}

/** Distance inside a rectangle. */
const insideRect = (x: number, y: number, [x0, x1, y0, y1]: readonly [number, number, number, number]): number =>
  Math.min(x - x0, x1 - x, y - y0, y1 - y);

describe('bricks', () => {
  // Twelve rows a repeat, bricks 2 heights long: six a repeat.
  const rows = 12;
  const shiftOf = { stack: [0], half: [0, 0.5], third: [0, 1 / 3, 2 / 3] } as const;
  test.each(['stack', 'half', 'third'] as const)('%s: every course is shifted as the bond says', (bond) => {
    const shifts = shiftOf[bond];
    for (const period of [
      [1, 1],
      [0, 0],
      [2, 1],
    ] as const)
      agrees('bricks', { rows, aspect: 2, bond, uneven: 0, round: 0 }, period, (x, y) => {
        const [px, py] = [x * rows, y * rows];
        for (let row = -30; row <= 30; row++) {
          if (py < row || py >= row + 1) continue;
          for (let n = -20; n <= 20; n++) {
            const start = (n - shifts[mod(row, shifts.length)]) * 2;
            const inside = insideRect(px, py, [start, start + 2, row, row + 1]);
            if (inside < 0) continue;
            const cell = [period[0] ? mod(n, 6 * period[0]) : n, period[1] ? mod(row, rows * period[1]) : row];
            return { cell: cell.join(), inside };
          }
        }
        return null;
      });
  });

  test('basket: two lying, two upright, in turn', () => {
    agrees('bricks', { rows, aspect: 2, bond: 'basket', round: 0 }, [1, 1], (x, y) => {
      // Blocks of two by two heights.
      const [px, py] = [x * rows, y * rows];
      for (let column = -14; column <= 14; column++)
        for (let row = -14; row <= 14; row++) {
          if (px < column * 2 || px >= column * 2 + 2 || py < row * 2 || py >= row * 2 + 2) continue;
          for (const half of [0, 1]) {
            const [x0, y0] = [column * 2, row * 2];
            const upright = mod(column + row, 2) === 1;
            const rect = upright
              ? ([x0 + half, x0 + half + 1, y0, y0 + 2] as const)
              : ([x0, x0 + 2, y0 + half, y0 + half + 1] as const);
            const inside = insideRect(px, py, rect);
            if (inside >= 0) return { cell: `${mod(column, 6)},${mod(row, 6)},${half}`, inside };
          }
        }
      return null;
    });
  });

  test('round corners: the distance is that to an outline of arcs and straight lines', () => {
    const [gap, halfX, halfY, round] = [0.06, 1 - 0.06, 0.5 - 0.06, 0.5];
    const r = round * halfY;
    const outline: [number, number][] = [];
    for (let n = 0; n < 4000; n++) {
      const angle = (n / 4000) * 2 * Math.PI;
      const [cx, cy] = [Math.sign(Math.cos(angle)) * (halfX - r), Math.sign(Math.sin(angle)) * (halfY - r)];
      outline.push([cx + r * Math.cos(angle), cy + r * Math.sin(angle)]);
      const along = (n / 4000) * 2 - 1;
      outline.push([along * (halfX - r), halfY], [along * (halfX - r), -halfY]);
      outline.push([halfX, along * (halfY - r)], [-halfX, along * (halfY - r)]);
    }
    const n = 400;
    const random = seededRandom(2);
    const at: Field = {
      ...field([0, 0], 1),
      ...{ n, x: Float32Array.from({ length: n }, () => random() * 2), y: Float32Array.from({ length: n }, random) },
    };
    const look = { gap, bevel: 1, vary: 0, tilt: 0, wobble: 0, show: 'relief' as const };
    const out = filled('bricks', { rows: 1, aspect: 2, bond: 'stack', uneven: 0, round, ...look }, at);
    for (let i = 0; i < n; i++) {
      const [px, py] = [at.x[i] - 1, at.y[i] - 0.5];
      const nearest = Math.min(...outline.map(([ox, oy]) => Math.hypot(px - ox, py - oy)));
      if (nearest < 0.01) continue;
      // Outside where the nearest corner's centre says so: the rectangle less its corners.
      const [qx, qy] = [Math.abs(px) - (halfX - r), Math.abs(py) - (halfY - r)];
      const isOut = Math.abs(px) > halfX || Math.abs(py) > halfY || (qx > 0 && qy > 0 && qx * qx + qy * qy > r * r);
      expect(out[i]).toBeCloseTo(isOut ? 0 : Math.sqrt(1 - (1 - Math.min(1, nearest)) ** 2), 2);
    }
  });

  test('uneven bricks fill their course without a hole or an overlap, and none is longer than one and its unevenness', () => {
    const n = 4096;
    const period = [1, 1] as const;
    const x = Float32Array.from({ length: n }, (_, i) => (i + 0.37) / n);
    const look = { vary: 0, tilt: 0, wobble: 0, gap: 0, bevel: 0, round: 0, show: 'tones' as const };
    for (let row = 0; row < 12; row++) {
      const at: Field = { ...field(period, 1), n, x, y: new Float32Array(n).fill((row + 0.5) / 12) };
      const tones = filled('bricks', { rows: 12, aspect: 2, bond: 'half', uneven: 0.6, ...look }, at);
      // Lengths of runs of one tone, round the repeat; a place on an edge itself has a share of both.
      const starts = [...tones.keys()].filter((i) => tones[i] !== tones[mod(i - 1, n)] && tones[i] === tones[mod(i + 1, n)]);
      expect(starts).toHaveLength(6);
      for (const [k, start] of starts.entries()) {
        const length = mod((starts[k + 1] ?? starts[0]) - start, n) / (n / 6);
        expect(length).toBeGreaterThan(1 - 0.6 - 0.01);
        expect(length).toBeLessThan(1 + 0.6 + 0.01);
      }
    }
  });
});

test('stripes, checks and dots', () => {
  agrees('stripes', { count: 9, fill: 0.7 }, [1, 1], (_x, y) => {
    const row = Math.floor(y * 9);
    return { cell: `${mod(row, 9)}`, inside: 0.35 - Math.abs(y * 9 - row - 0.5) };
  });
  agrees('dots', { count: 8, size: 0.4, bond: 'offset' }, [1, 1], (x, y) => {
    for (let row = Math.floor(y * 8) - 1; row <= y * 8 + 1; row++)
      for (let n = Math.floor(x * 8) - 2; n <= x * 8 + 2; n++) {
        const inside = 0.4 - Math.hypot(x * 8 - (n + 0.5 - (mod(row, 2) === 1 ? 0.5 : 0)), y * 8 - row - 0.5);
        if (inside >= 0) return { cell: `${mod(n, 8)},${mod(row, 8)}`, inside };
      }
    return null;
  });
  const at = field([1, 1], 3);
  const checks = filled('checks', { count: 8, gap: 0, bevel: 0, show: 'relief' }, at);
  let wrong = 0;
  for (let i = 0; i < at.n; i++) {
    const [fx, fy] = [mod(at.x[i] * 8, 1), mod(at.y[i] * 8, 1)];
    if (Math.min(fx, fy, 1 - fx, 1 - fy) < NEAR) continue;
    if (checks[i] !== (mod(Math.floor(at.x[i] * 8) + Math.floor(at.y[i] * 8), 2) === 0 ? 1 : 0)) wrong++;
  }
  expect(wrong).toBe(0);
});

test('hexagons are the cells of nearest centres, and their outlines lie half way to the next', () => {
  // Rows √3/2 apart: an even number of them comes round.
  const [count, rows, tall] = [8, 10, Math.sqrt(3) / 2];
  agrees('hexagons', { count }, [1, 1], (x, y) => {
    const [px, py] = [x * count, y * rows * tall];
    const near: { d: number; cx: number; cy: number; cell: string }[] = [];
    for (let row = Math.floor(y * rows) - 2; row <= Math.floor(y * rows) + 2; row++)
      for (let n = Math.floor(px) - 3; n <= Math.floor(px) + 3; n++) {
        const [cx, cy] = [n + 0.5 + (mod(row, 2) === 1 ? 0.5 : 0), (row + 0.5) * tall];
        near.push({ d: Math.hypot(px - cx, py - cy), cx, cy, cell: `${mod(n, count)},${mod(row, rows)}` });
      }
    near.sort((a, b) => a.d - b.d);
    const [first, ...others] = near;
    // Distance to the perpendicular bisector of the two centres.
    const toNext = (o: (typeof near)[0]) => (o.d ** 2 - first.d ** 2) / (2 * Math.hypot(o.cx - first.cx, o.cy - first.cy));
    return { cell: first.cell, inside: Math.min(...others.map(toNext)) };
  });
});

test('rings lie around the middle of each repeat', () => {
  agrees('rings', { count: 6, fill: 0.8 }, [1, 1], (x, y) => {
    const d = Math.hypot(mod(x, 1) - 0.5, mod(y, 1) - 0.5) * 12;
    return { cell: `${Math.floor(d)}`, inside: 0.4 - Math.abs(mod(d, 1) - 0.5) };
  });
});

test('strands of a weave go over and under in turn, each of one tone', () => {
  const count = 12;
  const at: Field = { ...field([1, 1], 1), n: count * count };
  at.x = Float32Array.from({ length: at.n }, (_, i) => ((i % count) + 0.5) / count);
  at.y = Float32Array.from({ length: at.n }, (_, i) => (Math.floor(i / count) + 0.5) / count);
  const tones = filled('weave', { count, strand: 0.85, gap: 0, show: 'tones' }, at);
  const over = (column: number, row: number) => tones[row * count + column];
  const lying = Array.from({ length: count }, (_, row) => over(mod(row, 2), row));
  const upright = Array.from({ length: count }, (_, column) => over(column, mod(column + 1, 2)));
  expect(new Set([...lying, ...upright]).size).toBe(2 * count);
  for (let row = 0; row < count; row++)
    for (let column = 0; column < count; column++)
      expect(over(column, row)).toBe(mod(column + row, 2) === 0 ? lying[row] : upright[column]);
  // Between two strands nothing lies.
  const corners: Field = { ...at, x: at.x.map((x) => x + 0.5 / count), y: at.y.map((y) => y + 0.5 / count) };
  expect(new Set(filled('weave', { count, strand: 0.85, gap: 0, show: 'tones' }, corners))).toEqual(new Set([0]));
});

test('a scale that lies further up covers those below it', () => {
  const [count, overlap] = [8, 0.5];
  const rows = count / overlap;
  const at = field([1, 1], 5);
  const look = { count, overlap, gap: 0.02, show: 'tones' as const };
  const tones = filled('scales', look, at);
  const toneOf = new Map<string, number>();
  let wrong = 0;
  for (let i = 0; i < at.n; i++) {
    const [px, py] = [at.x[i] * count, at.y[i] * rows * overlap];
    // All shingles that cover the place: half a width of board, and half a circle below it.
    let seen: string | null = null;
    let unsure = false;
    for (let row = Math.floor(at.y[i] * rows) - 4; row <= Math.floor(at.y[i] * rows) && !seen && !unsure; row++)
      for (let n = Math.floor(px) - 2; n <= Math.floor(px) + 2; n++) {
        const [dx, dy] = [px - (n + (mod(row, 2) === 1 ? 0.5 : 0) + 0.5), py - row * overlap];
        if (dy < 0) continue;
        const inside = (dy < 0.5 ? 0.5 - Math.abs(dx) : 0.5 - Math.hypot(dx, dy - 0.5)) - 0.02;
        if (Math.abs(inside) < NEAR) unsure = true;
        if (inside > 0) seen = `${mod(n, count)},${mod(row, rows)}`;
      }
    if (unsure) continue;
    if (seen === null) {
      if (tones[i] !== 0) wrong++;
      continue;
    }
    const known = toneOf.get(seen);
    if (known === undefined) toneOf.set(seen, tones[i]);
    else if (known !== tones[i]) wrong++;
  }
  expect(wrong).toBe(0);
  expect(toneOf.size).toBe(count * rows);
  expect(new Set(toneOf.values()).size).toBeGreaterThanOrEqual(toneOf.size * 0.98);
});
