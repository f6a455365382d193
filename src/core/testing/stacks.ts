/** Random stacks of every kind of layer with random paint, by seed: for tests and measurements. */
import { SEPARABLE_BLENDS, WHOLE_BLENDS, type BlendId } from '../colour/blend';
import { storedChannels, valueChannels, type MapId } from '../kinds/maps';
import { newAdjustLayer, newMask, newCoatLayer, newEchoLayer, newGroup, newPaintedLayer, newSheet } from '../document/factory';
import { STEP_BLENDS, stepSchema, type Layer, type Sheet, type Step } from '../document/schema';
import type { StepSource } from '../kinds/steps';
import { planeKey } from '../document/planes';
import { whyUnmakeable } from '../document/tree';
import { FILTERS, FILTER_TYPES, type Filter } from '../kinds/filters';
import { tilesFromPicture, TileStore } from '../tile/tiles';
import { SOURCES, SOURCE_TYPES, type Made } from '../kinds/sources';
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

/** Filters that hang on the place in the sheet: shifting what they get does not shift what they give. */
const ANCHORED: readonly Filter['type'][] = ['warp'];

/** A source with a random seed and small scales. */
export function randomMade(random: Random): Made {
  const type = oneOf(random, SOURCE_TYPES);
  const made = { ...SOURCES[type].start } as Record<string, unknown>;
  if ('seed' in made) made.seed = Math.floor(random() * 1000);
  if ('scale' in made) made.scale = 2 + random() * 12;
  return made as unknown as Made;
}

/** A step of a mask from anything that a canvas has; `below`: names of layers and masks that it may look at. */
export function randomStep(random: Random, id: string, sheet: Pick<Sheet, 'masks'>, layers: readonly Layer[]): Step {
  const sources: StepSource[] = [
    { type: 'constant', value: random() },
    { type: 'paint' },
    { type: 'made', made: randomMade(random), placement: null },
    {
      type: 'below',
      map: oneOf(random, ['base-colour', 'height'] as const),
      by: oneOf(random, ['luminance', 'maximum', 'red'] as const),
    },
    { type: 'contact', offset: random() - 0.5, contrast: random(), line: random() < 0.3 ? 0.1 : 0 },
  ];
  const painted = layers.filter((l) => l.kind === 'painted');
  if (painted.length)
    sources.push({
      type: 'layer',
      of: oneOf(random, painted).id,
      map: 'base-colour',
      take: oneOf(random, ['alpha', 'value'] as const),
      by: 'mean',
    });
  if (sheet.masks.length) sources.push({ type: 'mask', of: oneOf(random, sheet.masks).id });
  return stepSchema.parse({
    id,
    source: oneOf(random, sources),
    blend: oneOf(random, STEP_BLENDS),
    amount: random() < 0.5 ? 1 : random(),
    invert: random() < 0.3,
    filters: random() < 0.4 ? [randomFilter(random)] : [],
  });
}

export function randomFilter(random: Random, anchored = true): Filter {
  const type = oneOf(
    random,
    FILTER_TYPES.filter((t) => anchored || !ANCHORED.includes(t)),
  );
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
  /** Coats by rule and masks with recipes too. */
  rules?: boolean;
  /** false: nothing that hangs on the place in the sheet. */
  anchored?: boolean;
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
  const { rules = false, anchored = true } = options;
  const open: string[] = [];
  const done: Layer[] = [];
  for (let n = 0; n < (options.layers ?? 9); n++) {
    const layer = randomLayer(random, `l${n}`, sheet, done, store, { plain: options.plain ?? false, rules, anchored });
    // From the top down in the end: a group takes some of what follows into itself.
    if (open.length && random() < 0.35) open.pop();
    layer.parent = open.at(-1) ?? null;
    if (layer.kind === 'group' && open.length < 3) open.push(layer.id);
    done.push(layer);
  }
  sheet.layers = done.toReversed();
  if (rules) addRecipes(random, sheet, store);
  return { sheet, store };
}

/** Steps for the masks; those that would be made from themselves are left out. */
function addRecipes(random: Random, sheet: Sheet, store: TileStore): void {
  for (const mask of sheet.masks)
    for (let n = 0; n < 3; n++) {
      const step = randomStep(random, `${mask.id}-${n}`, sheet, sheet.layers);
      const steps = [...mask.steps, step];
      const masks = sheet.masks.map((m) => (m.id === mask.id ? { ...m, steps } : m));
      if (whyUnmakeable(sheet.layers, masks)) continue;
      mask.steps = steps;
      if (step.source.type === 'paint') scribble(random, store, planeKey(step.id, 'mask'), 2, sheet.width, sheet.height);
    }
}

function randomLayer(
  random: Random,
  id: string,
  sheet: Sheet,
  before: Layer[],
  store: TileStore,
  { plain, rules, anchored }: { plain: boolean; rules: boolean; anchored: boolean },
): Layer {
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
    if (rules) {
      layer.source = randomMade(random);
      for (const [map, value] of values) layer.cells[map] = { ...layer.cells[map]!, low: value.map(random) };
    }
  } else if (kind === 'group') layer = { ...newGroup(id, `Group ${id}`, sheet.maps), passThrough: random() < 0.5 };
  else if (kind === 'adjust') layer = newAdjustLayer(id, `Adjust ${id}`, randomFilter(random, anchored), sheet.maps);
  else if (kind === 'echo' && originals.length) {
    layer = newEchoLayer(id, `Echo ${id}`, oneOf(random, originals).id, 'base-colour', ['height', 'roughness']);
    layer.echo!.filters = [randomFilter(random, anchored)];
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
