/** Short words for building stacks by rule: coats, masks, steps, placements. */
import { hexToSrgb } from '../src/core/colour/transfer';
import { newCoatLayer, newGroup } from '../src/core/document/factory';
import { START_MAPS, type MapId } from '../src/core/kinds/maps';
import { maskSchema, stepSchema, type Layer, type Mask, type Step, type StepBlend } from '../src/core/document/schema';
import type { StepSource } from '../src/core/kinds/steps';
import type { Filter } from '../src/core/kinds/filters';
import type { Placement } from '../src/core/kinds/placement';
import { SOURCES, type Made, type MadeOf, type SourceType } from '../src/core/kinds/sources';

/** A source with some of its settings changed. */
export function made<K extends SourceType>(type: K, over: Partial<MadeOf<K>> = {}): Made {
  return { ...SOURCES[type].start, ...over } as Made;
}

/** What a map of a coat gets: one value, two ends (where the source is 0, where 1), or a ramp of colours. */
type Spread = number | string | [number, number] | [string, string] | { at: number; colour: string }[];

const values = (v: number | string): number[] => (typeof v === 'string' ? hexToSrgb(v) : [v]);

export function coat(
  id: string,
  name: string,
  spreads: Partial<Record<MapId, Spread>>,
  source: Made | null = null,
  placement: Placement | null = null,
  over: Partial<Layer> = {},
): Layer {
  const layer = newCoatLayer(id, name, {}, START_MAPS);
  for (const [map, spread] of Object.entries(spreads) as [MapId, Spread][]) {
    const cell = { ...layer.cells[map]!, on: true };
    if (Array.isArray(spread) && typeof spread[0] === 'object') {
      const stops = spread as { at: number; colour: string }[];
      cell.ramp = stops.map((s) => ({ at: s.at, colour: hexToSrgb(s.colour) as [number, number, number] }));
      cell.value = hexToSrgb(stops.at(-1)!.colour);
      cell.low = hexToSrgb(stops[0].colour);
    } else if (Array.isArray(spread)) {
      cell.low = values(spread[0] as number | string);
      cell.value = values(spread[1] as number | string);
    } else cell.value = values(spread);
    layer.cells[map] = cell;
  }
  return { ...layer, source, placement, ...over };
}

export function step(
  id: string,
  source: StepSource,
  blend: StepBlend = 'multiply',
  filters: Filter[] = [],
  over: Partial<Step> = {},
): Step {
  // Paint goes over what is there; all else weighs it.
  return stepSchema.parse({ id, source, blend: source.type === 'paint' ? 'normal' : blend, filters, ...over });
}

export const rule = (m: Made, placement: Placement | null = null): StepSource => ({ type: 'made', made: m, placement });

export function mask(id: string, name: string, steps: Step[], over: Partial<Mask> = {}): Mask {
  // The first says what is; the others weigh it.
  return maskSchema.parse({
    id,
    name,
    ground: 0,
    steps: steps.map((s, n) => (n === 0 ? { ...s, blend: 'normal' } : s)),
    ...over,
  });
}

export const masked = (layer: Layer, id: string): Layer => ({ ...layer, mask: { id, on: true } });

export const levels = (black: number, white: number, gamma = 1): Filter => ({
  type: 'levels',
  black,
  white,
  gamma,
  outBlack: 0,
  outWhite: 1,
});

/** Members bottom first, then the group. */
export const within = (group: Layer, ...members: Layer[]): Layer[] => [
  ...members.map((l) => ({ ...l, parent: group.id })),
  group,
];
export const open = (id: string, name: string, over: Partial<Layer> = {}): Layer => ({
  ...newGroup(id, name),
  passThrough: true,
  ...over,
});
