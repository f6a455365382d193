/**
 * Fill what looks the same: texels whose colour is within a tolerance of the one that is pointed at, by distance in OKLab
 * (values: by their difference). What hangs together is found from texel to texel, on the model over its seams too.
 */
import { z } from 'zod';
import { fastLinear } from '../../colour/transfer';
import { linearToOklab, type Lab } from '../../colour/oklab';
import { mapId, unit } from '../../kinds/fields';
import { mapKind, type MapId } from '../../kinds/maps';
import { texelGraphOf, type TexelGraph } from '../../mesh/texels';
import { sheetPlace } from '../place';
import type { TileValue } from '../../strata/tileCache';
import { around } from '../../tile/border';
import { TILE, tileIndex, tilesAcross, TILE_TEXELS } from '../../tile/tiles';
import type { AreaContext, AreaDef } from './area';
import type { Point } from './figure';
import { hitOf, imagesOnModel, pointImage, texelOf } from './lay';

const sameSchema = z.object({
  type: z.literal('same'),
  map: mapId,
  /** Where the texels are looked at: what is seen, or the layer's own paint. */
  of: z.enum(['all', 'layer']).default('all'),
  /** Distance in OKLab, in which black to white is 1. */
  tolerance: unit.default(0.06),
  /** Only what hangs together with the place that is pointed at. */
  contiguous: z.boolean().default(true),
});
export type Same = z.infer<typeof sameSchema>;

const [UNKNOWN, ALIKE, OTHER, TAKEN] = [0, 1, 2, 3];

const lab: Lab = { l: 0, a: 0, b: 0 };

/** What texels of a map look like: three numbers premultiplied by alpha, so that what is not painted has none, and alpha. */
class Look {
  readonly now = new Float64Array(4);
  private readonly channels: 1 | 3;
  private readonly colour: boolean;
  /** Texels side by side are often the same. */
  private last = [-1, -1, -1];
  private l = 0;
  private a = 0;
  private b = 0;

  constructor(map: MapId) {
    this.channels = mapKind(map) === 'value' ? 1 : 3;
    this.colour = mapKind(map) === 'colour';
  }

  /** Of a texel of a tile, into `now`. */
  at({ uniform, data }: TileValue, i: number): void {
    const { channels, now, last } = this;
    const alpha = data
      ? data.length > channels * TILE_TEXELS
        ? data[channels * TILE_TEXELS + i]
        : 1
      : (uniform![channels] ?? 1);
    const r = data ? data[i] : uniform![0];
    now[3] = alpha;
    if (channels === 1) {
      now[0] = r * alpha;
      return;
    }
    const g = data ? data[TILE_TEXELS + i] : uniform![1];
    const b = data ? data[2 * TILE_TEXELS + i] : uniform![2];
    if (r !== last[0] || g !== last[1] || b !== last[2]) {
      last[0] = r;
      last[1] = g;
      last[2] = b;
      if (this.colour) {
        linearToOklab(fastLinear(r), fastLinear(g), fastLinear(b), lab);
        this.l = lab.l;
        this.a = lab.a;
        this.b = lab.b;
      } else {
        this.l = r;
        this.a = g;
        this.b = b;
      }
    }
    now[0] = this.l * alpha;
    now[1] = this.a * alpha;
    now[2] = this.b * alpha;
  }
}

/** Which texels of a sheet look like a given one: worked out tile by tile as they are asked for. */
class Alike {
  /** A number a texel, row by row over the sheet. */
  readonly state: Uint8Array;
  private done: Uint8Array;
  private readonly look: Look;
  private readonly wanted = new Float64Array(4);

  constructor(
    private context: AreaContext,
    private area: Same,
  ) {
    const { width, height } = context.sheet;
    this.state = new Uint8Array(width * height);
    this.done = new Uint8Array(tilesAcross(width) * tilesAcross(height));
    this.taken = new Uint8Array(this.done.length);
    this.look = new Look(area.map);
  }

  private asked = false;
  /** Tiles of which texels were taken. */
  readonly taken: Uint8Array;

  /** Takes a run of texels of one row. */
  take(from: number, to: number): void {
    const { width } = this.context.sheet;
    this.state.fill(TAKEN, from, to);
    const row = ((from / width) | 0) >> 7;
    for (let tx = (from % width) >> 7; tx <= ((to - 1) % width) >> 7; tx++) this.taken[row * tilesAcross(width) + tx] = 1;
  }

