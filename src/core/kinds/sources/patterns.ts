/**
 * Patterns: a plane cut into cells, each with a profile from its gap to its top. Everything is laid out in cells, and
 * the number of cells in a period is whole, so that patterns come round wherever their field does.
 */
import { z } from 'zod';
import { unit } from '../fields';
import { kernels } from '../../kernels';
import { number, percent, type Control } from '../control';
import { fractal, seed } from './noise';
import { wrapTo } from '../../../kernels/hash';
import { clamp01, hash01, step, type Field, type SourceDef } from './source';

/** Where a place lies in its cell. */
interface Spot {
  /** Distance inside the cell's outline, in cell heights; negative in the gap. */
  inside: number;
  /** Which cell: two whole numbers. */
  a: number;
  b: number;
  /** −1 … 1 across the cell. */
  u: number;
  v: number;
  /** Height of the profile of its own (weave, scales), 0 … 1. */
  lift: number;
}

const lookFields = {
  seed,
  /** Half of the gap's width, in cell heights. */
  gap: z.number().min(0).max(0.45),
  /** How far the edge slopes, in cell heights. */
  bevel: z.number().min(0).max(1),
  /** How much lower some cells lie. */
  vary: unit,
  /** How much cells lean. */
  tilt: unit,
  /** How uneven the outlines are. */
  wobble: unit,
  show: z.enum(['relief', 'tones', 'gaps']),
};
type CellLook = z.infer<z.ZodObject<typeof lookFields>>;
const lookStart: CellLook = { seed: 1, gap: 0.05, bevel: 0.15, vary: 0, tilt: 0, wobble: 0, show: 'relief' };
const count = z.number().int().min(1).max(512);

const SHOW: Control = {
  kind: 'choice',
  key: 'show',
  label: 'Show',
  options: [
    { value: 'relief', label: 'Relief' },
    { value: 'tones', label: 'Tones' },
    { value: 'gaps', label: 'Gaps' },
  ],
};
const LOOK_CONTROLS: readonly Control[] = [
  percent('gap', 'Gap', 0, 0.45),
  percent('bevel', 'Bevel'),
  percent('vary', 'Vary'),
  percent('tilt', 'Tilt'),
  percent('wobble', 'Wobble'),
  number('seed', 'Seed', 0, 999, { fine: true }),
];

/** Cells in a repeat, so that a whole number of them, divisible by `unit`, comes round with the field. */
function cellsIn(countPerRepeat: number, period: number, multiple = 1): { per: number; around: number } {
  if (period === 0) return { per: countPerRepeat, around: 0 };
  const around = Math.max(multiple, Math.round((countPerRepeat * period) / multiple) * multiple);
  return { per: around / period, around };
}

/** Walks over the field and turns spots into values. */
function drawn(
  p: CellLook,
  field: Field,
  perX: number,
  perY: number,
  out: Float32Array,
  at: (x: number, y: number, spot: Spot) => void,
): void {
  const spot: Spot = { inside: 0, a: 0, b: 0, u: 0, v: 0, lift: 1 };
  let wx: Float32Array | null = null;
  let wy: Float32Array | null = null;
  if (p.wobble > 0) {
    const rough = { octaves: 4, lacunarity: 2.2, gain: 0.5 };
    [wx, wy] = [1, 2].map((n) => {
      const push = kernels().floats(field.n);
      fractal(field, perX * 1.3, perY * 1.3, { ...rough, seed: p.seed + n * 61 }, push);
      return push;
    });
  }
  // One texel, in cells: edges are never harder than that.
  const soft = Math.max(1e-4, field.texel * perY);
  for (let i = 0; i < field.n; i++) {
    spot.lift = 1;
    const bx = wx ? (wx[i] - 0.5) * p.wobble * 0.9 : 0;
    const by = wy ? (wy[i] - 0.5) * p.wobble * 0.9 : 0;
    at(field.x[i] * perX + bx, field.y[i] * perY + by, spot);
    const cover = step(-soft * 0.5, soft * 0.5, spot.inside);
    if (p.show === 'gaps') out[i] = 1 - cover;
    else if (p.show === 'tones') out[i] = cover * (0.04 + 0.96 * hash01(spot.a, spot.b, p.seed));
    else {
      const t = p.bevel > 0 ? clamp01(spot.inside / p.bevel) : 1;
      // A quarter round: steep at the gap, level at the top.
      let height = Math.sqrt(t * (2 - t)) * spot.lift;
      height *= 1 - p.vary * hash01(spot.a, spot.b, p.seed + 1);
      if (p.tilt > 0)
        height *=
          1 -
          p.tilt *
            0.5 *
            (1 + (hash01(spot.a, spot.b, p.seed + 2) - 0.5) * spot.u + (hash01(spot.a, spot.b, p.seed + 3) - 0.5) * spot.v);
      out[i] = cover * height;
    }
  }
}

