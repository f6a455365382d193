/** What tools share that lay down values of other places: what they read, and how it comes onto the layer. */
import { storedChannels, type MapId, type PlaneMap } from '../../kinds/maps';
import type { ChoiceControl } from '../../kinds/control';
import { lasting, TILE, TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import { Looked } from '../looked';
import type { Meant } from '../meant';
import type { Patch, ToolContext, Visible } from './tool';

/** Whether a tool reads the layer's own paint or all that is seen. */
export const OF: ChoiceControl = {
  kind: 'choice',
  key: 'of',
  label: 'Of',
  options: [
    { value: 'layer', label: 'own paint' },
    { value: 'all', label: 'all layers' },
  ],
};

/** A mask has nothing under it that could be seen instead of its own paint. */
export const looks = (settings: ToolContext['settings'], map: PlaneMap): map is MapId =>
  settings.of !== 'layer' && map !== 'mask' && map !== 'picture';

/** "What is seen" is read up to the layer at work: layers above still apply to the paint, and reading them would apply them twice. */
export const seenOf = ({ of }: ToolContext['settings']): Visible => (of === 'all' ? 'through' : (of as Visible));

/** What the tool reads of a map, as it was when the stroke began. */
export function lookAt({ settings, sheet, visible, stored }: ToolContext, map: PlaneMap): Looked {
  const channels = storedChannels(map);
  const seen = looks(settings, map) ? map : null;
  const of = seenOf(settings);
  return new Looked(sheet, channels, (tile) => (seen ? visible(of, seen, tile) : stored(map, tile)));
}

/** What is taken from of a map: the sheet, or a picture, which has colours only; null: nothing. */
export function lookAtSource(context: ToolContext, map: PlaneMap): Looked | null {
  const id = context.source?.picture;
  if (!id) return lookAt(context, map);
  const picture = storedChannels(map) === 4 && map !== 'normal' ? context.picture(id) : null;
  return picture && new Looked({ ...picture, wrapU: false, wrapV: false }, 4, (tile) => picture.tile(tile));
}

/** What is taken lies over what is there: it is what is seen, or a picture, whose alpha says where it is. */
export const liesOver = ({ settings, source }: ToolContext, map: PlaneMap): boolean =>
  looks(settings, map) || source?.picture !== undefined;

/** Values taken for texels, once each: premultiplied. */
export interface TakenTile {
  values: Float32Array;
  /** 1: taken. 2: there is nothing to take. */
  done: Uint8Array;
}

export class Taken {
  private tiles = new Map<TileIndex, TakenTile>();

  constructor(readonly channels: 2 | 4) {}

  tile(index: TileIndex): TakenTile {
    let tile = this.tiles.get(index);
    if (!tile) {
      tile = {
        values: lasting(Float32Array, TILE_TEXELS * this.channels).fill(0),
        done: lasting(Uint8Array, TILE_TEXELS).fill(0),
      };
      this.tiles.set(index, tile);
    }
    return tile;
  }
}

/** Lays taken values down by coverage. */
export const layTaken = (context: ToolContext, patch: Patch, { values, done }: TakenTile, over: boolean): void =>
  layValues(context, patch, values, over, done);

/**
 * Lays premultiplied values down. Of the layer's own paint they take the place of what is there, alpha included. Of what is seen
 * (`over`) they are what is to be seen then: the layer gets the paint that makes it so (meant.ts). `done`: by coverage, where it is 1;
 * null: values that have the coverage in them take their place wherever there is any.
 */
export function layValues(
  context: ToolContext,
  patch: Patch,
  values: Float32Array,
  over: boolean,
  done: Uint8Array | null,
): void {
  const meant = over ? context.meant(patch.map as MapId) : null;
  // On a plain layer paint laid over by source-over is seen as it is (W3C Compositing, 5.1).
  if (!meant || (meant.plain && done !== null)) layOver(patch, values, over, done);
  else layMeant(meant, patch, values, done);
}

const seen = [0, 0, 0];
const paint = [0, 0, 0];

/**
 * What the stack showed at a texel when the stroke began, straight values. Callers change the array in place and pass it on by calling
 * `laySeen`. null: paint on this texel cannot show.
 */
export function seenAt(meant: Meant, { channels, before }: Patch, i: number): number[] | null {
  const colours = channels - 1;
  for (let k = 0; k < colours; k++) paint[k] = before === null ? 0 : before[i * channels + k] / 65535;
  meant.at(i, paint, before === null ? 0 : before[i * channels + colours] / 65535, seen);
  return meant.hidden ? null : seen;
}

/** Writes the paint that makes the stack show the array of the last `seenAt`. `cover`: how much paint the stroke lays there, 0 … 1. */
export function laySeen(meant: Meant, { channels, before, after }: Patch, i: number, cover: number): void {
  const o = i * channels;
  const there = before === null ? 0 : before[o + channels - 1] / 65535;
  const alpha = meant.lay(seen, cover + there * (1 - cover), paint);
  for (let k = 0; k < channels - 1; k++) after[o + k] = paint[k] + 0.5;
  after[o + channels - 1] = alpha * 65535 + 0.5;
}

/** An earlier flush of the same stroke may have laid something on a texel that gets nothing in the end, as healing does. */
function layBefore({ channels, before, after }: Patch, i: number): void {
  for (let o = i * channels, end = o + channels; o < end; o++) after[o] = before === null ? 0 : before[o];
}

function layMeant(meant: Meant, patch: Patch, values: Float32Array, done: Uint8Array | null): void {
  const { channels, coverage, amount, x0, y0, x1, y1 } = patch;
  meant.inTile(patch.tile);
  for (let y = y0; y < y1; y++)
    for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
      if (coverage[i] <= 0 || (done !== null && done[i] !== 1)) continue;
      const o = i * channels;
      const at = values[o + channels - 1];
      const as = coverage[i] * amount * at;
      const now = as > 0 ? seenAt(meant, patch, i) : null;
      if (!now) {
        layBefore(patch, i);
        continue;
      }
      const share = done === null ? amount : as;
      for (let k = 0; k < channels - 1; k++) now[k] += (values[o + k] / at - now[k]) * share;
      laySeen(meant, patch, i, as);
    }
}

function layOver(patch: Patch, values: Float32Array, over: boolean, done: Uint8Array | null): void {
  const { channels, coverage, before, after, amount, x0, y0, x1, y1 } = patch;
  const colours = channels - 1;
  const whole = done === null && !over;
  for (let y = y0; y < y1; y++)
    for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
      const as = whole && coverage[i] > 0 ? amount : coverage[i] * amount;
      if (as <= 0 || (done !== null && done[i] !== 1)) continue;
      const o = i * channels;
      const ab = before === null ? 0 : before[o + colours] / 65535;
      const at = values[o + colours];
      // What stays of what is there, premultiplied and as alpha.
      const keep = over ? 1 - as * at : 1 - as;
      const ao = at * as + ab * keep;
      if (ao <= 0) {
        layBefore(patch, i);
        after[o + colours] = 0;
        continue;
      }
      for (let k = 0; k < colours; k++) {
        const b = before === null ? 0 : before[o + k] / 65535;
        after[o + k] = Math.min(1, (values[o + k] * as + b * ab * keep) / ao) * 65535 + 0.5;
      }
      after[o + colours] = Math.min(1, ao) * 65535 + 0.5;
    }
}