  /** Alike to this texel from now on. */
  to(x: number, y: number): void {
    this.look.at(this.value(x >> 7, y >> 7), (y & (TILE - 1)) * TILE + (x & (TILE - 1)));
    this.wanted.set(this.look.now);
    if (!this.asked) {
      this.asked = true;
      return;
    }
    this.done.fill(0);
    for (let t = 0; t < this.state.length; t++) if (this.state[t] !== TAKEN) this.state[t] = UNKNOWN;
  }

  private value(tx: number, ty: number): TileValue {
    return this.context.visible.tile(this.area.of, this.area.map, tileIndex(tx, ty));
  }

  /** It is alike, and not taken yet. */
  is(t: number): boolean {
    const known = this.state[t];
    if (known !== UNKNOWN) return known === ALIKE;
    this.workOut(t);
    return this.state[t] === ALIKE;
  }

  everywhere(take: (t: number) => void): void {
    const { width, height } = this.context.sheet;
    for (let ty = 0; ty * TILE < height; ty++)
      for (let tx = 0; tx * TILE < width; tx++) this.workOut(ty * TILE * width + tx * TILE);
    for (let t = 0; t < this.state.length; t++) if (this.state[t] === ALIKE) take(t);
  }

  private workOut(t: number): void {
    const { width, height } = this.context.sheet;
    const [tx, ty] = [(t % width) >> 7, ((t / width) | 0) >> 7];
    const at = ty * tilesAcross(width) + tx;
    if (this.done[at]) return;
    this.done[at] = 1;
    const value = this.value(tx, ty);
    const { wanted, look, state } = this;
    const { now } = look;
    const [w0, w1, w2, w3] = wanted;
    const most = this.area.tolerance * this.area.tolerance + 1e-9;
    const [columns, rows] = [Math.min(TILE, width - tx * TILE), Math.min(TILE, height - ty * TILE)];
    for (let y = 0; y < rows; y++)
      for (let x = 0, s = (ty * TILE + y) * width + tx * TILE; x < columns; x++, s++) {
        if (state[s] === TAKEN) continue;
        // The same all over the tile: asked once.
        if (value.data || (x === 0 && y === 0)) look.at(value, y * TILE + x);
        const d0 = now[0] - w0;
        const d1 = now[1] - w1;
        const d2 = now[2] - w2;
        const d3 = now[3] - w3;
        const d = d0 * d0 + d1 * d1 + d2 * d2 + d3 * d3;
        state[s] = d <= most ? ALIKE : OTHER;
      }
  }
}

/** Texels that are still to be looked at. */
class Open {
  private list = new Int32Array(65536);
  private count = 0;

  push(t: number): void {
    if (this.count === this.list.length) {
      const more = new Int32Array(this.list.length * 2);
      more.set(this.list);
      this.list = more;
    }
    this.list[this.count++] = t;
  }

  pop(): number {
    return this.count > 0 ? this.list[--this.count] : -1;
  }
}

/**
 * Takes what hangs together with a texel, by whole runs of a row: each run asks the rows above and below for where runs begin
 * there. On the model a run ends at its island's edge, and goes on over the seam from there.
 */
function flood(alike: Alike, from: number, { sheet, surface }: AreaContext, graph: TexelGraph | null): void {
  const { width, height, wrapU, wrapV } = sheet;
  const open = new Open();
  const hidden = surface?.query.hidden;
  const overSeam = (t: number, way: number) => {
    const n = graph!.overSeam(t, way);
    if (n >= 0 && !hidden![graph!.faces[n]] && alike.is(n)) open.push(n);
  };
  const labels = graph?.labels ?? null;
  const rows = width * height;
  open.push(from);
  for (let t = open.pop(); t >= 0; t = open.pop()) {
    if (!alike.is(t)) continue;
    const label = labels ? labels[t] : 0;
    const begin = t - (t % width);
    let left = t;
    while (left > begin && (labels === null || labels[left - 1] === label) && alike.is(left - 1)) left--;
    let above = false;
    let below = false;
    let n = left;
    for (; n < begin + width && (labels === null || labels[n] === label) && alike.is(n); n++) {
      let up = n - width;
      if (up < 0 && wrapV && !graph) up += rows;
      if (up >= 0 && (labels === null || labels[up] === label)) {
        const is = alike.is(up);
        if (is && !above) open.push(up);
        above = is;
      } else if (graph) {
        above = false;
        overSeam(n, 3);
      }
      let down = n + width;
      if (down >= rows && wrapV && !graph) down -= rows;
      if (down < rows && (labels === null || labels[down] === label)) {
        const is = alike.is(down);
        if (is && !below) open.push(down);
        below = is;
      } else if (graph) {
        below = false;
        overSeam(n, 1);
      }
    }
    alike.take(left, n);
    if (graph) {
      if (left === begin || labels![left - 1] !== label) overSeam(left, 2);
      if (n === begin + width || labels![n] !== label) overSeam(n - 1, 0);
    } else if (wrapU) {
      if (left === begin && alike.is(begin + width - 1)) open.push(begin + width - 1);
      if (n === begin + width && alike.is(begin)) open.push(begin);
    }
  }
}