/** Distance inside a rectangle with round corners; half sizes in cell heights. */
function insideBox(x: number, y: number, halfX: number, halfY: number, round: number): number {
  const r = round * Math.min(halfX, halfY);
  const qx = Math.abs(x) - halfX + r;
  const qy = Math.abs(y) - halfY + r;
  const out = qx > 0 && qy > 0 ? Math.sqrt(qx * qx + qy * qy) : Math.max(qx, qy);
  return r - out;
}

const bricksSchema = z.object({
  type: z.literal('bricks'),
  ...lookFields,
  /** Rows in a repeat. */
  rows: count,
  /** Length of a brick in heights. */
  aspect: z.number().min(0.25).max(12),
  bond: z.enum(['half', 'third', 'stack', 'basket', 'drifting']),
  /** How uneven the lengths are. */
  uneven: z.number().min(0).max(0.8),
  round: unit,
});
export const bricks: SourceDef<z.infer<typeof bricksSchema>> = {
  type: 'bricks',
  label: 'Bricks',
  hint: 'Bricks, setts and tiles in one of several bonds.',
  group: 'pattern',
  schema: bricksSchema,
  start: { type: 'bricks', ...lookStart, rows: 8, aspect: 2, bond: 'half', uneven: 0, round: 0.15 },
  controls: [
    SHOW,
    {
      kind: 'choice',
      key: 'bond',
      label: 'Bond',
      options: [
        { value: 'half', label: 'Half' },
        { value: 'third', label: 'Third' },
        { value: 'stack', label: 'Stack' },
        { value: 'basket', label: 'Basket' },
        { value: 'drifting', label: 'Drifting' },
      ],
    },
    number('rows', 'Rows', 1, 128, { fine: true }),
    number('aspect', 'Length', 0.25, 12, { digits: 2 }),
    percent('uneven', 'Uneven', 0, 0.8),
    percent('round', 'Round'),
    ...LOOK_CONTROLS,
  ],
  where: () => 'placed',
  fill: (p, field, out) => {
    const { bond } = p;
    if (bond === 'basket') return fillBasket(p, field, out);
    const y = cellsIn(p.rows, field.period[1], { half: 2, third: 3, stack: 1, drifting: 1 }[bond]);
    const x = cellsIn(p.rows / p.aspect, field.period[0]);
    // Heights are the unit: a cell is `long` of them.
    const long = y.per / x.per;
    const edge = (column: number, row: number) =>
      column + (p.uneven > 0 ? (hash01(wrapTo(column, x.around), row, p.seed + 7) - 0.5) * p.uneven : 0);
    drawn(p, field, x.per, y.per, out, (cx, cy, spot) => {
      const row = wrapTo(Math.floor(cy), y.around);
      const shift = { half: (row % 2) * 0.5, third: (((row % 3) + 3) % 3) / 3, stack: 0, drifting: hash01(row, 3, p.seed) }[bond];
      const at = cx + shift;
      let column = Math.floor(at);
      if (at < edge(column, row)) column--;
      else if (at >= edge(column + 1, row)) column++;
      const [left, right] = [edge(column, row), edge(column + 1, row)];
      const half = ((right - left) / 2) * long - p.gap;
      const px = (at - (left + right) / 2) * long;
      const py = cy - Math.floor(cy) - 0.5;
      spot.inside = insideBox(px, py, half, 0.5 - p.gap, p.round);
      spot.a = wrapTo(column, x.around);
      spot.b = row;
      spot.u = px / Math.max(0.01, half);
      spot.v = py * 2;
    });
  },
};

