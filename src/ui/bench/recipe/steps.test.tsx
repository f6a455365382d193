/** How steps are added to masks and set, whatever their kind. */
import { fireEvent, render, screen } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import { newCoatLayer, newMask, newPaintedLayer, newPiece, newSheet } from '@/core/document/factory';
import { fenceMask } from '@/core/document/fence';
import { stepSchema } from '@/core/document/schema';
import { STEPS, STEP_TYPES, type StepSource } from '@/core/kinds/steps';
import { useBench } from '../store';
import { StepFields } from './StepFields';
import { stepUi, stepUis } from './steps';
import type { Adding, StepEditorProps } from './steps/stepUi';

const sheet = newSheet('s', 'Sheet', 256, 256, { maps: ['base-colour', 'height', 'normal'] });
sheet.layers = [newCoatLayer('coat', 'Ground', { height: [0.5] }, sheet.maps), newPaintedLayer('own', 'Hand', sheet.maps)];
sheet.masks = [newMask('m', 'Mask', 0), newMask('other', 'Rust', 1)];
const [mask] = sheet.masks;
beforeEach(() => useBench.setState({ document: newPiece('p', 'P', 'canvas', [sheet]), sheetId: 's' }));

function adding(over: Partial<Adding> = {}): { adding: Adding; added: StepSource[] } {
  const added: StepSource[] = [];
  const what: Adding = {
    sheet,
    mask,
    layer: sheet.layers[1],
    onModel: true,
    add: (source) => void added.push(source),
    chooseRule: () => undefined,
    ...over,
  };
  return { adding: what, added };
}
const entriesOf = (over: Partial<Adding> = {}) => {
  const a = adding(over);
  return { ...a, entries: stepUis().flatMap((ui) => ui.entries(a.adding)) };
};
const labels = (over?: Partial<Adding>) => entriesOf(over).entries.map((e) => (e.sub ? `${e.sub}: ${e.label}` : e.label));

test('the menu names everything that a mask of this sheet can be made from', () => {
  expect(labels()).toEqual([
    'Paint',
    'Noise, pattern, gradient …',
    'Picture …',
    'Edges (wear)',
    'Cavities (grime)',
    'Occlusion (dirt)',
    'Thickness',
    'Facing up (dust)',
    'Span along an axis',
    'Distance from a place',
    'Even value',
    'Parts',
    'Islands',
    'Faces',
    'Ids',
    'Higher than what is below',
    'A range of a map below: Base colour',
    'A range of a map below: Height',
    'Base colour below, like the active well',
    'A map below: Base colour',
    'A map below: Height',
    'A layer’s alpha: Ground',
    'Another mask, linked: Rust',
  ]);
});

test('what cannot be here is left out: parts on a canvas, contact without height, itself', () => {
  const flat = { ...sheet, maps: ['base-colour' as const] };
  const there = labels({ onModel: false, sheet: flat });
  for (const gone of ['Parts', 'Islands', 'Faces', 'Higher than what is below', 'Another mask, linked: Mask'])
    expect(there).not.toContain(gone);
});

test('a fence is made of the same steps, but for paint and what hangs on a layer', () => {
  const there = labels({ mask: fenceMask({ fence: null }) });
  for (const gone of ['Paint', 'Higher than what is below', 'A map below: Height']) expect(there).not.toContain(gone);
  expect(there).toEqual(expect.arrayContaining(['Faces', 'A range of a map seen: Height', 'Another mask, linked: Mask']));
});

test('each entry that adds a step adds a sound one', () => {
  const { entries, added } = entriesOf();
  // A picture is chosen first; what needs a bake asks for it in a sheet that is open.
  const asking = ['Picture …', 'Cavities (grime)', 'Occlusion (dirt)', 'Thickness'];
  for (const entry of entries) if (!asking.includes(entry.label)) entry.onSelect();
  expect(added.length).toBeGreaterThanOrEqual(10);
  for (const source of added) expect(stepSchema.safeParse({ id: 'x', source }).error?.issues ?? []).toEqual([]);
});

const SETTINGS: { [T in StepSource['type']]?: StepSource } = {
  constant: { type: 'constant', value: 0.5 },
  contact: { type: 'contact', offset: 0, contrast: 0.7, line: 0 },
  below: { type: 'below', map: 'base-colour', by: 'luminance' },
  layer: { type: 'layer', of: 'coat', map: 'base-colour', take: 'value', by: 'mean' },
};

function edit(source: StepSource) {
  const step = stepSchema.parse({ id: 'x', source });
  const set = jest.fn();
  const props: StepEditorProps = { sheet, mask, step, source, set, show: () => undefined };
  render(
    <Tooltip.Provider>
      <StepFields {...props} />
    </Tooltip.Provider>,
  );
  return { set, last: () => set.mock.lastCall?.[0] as Record<string, unknown> };
}

test('shares are set in percent', () => {
  const { last } = edit(SETTINGS.contact!);
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Offset' }), { key: 'Home' });
  expect(last()).toEqual({ type: 'contact', offset: -1, contrast: 0.7, line: 0 });
  fireEvent.doubleClick(screen.getByRole('slider', { name: 'Contrast' }));
  expect(last()).toMatchObject({ contrast: 0.7 });
});

test('a layer is taken by its alpha, or by one number of what it says on a map', () => {
  const { last } = edit(SETTINGS.layer!);
  fireEvent.change(screen.getByLabelText('Takes'), { target: { value: 'red' } });
  expect(last()).toMatchObject({ take: 'value', by: 'red' });
  fireEvent.change(screen.getByLabelText('Of it'), { target: { value: 'alpha' } });
  expect(last()).toMatchObject({ take: 'alpha' });
  expect([...screen.getByLabelText<HTMLSelectElement>('Of it').options].map((o) => o.value)).toEqual([
    'alpha',
    'base-colour',
    'height',
  ]);
});

test('every kind of step has a word and a place in the interface', () => {
  const names = { ...sheet, ownMaps: [] };
  for (const type of STEP_TYPES) expect(stepUi(type).entries).toBeDefined();
  for (const source of Object.values(SETTINGS)) expect(STEPS[source.type].word(source, names)).toMatch(/\w/);
  expect(STEPS.layer.word({ type: 'layer', of: 'gone', map: 'height', take: 'alpha', by: 'mean' }, names)).toBe(
    'a layer that is gone',
  );
  expect(STEPS.parts.word({ type: 'parts', names: ['Cap', 'Foot', 'Ring'] }, names)).toBe('Cap +2');
  expect(STEPS.islands.word({ type: 'islands', ids: [4] }, names)).toBe('one island');
});
