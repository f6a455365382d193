/** Random stacks of every kind of layer with random paint, by seed: for tests and measurements. */
import { SEPARABLE_BLENDS, WHOLE_BLENDS, type BlendId } from '../colour/blend';
import { storedChannels, valueChannels, type MapId } from '../document/maps';
import { newAdjustLayer, newMask, newCoatLayer, newEchoLayer, newGroup, newPaintedLayer, newSheet } from '../document/factory';
import { planeKey, type Layer, type Sheet } from '../document/schema';
import { FILTERS, FILTER_TYPES, type Filter } from '../strata/filters';
import { tilesFromPicture, TileStore } from '../raster/tiles';
import { seededRandom } from './models';

type Random = () => number;
const oneOf = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)];

/** A patch of random texels with random coverage somewhere on a plane. */
export function scribble(random: Random, store: TileStore, key: string, channels: 2 | 4, width: number, height: number): void {
  const pixels = new Uint16Array(width * height * channels);
  const x0 = Math.floor(random() * width * 0.6);
  const y0 = Math.floor(random() * height * 0.6);
  const x1 = Math.min(width, x0 + 20 + Math.floor(random() * width * 0.6));
  const y1 = Math.min(height, y0 + 20 + Math.floor(random() * height * 0.6));
  for (let y = y0; y < y1; y++)
    for (let i = (y * width + x0) * channels; i < (y * width + x1) * channels; i++) pixels[i] = random() * 65536;
  for (const [tile, data] of tilesFromPicture(pixels, width, height, channels)) store.set(key, tile, { data, hash: null });
}

export function randomFilter(random: Random): Filter {
  const type = oneOf(random, FILTER_TYPES);
  switch (type) {
    case 'levels':
      return { type, black: random() * 0.4, white: 0.6 + random() * 0.4, gamma: 0.5 + random(), outBlack: 0, outWhite: random() };
    case 'curve':
      return {
        type,
        points: [
          [0, random()],
          [0.3 + random() * 0.4, random()],
          [1, random()],
        ],
      };
    case 'contrast':
      return { type, brightness: random() - 0.5, contrast: random() - 0.5 };
    case 'hue':
      return { type, hue: random() * 360 - 180, saturation: random() - 0.5, lightness: (random() - 0.5) / 2 };
    case 'blur':
      return { type, sigma: 0.5 + random() * 12 };
    default:
      return FILTERS[type].start;
  }
}

export interface StackOptions {
  over?: Partial<Sheet>;
  layers?: number;
  /** Painted layers and coats only, in one list. */
  plain?: boolean;
}

/** Layers bottom first, in groups up to three deep. */
export function randomStack(seed: number, options: StackOptions = {}): { sheet: Sheet; store: TileStore } {
  const random = seededRandom(seed);
  const maps: MapId[] = options.plain
    ? ['base-colour', 'height', 'roughness', 'metallic']
    : ['base-colour', 'height', 'roughness', 'metallic', 'normal', 'own-oil'];
  const sheet = newSheet('s', 'Sheet', 200, 150, {
    maps,
    ownMaps: options.plain ? [] : [{ id: 'own-oil', name: 'oil' }],
    ...options.over,
  });
  const store = new TileStore();
  const { width, height } = sheet;
  if (!options.plain)
    for (let m = 0; m < 3; m++) {
      sheet.masks.push(newMask(`m${m}`, `Mask ${m}`, m % 2, { invert: random() < 0.3 }));
      scribble(random, store, planeKey(`m${m}`, 'mask'), 2, width, height);
    }
  const open: string[] = [];
  const done: Layer[] = [];
  for (let n = 0; n < (options.layers ?? 9); n++) {
    const layer = randomLayer(random, `l${n}`, sheet, done, store, options.plain ?? false);
    // From the top down in the end: a group takes some of what follows into itself.
    if (open.length && random() < 0.35) open.pop();
    layer.parent = open.at(-1) ?? null;
    if (layer.kind === 'group' && open.length < 3) open.push(layer.id);
    done.push(layer);
  }
  sheet.layers = done.toReversed();
  return { sheet, store };
}

function randomLayer(random: Random, id: string, sheet: Sheet, before: Layer[], store: TileStore, plain: boolean): Layer {
  const kinds = plain
    ? (['painted', 'painted', 'coat'] as const)
    : (['painted', 'painted', 'coat', 'group', 'adjust', 'echo'] as const);
  const kind = oneOf(random, kinds);
  // Echoes only of layers above the groups that they may be in: no cycles. Painted ones always are.
  const originals = before.filter((l) => l.kind === 'painted');
  let layer: Layer;
  if (kind === 'coat') {
    const values = sheet.maps
      .filter(() => random() < 0.6)
      .map((m) => [m, Array.from({ length: valueChannels(m) }, random)] as const);
    layer = newCoatLayer(id, `Coat ${id}`, Object.fromEntries(values), sheet.maps);
  } else if (kind === 'group') layer = { ...newGroup(id, `Group ${id}`, sheet.maps), passThrough: random() < 0.5 };
  else if (kind === 'adjust') layer = newAdjustLayer(id, `Adjust ${id}`, randomFilter(random), sheet.maps);
  else if (kind === 'echo' && originals.length) {
    layer = newEchoLayer(id, `Echo ${id}`, oneOf(random, originals).id, 'base-colour', ['height', 'roughness']);
    layer.echo!.filters = [randomFilter(random)];
  } else {
    layer = newPaintedLayer(id, `Paint ${id}`, sheet.maps);
    for (const map of sheet.maps)
      if (random() < 0.8) scribble(random, store, planeKey(id, map), storedChannels(map), sheet.width, sheet.height);
  }
  for (const cell of Object.values(layer.cells)) if (random() < 0.2) cell!.opacity = random();
  layer.blend = oneOf(random, [...SEPARABLE_BLENDS.slice(0, 16), ...WHOLE_BLENDS.slice(0, 4)] as BlendId[]);
  layer.opacity = random() < 0.3 ? 1 : random();
  layer.visible = random() < 0.9;
  if (!plain && random() < 0.35) layer.mask = { id: `m${Math.floor(random() * 3)}`, on: random() < 0.9 };
  return layer;
}