/** Pairs of bricks, upright and lying in turn. */
function fillBasket(p: z.infer<typeof bricksSchema>, field: Field, out: Float32Array): void {
  const y = cellsIn(p.rows / 2, field.period[1], 2);
  const x = cellsIn(p.rows / 2, field.period[0], 2);
  drawn(p, field, x.per, y.per, out, (cx, cy, spot) => {
    const [column, row] = [Math.floor(cx), Math.floor(cy)];
    let [fx, fy] = [cx - column, cy - row];
    const upright = (((column + row) % 2) + 2) % 2 === 1;
    if (upright) [fx, fy] = [fy, fx];
    const second = fy >= 0.5 ? 1 : 0;
    const px = (fx - 0.5) * 2;
    const py = (fy - 0.25 - second * 0.5) * 2;
    spot.inside = insideBox(px, py, 1 - p.gap, 0.5 - p.gap, p.round);
    spot.a = wrapTo(column, x.around) * 2 + second;
    spot.b = wrapTo(row, y.around);
    spot.u = px;
    spot.v = py * 2;
  });
}

const checksSchema = z.object({ type: z.literal('checks'), ...lookFields, count });
export const checks: SourceDef<z.infer<typeof checksSchema>> = {
  type: 'checks',
  label: 'Checks',
  hint: 'Squares, every other one raised.',
  group: 'pattern',
  schema: checksSchema,
  start: { type: 'checks', ...lookStart, gap: 0, bevel: 0, count: 8 },
  controls: [SHOW, number('count', 'Count', 1, 128, { fine: true }), ...LOOK_CONTROLS],
  where: () => 'placed',
  fill: (p, field, out) => {
    const x = cellsIn(p.count, field.period[0], 2);
    const y = cellsIn(p.count, field.period[1], 2);
    drawn(p, field, x.per, y.per, out, (cx, cy, spot) => {
      const [column, row] = [Math.floor(cx), Math.floor(cy)];
      const [fx, fy] = [cx - column - 0.5, cy - row - 0.5];
      const raised = (((column + row) % 2) + 2) % 2 === 0;
      const inside = insideBox(fx, fy, 0.5 - p.gap, 0.5 - p.gap, 0);
      spot.inside = p.show === 'tones' || raised ? inside : Math.min(-1e-3, -inside);
      spot.a = wrapTo(column, x.around);
      spot.b = wrapTo(row, y.around);
      spot.u = fx * 2;
      spot.v = fy * 2;
    });
  },
};

const stripesSchema = z.object({ type: z.literal('stripes'), ...lookFields, count, /** Share of a stripe. */ fill: unit });
export const stripes: SourceDef<z.infer<typeof stripesSchema>> = {
  type: 'stripes',
  label: 'Stripes',
  hint: 'Bands side by side: planks, ribs, corduroy.',
  group: 'pattern',
  schema: stripesSchema,
  start: { type: 'stripes', ...lookStart, gap: 0, count: 8, fill: 0.5 },
  controls: [SHOW, number('count', 'Count', 1, 256, { fine: true }), percent('fill', 'Fill'), ...LOOK_CONTROLS],
  where: () => 'placed',
  fill: (p, field, out) => {
    const y = cellsIn(p.count, field.period[1]);
    drawn(p, field, y.per, y.per, out, (_cx, cy, spot) => {
      const row = Math.floor(cy);
      const v = cy - row - 0.5;
      spot.inside = p.fill / 2 - p.gap - Math.abs(v);
      spot.a = 0;
      spot.b = wrapTo(row, y.around);
      spot.u = 0;
      spot.v = v * 2;
    });
  },
};

