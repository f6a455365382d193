/**
 * Heal: the texture of another place, with the tone of what is there. While the pen is down the texture is seen as it is;
 * when it is lifted, what differs from the stroke's rim is evened out over all that it has reached (Pérez, Gangnet and Blake
 * 2003, seamless cloning), on the surface: over seams as well.
 */
import type { PlaneMap } from '../../kinds/maps';
import { TILE, tileIndex, tileX, tileY, type TileIndex } from '../../tile/tiles';
import type { ModelSample, Source } from '../sample';
import type { CoverageTile } from '../coverage';
import type { Looked } from '../looked';
import { neighbourLists, solveMembrane } from '../membrane';
import { beside as besidePoint, sheetPlace } from '../place';
import { Taking } from './clone';
import { layTaken, lookAt, looks, OF, type TakenTile } from './taking';
import type { Dab, ToolContext, ToolDef } from './tool';

export const heal: ToolDef = {
  type: 'heal',
  needsPath: true,
  label: 'Heal',
  hint: 'Covers a flaw with texture, in the tone that is there.',
  suitedBrush: 'shipped:hard-round',
  controls: [
    {
      kind: 'choice',
      key: 'from',
      label: 'From',
      options: [
        { value: 'around', label: 'around' },
        { value: 'source', label: 'a source' },
      ],
    },
    OF,
  ],
  start: { from: 'around', of: 'all' },
  takesFromSource: ({ from }) => from === 'source',
  begin: (context) => {
    let taking: Taking | null = null;
    let radiusTexels = 1;
    const over = (map: PlaneMap) => looks(context.settings, map);
    return {
      dab: (imprint, dab) => {
        const source = context.settings.from === 'source' && context.source ? context.source : null;
        radiusTexels = dab.at.pane === 'flat' ? dab.radius : dab.radius * context.beside.texelsPerMetre;
        taking ??= new Taking({
          ...context,
          settings: { ...context.settings, moves: source ? 'along' : 'anew' },
          source: source ?? around(context, dab),
        });
        taking.dab(imprint, dab);
      },
      flush: (patch) => {
        const own = taking?.maps.get(patch.map);
        if (own) layTaken(context, patch, own.taken.tile(patch.tile), over(patch.map));
      },
      end: (touched) => {
        if (!taking) return false;
        const region = new Region(context, touched);
        for (const [map, { taken }] of taking.maps)
          even(region, lookAt(context, map), (tile) => taken.tile(tile), 2 * radiusTexels);
        return true;
      },
    };
  },
};

/** Radii from the pen to where the texture is taken around it. */
const AWAY = 2.4;
const RIM = 1.25;
const DIRECTIONS = 8;

/** The place around the first dab whose mean is most like that of the dab's rim. */
function around(context: ToolContext, dab: Dab): Source | null {
  const map = context.maps[0];
  if (!map) return null;
  const looked = lookAt(context, map);
  const read = new Float32Array(4);
  const { at, radius } = dab;
  const texels = at.pane === 'flat' ? radius : radius * context.beside.texelsPerMetre;
  const sampleAt = (away: number, n: number): Source['at'] | null => {
    const angle = (n / DIRECTIONS) * Math.PI * 2;
    const [x, y] = [Math.cos(angle) * away * radius, Math.sin(angle) * away * radius];
    if (at.pane === 'flat') return { ...at.sample, pane: 'flat', x: at.x + x, y: at.y + y, texelsPerPixel: 1 };
    const hit = context.surface!.query.near(besidePoint(at.hit.point, dab.frame!, x, y), dab.frame!.out, away * radius);
    if (!hit) return null;
    const direction = hit.normal.map((v) => -v) as ModelSample['direction'];
    const origin = hit.point.map((v, k) => v + hit.normal[k] * radius) as ModelSample['origin'];
    return { ...at.sample, pane: 'model', origin, direction };
  };
  const meanAt = (sample: Source['at']): number[] => {
    let place = sample.pane === 'flat' ? sample : null;
    if (sample.pane === 'model') {
      const hit = context.surface!.query.raycast(sample.origin, sample.direction);
      place = hit && ({ ...sheetPlace(hit, context.surface!.map) } as typeof place);
    }
    const sum = [0, 0, 0, 0];
    if (!place) return sum;
    for (let n = 0; n < 9; n++) {
      looked.sample(place.x + ((n % 3) - 1) * texels * 0.4, place.y + (((n / 3) | 0) - 1) * texels * 0.4, read);
      for (let k = 0; k < looked.channels; k++) sum[k] += read[k] / 9;
    }
    return sum;
  };
  const every = Array.from({ length: DIRECTIONS }, (_, n) => n);
  const rims = every
    .map((n) => sampleAt(RIM, n))
    .filter((s) => s !== null)
    .map(meanAt);
  const rim = [0, 1, 2, 3].map((k) => rims.reduce((sum, mean) => sum + mean[k], 0) / Math.max(1, rims.length));
  let best: Source['at'] | null = null;
  let least = Infinity;
  for (const n of every) {
    const sample = sampleAt(AWAY, n);
    if (!sample) continue;
    const off = meanAt(sample).reduce((sum, v, k) => sum + (v - rim[k]) ** 2, 0);
    if (off < least) [best, least] = [sample, off];
  }
  return best && { at: best };
}

/** The texels that a stroke has reached, as nodes that know those beside them on the surface. */
class Region {
  readonly tiles: TileIndex[] = [];
  readonly texels: number[] = [];
  readonly start: Int32Array;
  readonly beside: Int32Array;
  private numbers = new Map<TileIndex, Int32Array>();
  /** 1: on the rim, beside texels that the stroke has not reached. */
  readonly rim: Uint8Array;
  /** Of a texel in a gutter, the node that is the same place on the surface; −1: it is none, or that was not reached. */
  readonly same: Int32Array;

