/** What sources and adjustments say of themselves holds for every one of them. */
import { scaledSettings, type Control } from '../kinds/control';
import { FILTERS, FILTER_TYPES } from '../kinds/filters';
import { LAYER_KINDS, layerFaults, LAYERS } from '../kinds/layers';
import { LAYER_OPS } from '../strata/layers';
import { MAP_ROWS, PACKED_MAPS } from '../kinds/maps';
import { PLANES, shownOn } from '../kinds/shown';
import { SOURCES, SOURCE_TYPES } from '../kinds/sources';

const ALL = [...FILTER_TYPES.map((t) => FILTERS[t]), ...SOURCE_TYPES.map((t) => SOURCES[t])] as {
  type: string;
  label: string;
  hint: string;
  schema: { safeParse: (v: unknown) => { success: boolean } };
  start: Record<string, unknown>;
  controls: readonly Control[];
}[];

describe.each(ALL.map((def) => [def.type, def] as const))('%s', (type, def) => {
  test('starts with settings that its schema takes, under its own name, and has words', () => {
    expect(def.schema.safeParse(def.start).success).toBe(true);
    expect(def.start.type).toBe(type);
    expect(def.label).toMatch(/^[A-Z]/);
    expect(def.hint).toMatch(/\.$/);
  });

  test('has controls for settings that are there, and both ends of each are valid', () => {
    for (const control of def.controls) {
      expect(Object.keys(def.start)).toContain(control.key);
      const ends =
        control.kind === 'number'
          ? [control.min, control.max].map((v) => v / (control.scale ?? 1))
          : control.kind === 'choice'
            ? control.options.map((o) => o.value)
            : ['height'];
      for (const v of ends)
        expect([control.key, v, def.schema.safeParse({ ...def.start, [control.key]: v }).success]).toEqual([
          control.key,
          v,
          true,
        ]);
    }
  });
});

test('every type is listed once, among adjustments as among sources', () => {
  for (const list of [FILTER_TYPES, SOURCE_TYPES] as string[][]) expect(new Set(list).size).toBe(list.length);
});

test('lengths in texels follow the size of the sheet, and nothing else does', () => {
  const scaled = (type: (typeof FILTER_TYPES)[number]) => scaledSettings(FILTERS[type].controls, FILTERS[type].start, 0.25);
  expect(scaled('blur')).toMatchObject({ sigma: 1 });
  expect(scaled('warp')).toMatchObject({ amount: 3, scale: 12, octaves: 4, seed: 1 });
  expect(scaled('grow')).toMatchObject({ by: 1, soften: 0.5 });
  expect(scaled('sharpen')).toMatchObject({ sigma: 0.3, amount: 0.8 });
  expect(scaled('shift')).toEqual(FILTERS.shift.start);
  // A median counts whole texels; a line is never shorter than one.
  expect(scaledSettings(FILTERS.median.controls, { type: 'median', radius: 6 }, 0.25)).toMatchObject({ radius: 2 });
  expect(scaledSettings(FILTERS.smear.controls, { type: 'smear', length: 2, angle: 30 }, 0.25)).toMatchObject({
    length: 1,
    angle: 30,
  });
});

describe('the rows of maps', () => {
  test('no two take the same channel of a plane, and each fits into it', () => {
    const taken = new Set<string>();
    for (const { id, kind, shown } of MAP_ROWS) {
      if (!shown) continue;
      for (let c = 0; c < (kind === 'value' ? 1 : 3); c++) {
        const place = `${shown.plane} ${shown.channel + c}`;
        expect([id, place, taken.has(place)]).toEqual([id, place, false]);
        expect(shown.channel + c).toBeLessThan(4);
        taken.add(place);
      }
    }
  });

  test('each is shown where its row says; own maps and masks by themselves', () => {
    expect(shownOn('base-colour')).toEqual({ plane: 'colour', channel: -1 });
    expect(shownOn('opacity')).toEqual({ plane: 'colour', channel: 3 });
    expect(shownOn('normal')).toEqual({ plane: 'normal', channel: -2 });
    expect(shownOn('height')).toEqual({ plane: 'surface', channel: 3 });
    expect(shownOn('own-oil')).toEqual({ plane: 'view', channel: 0 });
    expect(shownOn('mask')).toEqual({ plane: 'view', channel: 0 });
    expect(PLANES.surface.maps).toEqual(['occlusion', 'roughness', 'metallic', 'height']);
    expect(PACKED_MAPS).toEqual(['occlusion', 'roughness', 'metallic']);
  });

  test('grounds and starts have the numbers of their kind', () => {
    for (const { kind, ground, start } of MAP_ROWS)
      for (const v of [ground, start]) expect(v).toHaveLength(kind === 'value' ? 1 : 3);
  });
});

describe('the kinds of layer', () => {
  const record = (kind: (typeof LAYER_KINDS)[number], over: object = {}) => ({
    kind,
    cells: {},
    source: null,
    filter: null,
    echo: null,
    ...over,
  });

  test('a record is refused when it lacks what its kind needs, or has what belongs to another', () => {
    const faults = (kind: (typeof LAYER_KINDS)[number], over?: object) => layerFaults(record(kind, over)).map((f) => f.message);
    expect(faults('painted')).toEqual([]);
    expect(faults('group')).toEqual([]);
    expect(faults('coat', { cells: { height: { value: [0.5] } } })).toEqual([]);
    expect(faults('coat', { cells: { height: { value: [0.5, 0.5] } } })).toEqual(['a coat on height needs 1 number']);
    expect(faults('coat', { cells: { 'base-colour': {} } })).toEqual(['a coat on base-colour needs 3 numbers']);
    expect(faults('adjust')).toEqual(['adjust layers, and only they, have a filter']);
    expect(faults('painted', { filter: {} })).toEqual(['adjust layers, and only they, have a filter']);
    expect(faults('echo')).toEqual(['echo layers, and only they, have an original']);
    expect(faults('group', { source: {} })).toEqual(['only coats have a source']);
  });

  test('strokes go where pixels are, and only groups hold others', () => {
    for (const kind of LAYER_KINDS) {
      const { byHand, planes, members, word } = LAYERS[kind];
      expect(word).toMatch(/^an? /);
      if (byHand) expect(planes).toBe(true);
      if (members) expect(planes).toBe(false);
      expect(LAYER_OPS[kind]).toBeDefined();
    }
    expect(LAYER_KINDS.filter((k) => LAYERS[k].members)).toEqual(['group']);
  });
});