const hexagonsSchema = z.object({ type: z.literal('hexagons'), ...lookFields, count });
export const hexagons: SourceDef<z.infer<typeof hexagonsSchema>> = {
  type: 'hexagons',
  label: 'Hexagons',
  hint: 'Six-sided tiles, as in a honeycomb.',
  group: 'pattern',
  schema: hexagonsSchema,
  start: { type: 'hexagons', ...lookStart, count: 8 },
  controls: [SHOW, number('count', 'Count', 1, 128, { fine: true }), ...LOOK_CONTROLS],
  where: () => 'placed',
  fill: (p, field, out) => {
    // Rows lie √3/2 of a width apart; where the field comes round they are stretched to a whole even number.
    const x = cellsIn(p.count, field.period[0]);
    const y = cellsIn(p.count / (Math.sqrt(3) / 2), field.period[1], 2);
    const rowHeight = Math.sqrt(3) / 2;
    drawn(p, field, x.per, y.per, out, (cx, cy, spot) => {
      let best = 1e9;
      const base = Math.floor(cy);
      for (let row = base - 1; row <= base + 1; row++) {
        const shift = ((row % 2) + 2) % 2 === 1 ? 0.5 : 0;
        const column = Math.round(cx - shift - 0.5);
        for (let c = column - 1; c <= column + 1; c++) {
          const dx = cx - (c + 0.5 + shift);
          const dy = (cy - (row + 0.5)) * rowHeight;
          const d = dx * dx + dy * dy;
          if (d >= best) continue;
          best = d;
          // Six sides: the farthest of three pairs.
          const reach = Math.max(Math.abs(dx), Math.abs(dx * 0.5 + dy * rowHeight), Math.abs(dx * 0.5 - dy * rowHeight));
          spot.inside = 0.5 - p.gap - reach;
          spot.a = wrapTo(c, x.around);
          spot.b = wrapTo(row, y.around);
          spot.u = dx * 2;
          spot.v = dy * 2;
        }
      }
    });
  },
};

const scalesSchema = z.object({ type: z.literal('scales'), ...lookFields, count, overlap: z.number().min(0.3).max(1) });
export const scales: SourceDef<z.infer<typeof scalesSchema>> = {
  type: 'scales',
  label: 'Scales',
  hint: 'Round shingles that overlap from the top down: roofs, hide, armour.',
  group: 'pattern',
  schema: scalesSchema,
  start: { type: 'scales', ...lookStart, gap: 0.02, bevel: 0.12, count: 8, overlap: 0.5 },
  controls: [SHOW, number('count', 'Count', 1, 128, { fine: true }), percent('overlap', 'Row height', 0.3, 1), ...LOOK_CONTROLS],
  where: () => 'placed',
  fill: (p, field, out) => {
    const x = cellsIn(p.count, field.period[0]);
    const y = cellsIn(p.count / p.overlap, field.period[1], 2);
    const rowHeight = x.per / y.per;
    drawn(p, field, x.per, y.per, out, (cx, cy, spot) => {
      spot.inside = -1;
      const base = Math.floor(cy);
      // Those further up lie over those further down … so the first circle from above that covers is the one seen.
      for (let row = base - Math.ceil(1 / rowHeight) - 1; row <= base; row++) {
        const shift = ((row % 2) + 2) % 2 === 1 ? 0.5 : 0;
        const column = Math.floor(cx - shift);
        const dx = cx - column - shift - 0.5;
        // In widths; the round end of a scale lies half a width under its middle.
        const dy = (cy - row) * rowHeight;
        const inside = dy < 0.5 ? 0.5 - Math.abs(dx) : 0.5 - Math.hypot(dx, dy - 0.5);
        if (inside - p.gap <= 0) continue;
        spot.inside = dy < 0.5 ? Math.max(inside - p.gap, 0.02) : inside - p.gap;
        spot.a = wrapTo(column, x.around);
        spot.b = wrapTo(row, y.around);
        spot.u = dx * 2;
        spot.v = dy - 0.5;
        spot.lift = 0.45 + 0.55 * clamp01(dy);
        break;
      }
    });
  },
};

