/**
 * Frames: a band along the edges of islands, inside or outside of them, as wide as given, with straight corners. On a canvas
 * along those of its borders that do not wrap.
 */
import { z } from 'zod';
import { texelGraphOf } from '../../mesh/texels';
import { TILE } from '../../tile/tiles';
import type { Coverage, CoverageTile } from '../coverage';
import type { AreaContext, AreaDef } from './area';
import type { Box } from './figure';
import { facesOfFill } from './fill';
import { visitSheet } from './lay';

const frameSchema = z.object({
  type: z.literal('frame'),
  /** All islands, or those that are pointed at. */
  of: z.enum(['all', 'island']).default('all'),
  /** Texels. */
  width: z.number().min(0.5).max(512),
  side: z.enum(['inside', 'outside']).default('inside'),
});
export type IslandFrame = z.infer<typeof frameSchema>;

/** Corners stick out so many widths at most, where an island ends in a needle. */
const MOST_MITRE = 4;

/** An edge of an island, in texels: from a to b, its unit direction, and the unit normal to the band's side. */
interface Edge {
  ax: number;
  ay: number;
  bx: number;
  by: number;
  ex: number;
  ey: number;
  nx: number;
  ny: number;
  length: number;
  island: number;
}

/** Places near an edge or a corner, and how far off they lie: straight off the edge; at a corner the farther of both edges' lines. */
interface Piece {
  box: Box;
  island: number;
  /** Infinity: it is not here. */
  off: (x: number, y: number) => number;
}

function edgesOf({ surface }: AreaContext, chosen: Uint8Array | null, inside: boolean): Edge[] {
  const { map, islands, query } = surface!;
  const c = map.cornersTexels;
  const out: Edge[] = [];
  for (let f = 0; f < query.hidden.length; f++) {
    const o = f * 6;
    if (Number.isNaN(c[o]) || query.hidden[f] || (chosen && !chosen[f])) continue;
    const area = (c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1]);
    if (!(Math.abs(area) > 1e-3)) continue;
    const side = (area > 0 ? 1 : -1) * (inside ? 1 : -1);
    for (let k = 0; k < 3; k++) {
      if (!islands.border[f * 3 + k]) continue;
      const a = o + k * 2;
      const b = o + ((k + 1) % 3) * 2;
      const [ax, ay, bx, by] = [c[a], c[a + 1], c[b], c[b + 1]];
      const length = Math.hypot(bx - ax, by - ay);
      if (length === 0) continue;
      const [ex, ey] = [(bx - ax) / length, (by - ay) / length];
      out.push({ ax, ay, bx, by, ex, ey, nx: -ey * side, ny: ex * side, length, island: islands.island[f] });
    }
  }
  return out;
}

/** The strips along edges, and the corners that the band goes around. */
function piecesOf(edges: readonly Edge[], width: number): Piece[] {
  const reach = width + 1;
  const byStart = new Map<string, Edge>();
  // Ends that are the same are the same numbers but for float32: a 64th of a texel is far below anything seen.
  const key = (island: number, x: number, y: number) => `${island} ${Math.round(x * 64)} ${Math.round(y * 64)}`;
  for (const edge of edges) byStart.set(key(edge.island, edge.ax, edge.ay), edge);
  const out: Piece[] = [];
  for (const edge of edges) {
    const { ax, ay, bx, by, ex, ey, nx, ny, length, island } = edge;
    const [fx, fy] = [nx * reach, ny * reach];
    out.push({
      island,
      box: boxAround([ax, bx, ax + fx, bx + fx], [ay, by, ay + fy, by + fy]),
      off: (x, y) => {
        const along = (x - ax) * ex + (y - ay) * ey;
        return along >= 0 && along <= length ? (x - ax) * nx + (y - ay) * ny : Infinity;
      },
    });
    const next = byStart.get(key(island, bx, by));
    if (!next) continue;
    // It turns away from the band where the next edge leaves on the other side: there is a wedge between the strips.
    if (next.ex * nx + next.ey * ny >= 0) continue;
    const dot = nx * next.nx + ny * next.ny;
    const by1 = Math.min(MOST_MITRE, Math.SQRT2 / Math.sqrt(Math.max(1e-6, 1 + dot))) * reach;
    const middle = Math.hypot(nx + next.nx, ny + next.ny) || 1;
    const [mx, my] = [((nx + next.nx) / middle) * by1, ((ny + next.ny) / middle) * by1];
    out.push({
      island,
      box: boxAround([bx, bx + fx, bx + next.nx * reach, bx + mx], [by, by + fy, by + next.ny * reach, by + my]),
      off: (x, y) => {
        const [px, py] = [x - bx, y - by];
        if (px * ex + py * ey < 0 || px * next.ex + py * next.ey > 0 || Math.hypot(px, py) > MOST_MITRE * width) return Infinity;
        return Math.max(px * nx + py * ny, px * next.nx + py * next.ny);
      },
    });
  }
  return out;
}

const boxAround = (xs: number[], ys: number[]): Box => ({
  x0: Math.min(...xs),
  y0: Math.min(...ys),
  x1: Math.max(...xs),
  y1: Math.max(...ys),
});

const SETTINGS = { frameOf: 'all' as IslandFrame['of'], frameWidth: 4, frameSide: 'inside' as IslandFrame['side'] };

