/** ./brindle kinds [--json]: what layers, masks, brushes, bakes and dispatches are made of, from the registries. */
import { OUTPUTS } from '../src/core/deliver/outputs';
import { areaWays } from '../src/core/hand/areas';
import { TOOL_TYPES, TOOLS } from '../src/core/hand/tools';
import { BAKE_TYPES, BAKES } from '../src/core/kinds/bakes';
import { FILTER_TYPES, FILTERS } from '../src/core/kinds/filters';
import { LAYER_KINDS, LAYERS } from '../src/core/kinds/layers';
import { MAP_ROWS } from '../src/core/kinds/maps';
import { SOURCE_TYPES, SOURCES } from '../src/core/kinds/sources';
import { STEP_TYPES, STEPS } from '../src/core/kinds/steps';
import { METERS } from '../src/core/proof/meters';
import { parseCommand } from './badInput';

interface Kind {
  type: string;
  label: string;
}

const NO_NAMES = { layers: [], masks: [], pictures: [], ownMaps: [] };

/** Every registry with its kinds, in their order. */
export function allKinds(): Record<string, Kind[]> {
  const labelled = <T extends string>(types: readonly T[], of: Record<T, { label: string }>) =>
    types.map((type) => ({ type, label: of[type].label }));
  return {
    maps: MAP_ROWS.map(({ id: type, label }) => ({ type, label })),
    layers: LAYER_KINDS.map((type) => ({ type, label: LAYERS[type].word })),
    sources: labelled(SOURCE_TYPES, SOURCES),
    adjustments: labelled(FILTER_TYPES, FILTERS),
    'mask steps': STEP_TYPES.map((type) => ({ type, label: STEPS[type].word(STEPS[type].start, NO_NAMES) })),
    tools: labelled(TOOL_TYPES, TOOLS),
    areas: areaWays().map(({ id, label }) => ({ type: id, label })),
    bakes: labelled(BAKE_TYPES, BAKES),
    meters: METERS.map(({ id: type, label }) => ({ type, label })),
    outputs: Object.values(OUTPUTS).map(({ type, label }) => ({ type, label })),
  };
}

export function run(args: string[]): Promise<void> {
  const { values } = parseCommand(args, { json: { type: 'boolean' } }, []);
  const kinds = allKinds();
  if (values.json) process.stdout.write(`${JSON.stringify(kinds, null, 2)}\n`);
  else
    for (const [registry, list] of Object.entries(kinds)) {
      process.stdout.write(`${registry}\n`);
      for (const { type, label } of list) process.stdout.write(`  ${type.padEnd(16)} ${label}\n`);
    }
  return Promise.resolve();
}
