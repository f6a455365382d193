/**
 * Kinds that only tests know, one for each registry: what is added here by a line each has to be validated, evaluated,
 * edited and listed like what ships, without a change anywhere else. Importing this file adds them, for the test that
 * does: registries belong to a test's own modules.
 */
import { z } from 'zod';
import { AREA_TYPES, AREAS } from '../hand/areas';
import { TOOL_TYPES, TOOLS } from '../hand/tools';
import { BAKES, BAKE_TYPES } from '../kinds/bakes';
import { percent } from '../kinds/control';
import { unit } from '../kinds/fields';
import { FILTERS, FILTER_TYPES } from '../kinds/filters';
import { MAP_IDS, MAP_ROWS, MAPS, type MapInfo } from '../kinds/maps';
import { SOURCES, SOURCE_TYPES } from '../kinds/sources';
import { STEPS, STEP_TYPES } from '../kinds/steps';
import type { AreaDef } from '../hand/areas/area';
import type { ToolDef } from '../hand/tools/tool';
import type { BakeDef } from '../kinds/bakes/bake';
import type { FilterDef } from '../kinds/filters/filter';
import type { SourceDef } from '../kinds/sources/source';
import type { StepDef } from '../kinds/steps/step';
import { OUTPUTS } from '../deliver/outputs';
import type { PieceOutput } from '../deliver/outputs/output';
import { METERS } from '../proof/meters';
import type { Meter } from '../proof/meters/meter';

/** Grey with a setting of its own. */
const settings = <T extends string>(type: T) => z.object({ type: z.literal(type), level: unit });
type Settings<T extends string> = z.infer<ReturnType<typeof settings<T>>>;
const LEVEL = percent('level', 'Level');

const source: SourceDef<Settings<'toy-source'>> = {
  type: 'toy-source',
  label: 'Toy source',
  hint: 'The same everywhere.',
  group: 'pattern',
  schema: settings('toy-source'),
  start: { type: 'toy-source', level: 0.25 },
  controls: [LEVEL],
  where: () => 'placed',
  fill: (p, _, out) => void out.fill(p.level),
};

const filter: FilterDef<Settings<'toy-filter'>> = {
  type: 'toy-filter',
  label: 'Toy adjustment',
  hint: 'Makes values smaller.',
  schema: settings('toy-filter'),
  start: { type: 'toy-filter', level: 0.5 },
  controls: [LEVEL],
  fits: (kind) => kind === 'value',
  apply: (data, texels, _, p) => {
    for (let i = 0; i < texels; i++) data[i] *= p.level;
  },
};

const step: StepDef<Settings<'toy-step'>> = {
  type: 'toy-step',
  schema: settings('toy-step'),
  start: { type: 'toy-step', level: 0.5 },
  controls: [LEVEL],
  presets: [
    {
      label: 'Toy step, half',
      hint: 'Half of it.',
      settings: { type: 'toy-step', level: 0.5 },
      added: 'a toy',
      mask: { label: 'Toy mask', hint: 'Half of all.' },
    },
  ],
  word: (p) => `toy ${p.level}`,
  anywhere: true,
  compile: (p, build) => build.value(p.level),
};

const bake: BakeDef<Settings<'toy-bake'>> = {
  type: 'toy-bake',
  label: 'Toy bake',
  hint: 'The same everywhere.',
  values: 'value',
  from: { model: true, twin: false },
  schema: settings('toy-bake'),
  start: { type: 'toy-bake', level: 0.75 },
  controls: [LEVEL],
  fileWords: /^toy$/,
  prepare:
    ({ level }) =>
    (_, __, count, out) =>
      void out.fill(level, 0, count),
};

const map: MapInfo = {
  id: 'toy-map' as MapInfo['id'],
  label: 'Toy map',
  short: 'To',
  kind: 'value',
  ground: [0.125],
  start: [1],
  display: 'percent',
  hint: 'A number.',
};

const area: AreaDef<Settings<'toy-area'>, { toyLevel: number }> = {
  type: 'toy-area',
  schema: settings('toy-area'),
  settings: { toyLevel: 0.5 },
  ways: [
    {
      id: 'toy-area',
      label: 'Toy area',
      hint: 'Covers one tile.',
      gesture: 'click',
      controls: [{ key: 'toyLevel', label: 'Toy level', kind: 'number', min: 0, max: 1 }],
      area: ({ toyLevel: level }) => ({ type: 'toy-area', level }),
    },
  ],
  cover: ({ level }, { coverage, opacity }) => {
    const tile = coverage.tile(0, 0);
    tile.values.fill(level * opacity);
    coverage.touch(tile, 0, 0, 128, 128);
  },
};

const tool: ToolDef = {
  type: 'toy-tool',
  label: 'Toy tool',
  hint: 'Makes all that it touches white.',
  controls: [LEVEL],
  start: { level: 1 },
  begin: () => ({
    flush: ({ after, channels, coverage, x0, y0, x1, y1 }) => {
      for (let y = y0; y < y1; y++)
        for (let i = y * 128 + x0; i < y * 128 + x1; i++)
          if (coverage[i] > 0) after.fill(65535, i * channels, (i + 1) * channels);
    },
  }),
};

const meter: Meter = {
  ...{ id: 'toy-meter', label: 'Toy meter', hint: 'Counts layers.', unit: 'layers', limit: 0 },
  maps: () => ['base-colour'],
  measure: ({ source: { sheet } }) => ({
    figure: sheet.layers.length,
    picture: { width: 1, height: 1, channels: 1, bits: 8, data: new Uint8Array(1) },
    places: [],
  }),
};

const output: PieceOutput = {
  type: 'toy-output',
  label: 'Toy output',
  ending: 'txt',
  per: 'piece',
  offers: () => [{ id: 'toy-output', label: 'Toy output' }],
  knows: (id) => id === 'toy-output',
  file: async ({ piece }) => new TextEncoder().encode(piece.name),
};

const add = (registry: object, types: readonly string[], type: string, def: unknown): void => {
  (registry as Record<string, unknown>)[type] = def;
  (types as string[]).push(type);
};

add(SOURCES, SOURCE_TYPES, source.type, source);
add(FILTERS, FILTER_TYPES, filter.type, filter);
add(STEPS, STEP_TYPES, step.type, step);
add(BAKES, BAKE_TYPES, bake.type, bake);
add(MAPS, MAP_IDS, map.id, map);
(MAP_ROWS as MapInfo[]).push(map);
add(AREAS, AREA_TYPES, area.type, area);
add(TOOLS, TOOL_TYPES, tool.type, tool);
(METERS as Meter[]).push(meter);
OUTPUTS[output.type] = output;