  constructor({ sheet, surface, beside: places }: ToolContext, touched: readonly CoverageTile[]) {
    for (const tile of touched) {
      const numbers = new Int32Array(TILE * TILE).fill(-1);
      this.numbers.set(tile.index, numbers);
      for (let i = 0; i < numbers.length; i++) {
        if (tile.values[i] <= 0) continue;
        numbers[i] = this.tiles.length;
        this.tiles.push(tile.index);
        this.texels.push(i);
      }
    }
    const count = this.tiles.length;
    this.rim = new Uint8Array(count);
    this.same = new Int32Array(count).fill(-1);
    // 1. What lies in a gutter is a place beyond the seam.
    const inGutter = new Uint8Array(count);
    const here = places.around([[0, 0]]);
    for (let n = 0; n < count && surface; n++) {
      if (n === 0 || this.tiles[n] !== this.tiles[n - 1]) here.inTile(this.tiles[n]);
      here.from(this.texels[n]);
      here.go(0);
      const [x, y] = this.placeOf(n);
      if (Math.abs(here.x - x - 0.5) + Math.abs(here.y - y - 0.5) < 0.02) continue;
      inGutter[n] = 1;
      this.same[n] = this.numberAt(Math.floor(here.x), Math.floor(here.y));
    }
    // 2. The others have the texels around them beside them; over a seam those that the gutter stands for.
    const pairs: number[] = [];
    const { width, height, wrapU, wrapV } = sheet;
    for (let n = 0; n < count; n++) {
      if (inGutter[n]) continue;
      const [x, y] = this.placeOf(n);
      for (let k = 0; k < 4; k++) {
        let nx = x + (k === 0 ? -1 : k === 1 ? 1 : 0);
        let ny = y + (k === 2 ? -1 : k === 3 ? 1 : 0);
        if (wrapU && !surface) nx = (nx + width) % width;
        if (wrapV && !surface) ny = (ny + height) % height;
        if (nx < 0 || ny < 0 || nx >= width || ny >= height) continue;
        const other = this.numberAt(nx, ny);
        const there = other >= 0 && inGutter[other] ? this.same[other] : other;
        if (there < 0 || inGutter[there]) this.rim[n] = 1;
        // Pairs within the sheet are met from both sides: once is enough.
        else if (there !== n && (there !== other || k % 2 === 1)) pairs.push(n, there);
      }
    }
    for (let n = 0; n < count; n++) if (inGutter[n] && (this.same[n] < 0 || inGutter[this.same[n]])) this.same[n] = -1;
    for (let n = 0; n < count; n++) if (inGutter[n]) this.rim[n] = 1;
    ({ start: this.start, beside: this.beside } = neighbourLists(count, pairs));
  }

  private placeOf(n: number): [number, number] {
    const tile = this.tiles[n];
    const i = this.texels[n];
    return [tileX(tile) * TILE + (i % TILE), tileY(tile) * TILE + ((i / TILE) | 0)];
  }

  private numberAt(x: number, y: number): number {
    return this.numbers.get(tileIndex(x >> 7, y >> 7))?.[(y & 127) * TILE + (x & 127)] ?? -1;
  }
}

/** What was taken gets the tone of what is there. */
function even(region: Region, below: Looked, taken: (tile: TileIndex) => TakenTile, across: number): void {
  const { tiles, texels, start, beside, rim, same } = region;
  const count = tiles.length;
  const { channels } = below;
  const colours = channels - 1;
  const values = new Float64Array(count * colours);
  const given = new Uint8Array(count);
  const mean = new Float64Array(colours);
  let known = 0;
  // 1. At the rim the difference is given; nothing to take counts as rim too.
  for (let n = 0; n < count; n++) {
    const { values: from, done } = taken(tiles[n]);
    const o = texels[n] * channels;
    if (!rim[n] && done[texels[n]] === 1) continue;
    given[n] = 1;
    const own = below.tile(tiles[n]);
    const a = own === null ? 0 : own[o + colours];
    const b = from[o + colours];
    if (done[texels[n]] !== 1 || a === 0 || b === 0) continue;
    known++;
    for (let k = 0; k < colours; k++) {
      values[n * colours + k] = own![o + k] / a - from[o + k] / b;
      mean[k] += values[n * colours + k];
    }
  }
  if (known === 0) return;
  for (let n = 0; n < count; n++) if (!given[n]) for (let k = 0; k < colours; k++) values[n * colours + k] = mean[k] / known;
  // 2. In between it is as even as it can be.
  solveMembrane({ values, channels: colours, start, beside, given }, across);
  for (let n = 0; n < count; n++)
    if (same[n] >= 0) for (let k = 0; k < colours; k++) values[n * colours + k] = values[same[n] * colours + k];
  // 3. Added to the texture; how much of it there is stays as it was.
  for (let n = 0; n < count; n++) {
    const { values: into, done } = taken(tiles[n]);
    if (done[texels[n]] !== 1) continue;
    const o = texels[n] * channels;
    const b = into[o + colours];
    const own = below.tile(tiles[n]);
    const a = own === null ? 0 : own[o + colours];
    for (let k = 0; k < colours; k++) {
      const c = b > 0 ? into[o + k] / b : 0;
      into[o + k] = Math.min(1, Math.max(0, c + values[n * colours + k])) * a;
    }
    into[o + colours] = a;
  }
}