const weaveSchema = z.object({
  type: z.literal('weave'),
  ...lookFields,
  count,
  /** Width of a strand in its lane. */ strand: z.number().min(0.2).max(1),
});
export const weave: SourceDef<z.infer<typeof weaveSchema>> = {
  type: 'weave',
  label: 'Weave',
  hint: 'Strands that go over and under: cloth, wicker.',
  group: 'pattern',
  schema: weaveSchema,
  start: { type: 'weave', ...lookStart, gap: 0, bevel: 0.4, count: 12, strand: 0.85 },
  controls: [SHOW, number('count', 'Count', 1, 256, { fine: true }), percent('strand', 'Strand', 0.2, 1), ...LOOK_CONTROLS],
  where: () => 'placed',
  fill: (p, field, out) => {
    const x = cellsIn(p.count, field.period[0], 2);
    const y = cellsIn(p.count, field.period[1], 2);
    drawn(p, field, x.per, y.per, out, (cx, cy, spot) => {
      const [column, row] = [Math.floor(cx), Math.floor(cy)];
      const [fx, fy] = [cx - column - 0.5, cy - row - 0.5];
      const half = p.strand / 2 - p.gap;
      const odd = (((column + row) % 2) + 2) % 2 === 1;
      // On top where it crosses over, down where it dives.
      const lying = { inside: half - Math.abs(fy), lift: 0.55 + 0.45 * Math.cos(Math.PI * fx) * (odd ? -1 : 1) };
      const upright = { inside: half - Math.abs(fx), lift: 0.55 + 0.45 * Math.cos(Math.PI * fy) * (odd ? 1 : -1) };
      const over = lying.inside > 0 && (upright.inside <= 0 || lying.lift >= upright.lift) ? lying : upright;
      spot.inside = over.inside;
      spot.lift = over.lift;
      const across = over === lying;
      spot.a = across ? -1 : wrapTo(column, x.around);
      spot.b = across ? wrapTo(row, y.around) : -1;
      spot.u = fx * 2;
      spot.v = fy * 2;
    });
  },
};

const dotsSchema = z.object({
  type: z.literal('dots'),
  ...lookFields,
  count,
  /** Radius in cells. */ size: z.number().min(0.02).max(0.5),
  bond: z.enum(['square', 'offset']),
});
export const dots: SourceDef<z.infer<typeof dotsSchema>> = {
  type: 'dots',
  label: 'Dots',
  hint: 'Round studs in rows: rivets, perforations.',
  group: 'pattern',
  schema: dotsSchema,
  start: { type: 'dots', ...lookStart, gap: 0, count: 8, size: 0.3, bond: 'square' },
  controls: [
    SHOW,
    {
      kind: 'choice',
      key: 'bond',
      label: 'Rows',
      options: [
        { value: 'square', label: 'In line' },
        { value: 'offset', label: 'Offset' },
      ],
    },
    number('count', 'Count', 1, 256, { fine: true }),
    percent('size', 'Size', 0.02, 0.5),
    ...LOOK_CONTROLS,
  ],
  where: () => 'placed',
  fill: (p, field, out) => {
    const x = cellsIn(p.count, field.period[0]);
    const y = cellsIn(p.count, field.period[1], p.bond === 'offset' ? 2 : 1);
    drawn(p, field, x.per, y.per, out, (cx, cy, spot) => {
      const row = Math.floor(cy);
      const at = cx + (p.bond === 'offset' && ((row % 2) + 2) % 2 === 1 ? 0.5 : 0);
      const [fx, fy] = [at - Math.floor(at) - 0.5, cy - row - 0.5];
      spot.inside = p.size - p.gap - Math.hypot(fx, fy);
      spot.a = wrapTo(Math.floor(at), x.around);
      spot.b = wrapTo(row, y.around);
      spot.u = fx / p.size;
      spot.v = fy / p.size;
    });
  },
};

const ringsSchema = z.object({ type: z.literal('rings'), ...lookFields, count, /** Share of a ring. */ fill: unit });
export const rings: SourceDef<z.infer<typeof ringsSchema>> = {
  type: 'rings',
  label: 'Rings',
  hint: 'Circles around the middle of each repeat: turned wood, cut stone, ripples.',
  group: 'pattern',
  schema: ringsSchema,
  start: { type: 'rings', ...lookStart, gap: 0, bevel: 0.3, count: 8, fill: 0.6 },
  controls: [SHOW, number('count', 'Count', 1, 128, { fine: true }), percent('fill', 'Fill'), ...LOOK_CONTROLS],
  where: () => 'placed',
  fill: (p, field, out) => {
    drawn(p, field, 1, 1, out, (x, y, spot) => {
      const [column, row] = [Math.floor(x), Math.floor(y)];
      const d = Math.hypot(x - column - 0.5, y - row - 0.5) * 2 * p.count;
      const ring = Math.floor(d);
      spot.inside = p.fill / 2 - p.gap - Math.abs(d - ring - 0.5);
      spot.a = ring;
      spot.b = wrapTo(column, field.period[0]) * 31 + wrapTo(row, field.period[1]);
      spot.u = 0;
      spot.v = 0;
    });
  },
};