/** Texels that are pointed at, and their images. */
function seedsOf(context: AreaContext): Point[] {
  const { samples, surface, images, middle } = context;
  return samples.flatMap((sample) => {
    const own = texelOf(context, sample);
    if (!own) return [];
    if (!surface) return [own, ...images.map((image) => pointImage(image, middle, own))];
    const hit = images.length > 0 ? hitOf(context, sample) : null;
    return [own, ...(hit ? imagesOnModel(context, hit) : []).map((h) => sheetPlace(h, surface.map))];
  });
}

const SETTINGS = { tolerance: 6, contiguous: true, sameOf: 'all' as Same['of'] };

export const same: AreaDef<Same, typeof SETTINGS> = {
  type: 'same',
  schema: sameSchema,
  settings: SETTINGS,
  ways: [
    {
      id: 'same',
      label: 'Fill the same colour',
      hint: 'Click a colour: what looks like it is filled.',
      gesture: 'click',
      controls: [
        { key: 'tolerance', label: 'Like', kind: 'number', min: 0, max: 100, unit: '%' },
        {
          key: 'contiguous',
          label: 'Touching',
          hint: 'Only what hangs together, over seams too; off: everywhere on the sheet',
          kind: 'switch',
        },
        {
          key: 'sameOf',
          label: 'Which texels are looked at',
          kind: 'choice',
          options: [
            { value: 'all', label: 'all layers' },
            { value: 'layer', label: 'this layer' },
          ],
        },
      ],
      area: ({ tolerance, contiguous, sameOf: of }, { map }) => ({
        type: 'same',
        ...{ map, of, contiguous },
        tolerance: tolerance / 100,
      }),
    },
  ],
  cover(area, context) {
    const { sheet, surface, coverage, opacity } = context;
    if (!sheet.maps.includes(area.map)) return;
    const { width, height } = sheet;
    const graph = surface && texelGraphOf(surface.map, surface.query, surface.islands);
    const alike = new Alike(context, area);
    for (const { x, y } of seedsOf(context)) {
      const [cx, cy] = [around(Math.floor(x), width), around(Math.floor(y), height)];
      const t = cy * width + cx;
      // In the gutter: as from the island's nearest texel.
      const from = graph && !graph.own[t] ? graph.gutter[t] : t;
      if (!(from >= 0)) continue;
      alike.to(from % width, (from / width) | 0);
      if (area.contiguous) flood(alike, from, context, graph);
      else
        alike.everywhere((s) => {
          if (!graph || (graph.own[s] && !surface.query.hidden[graph.faces[s]])) alike.take(s, s + 1);
        });
    }
    const { state } = alike;
    // The gutter goes with its island.
    const gutter = graph?.gutter ?? null;
    for (let ty = 0; ty * TILE < height; ty++)
      for (let tx = 0; tx * TILE < width; tx++) {
        if (!nearTaken(alike.taken, tilesAcross(width), tx, ty)) continue;
        const [columns, rows] = [Math.min(TILE, width - tx * TILE), Math.min(TILE, height - ty * TILE)];
        let [x0, y0, x1, y1] = [TILE, TILE, 0, 0];
        let values: Float32Array | null = null;
        for (let y = 0; y < rows; y++)
          for (let x = 0, s = (ty * TILE + y) * width + tx * TILE; x < columns; x++, s++) {
            if (state[s] !== TAKEN && !(gutter && gutter[s] >= 0 && state[gutter[s]] === TAKEN)) continue;
            values ??= coverage.tile(tx, ty).values;
            const i = y * TILE + x;
            if (values[i] < opacity) values[i] = opacity;
            if (x < x0) x0 = x;
            if (x >= x1) x1 = x + 1;
            if (y < y0) y0 = y;
            y1 = y + 1;
          }
        if (x0 < x1) coverage.touch(coverage.tile(tx, ty), x0, y0, x1, y1);
      }
  },
};

/** Whether texels of a tile or of those beside it were taken: gutters are narrower than a tile. */
function nearTaken(taken: Uint8Array, across: number, tx: number, ty: number): boolean {
  for (let y = ty - 1; y <= ty + 1; y++)
    for (let x = tx - 1; x <= tx + 1; x++) if (x >= 0 && x < across && y >= 0 && taken[y * across + x]) return true;
  return false;
}