export const frame: AreaDef<IslandFrame, typeof SETTINGS> = {
  type: 'frame',
  schema: frameSchema,
  settings: SETTINGS,
  ways: [
    {
      id: 'frame',
      label: 'Frame islands',
      hint: 'Click: every island, or the one clicked, gets a band along its edge.',
      gesture: 'click',
      controls: [
        { key: 'frameWidth', label: 'Width', kind: 'number', min: 1, max: 128, unit: 'tx' },
        {
          key: 'frameOf',
          label: 'Which islands',
          kind: 'choice',
          onModel: true,
          options: [
            { value: 'all', label: 'every island' },
            { value: 'island', label: 'the one clicked' },
          ],
        },
        {
          key: 'frameSide',
          label: 'On which side of the edge',
          kind: 'choice',
          onModel: true,
          options: [
            { value: 'inside', label: 'inside' },
            { value: 'outside', label: 'outside' },
          ],
        },
      ],
      area: ({ frameOf: of, frameWidth: width, frameSide: side }) => ({ type: 'frame', of, width, side }),
    },
  ],
  cover(area, context) {
    const { surface, coverage, opacity, sheet } = context;
    const { width } = area;
    const share = (off: number) => Math.min(1, Math.max(0, width - off + 0.5));
    if (!surface) return frameCanvas(context, width);
    const inside = area.side === 'inside';
    const chosen = area.of === 'all' ? null : facesOfFill({ type: 'fill', of: 'island', flat: 0 }, context);
    const graph = texelGraphOf(surface.map, surface.query, surface.islands);
    const { island } = surface.islands;
    const out = new Float32Array(sheet.width * sheet.height);
    const reached: number[] = [];
    for (const { box, off, island: of } of piecesOf(edgesOf(context, chosen, inside), width)) {
      const x0 = Math.max(0, Math.floor(box.x0));
      const x1 = Math.min(sheet.width, Math.ceil(box.x1));
      for (let y = Math.max(0, Math.floor(box.y0)); y < Math.min(sheet.height, Math.ceil(box.y1)); y++)
        for (let x = x0, t = y * sheet.width + x0; x < x1; x++, t++) {
          const far = off(x + 0.5, y + 0.5);
          if (!(far >= 0 && far < width + 0.5)) continue;
          const f = graph.faces[t];
          // Inside: the island itself. Outside: nothing that is another island or goes with it.
          if (inside ? f < 0 || !graph.own[t] || island[f] !== of : f >= 0 && (graph.own[t] || island[f] !== of)) continue;
          const value = share(far);
          if (!(value > out[t])) continue;
          if (out[t] === 0) reached.push(t);
          out[t] = value;
        }
    }
    const raising = new Raising(coverage, sheet.width);
    for (let n = 0; n < reached.length; n++) raising.raise(reached[n], opacity * out[reached[n]]);
    if (inside) {
      const { gutter, gutterTexels } = graph;
      for (let n = 0; n < gutterTexels.length; n++) {
        const t = gutterTexels[n];
        const value = out[gutter[t]];
        if (value > 0) raising.raise(t, opacity * value);
      }
    }
    raising.end();
  },
};

/** Raises texels one by one, wherever they lie, and says at the end where. */
class Raising {
  private tiles = new Map<number, { tile: CoverageTile; x0: number; y0: number; x1: number; y1: number }>();
  private at = -1;
  private last: { tile: CoverageTile; x0: number; y0: number; x1: number; y1: number } | null = null;

  constructor(
    private coverage: Coverage,
    private width: number,
  ) {}

  raise(t: number, value: number): void {
    const x = t % this.width;
    const y = (t - x) / this.width;
    const at = (y >> 7) * 65536 + (x >> 7);
    if (at !== this.at) {
      this.at = at;
      this.last = this.tiles.get(at) ?? null;
      if (!this.last)
        this.tiles.set(at, (this.last = { tile: this.coverage.tile(x >> 7, y >> 7), x0: TILE, y0: TILE, x1: 0, y1: 0 }));
    }
    const last = this.last!;
    const [column, row] = [x & (TILE - 1), y & (TILE - 1)];
    const i = row * TILE + column;
    if (!(value > last.tile.values[i])) return;
    last.tile.values[i] = value;
    if (column < last.x0) last.x0 = column;
    if (column >= last.x1) last.x1 = column + 1;
    if (row < last.y0) last.y0 = row;
    if (row >= last.y1) last.y1 = row + 1;
  }

  end(): void {
    for (const { tile, x0, y0, x1, y1 } of this.tiles.values()) if (x0 < x1) this.coverage.touch(tile, x0, y0, x1, y1);
  }
}

function frameCanvas({ sheet, coverage, opacity }: AreaContext, band: number): void {
  const { width, height, wrapU, wrapV } = sheet;
  visitSheet(sheet, { x0: 0, y0: 0, x1: width, y1: height }, (tx, ty, i, count, x, y) => {
    const tile = coverage.tile(tx, ty);
    const fromTop = wrapV ? Infinity : Math.min(y + 0.5, height - y - 0.5);
    let [from, to] = [count, 0];
    for (let n = 0; n < count; n++) {
      const off = Math.min(fromTop, wrapU ? Infinity : Math.min(x + n + 0.5, width - x - n - 0.5));
      const value = opacity * Math.min(1, Math.max(0, band - off + 0.5));
      if (!(value > tile.values[i + n])) continue;
      tile.values[i + n] = value;
      if (n < from) from = n;
      to = n + 1;
    }
    if (from < to) coverage.touch(tile, (i & (TILE - 1)) + from, i >> 7, (i & (TILE - 1)) + to, (i >> 7) + 1);
  });
}
