/** Editors made from what a kind says of its settings. */
import { act, fireEvent, render, screen } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import { newPiece, newSheet } from '@/core/document/factory';
import { FILTERS, FILTER_TYPES, type Filter, type FilterType } from '@/core/kinds/filters';
import { SOURCES, SOURCE_TYPES } from '@/core/kinds/sources';
import { Controls } from './Controls';
import { FilterEditor } from './filters';
import { useBench } from './store';

const sheet = newSheet('s', 'Sheet', 256, 256, {
  maps: ['base-colour', 'height', 'normal', 'own-oil'],
  ownMaps: [{ id: 'own-oil', name: 'oil' }],
});
beforeEach(() => useBench.setState({ document: newPiece('p', 'P', 'canvas', [sheet]), sheetId: 's' }));

function editor(type: FilterType, settings: Partial<Filter> = {}) {
  const { controls, start } = FILTERS[type];
  const onPreview = jest.fn();
  const onCommit = jest.fn();
  const filter = { ...start, ...settings } as Filter;
  render(
    <Tooltip.Provider>
      <Controls controls={controls} settings={filter} start={start} onPreview={onPreview} onCommit={onCommit} />
    </Tooltip.Provider>,
  );
  const type_ = (label: string, text: string) => {
    const input = screen.getByLabelText(label, { selector: 'input' });
    act(() => input.focus());
    fireEvent.change(input, { target: { value: text } });
    fireEvent.blur(input);
  };
  return { onCommit, onPreview, filter, type: type_, committed: () => onCommit.mock.lastCall?.[0] as Record<string, unknown> };
}

test('a share is shown in percent and kept as a share', () => {
  const e = editor('threshold', { at: 0.25 });
  expect(screen.getByRole('slider', { name: 'At' }).getAttribute('aria-valuetext')).toBe('25 %');
  e.type('At', '40');
  expect(e.committed()).toEqual({ type: 'threshold', at: 0.4, soften: 0 });
});

test('a count stays whole, a length in texels does not have to', () => {
  const e = editor('warp');
  e.type('Octaves', '5.6');
  expect(e.committed().octaves).toBe(6);
  e.type('Amount', '7.25');
  expect(e.committed().amount).toBe(7.25);
  expect(screen.getByRole('slider', { name: 'Scale' }).getAttribute('aria-valuetext')).toBe('48.0 tx');
});

test('degrees are free to lie between whole ones', () => {
  const e = editor('smear');
  e.type('Angle', '12.5');
  expect(e.committed().angle).toBe(12.5);
});

test('a double click goes back to how the kind starts', () => {
  const e = editor('sharpen', { sigma: 20 });
  fireEvent.doubleClick(screen.getByRole('slider', { name: 'Width σ' }));
  expect(e.committed()).toEqual(FILTERS.sharpen.start);
});

test('a choice is made from words', () => {
  const e = editor('rim');
  fireEvent.change(screen.getByLabelText('Shape'), { target: { value: 'bevel' } });
  expect(e.committed()).toMatchObject({ type: 'rim', shape: 'bevel' });
});

test('a map is one of the sheet’s own, of the kinds that make sense', () => {
  const e = editor('slope');
  const options = [...screen.getByLabelText<HTMLSelectElement>('Slope of').options].map((o) => o.textContent);
  expect(options).toEqual(['Base colour below', 'Height below', 'oil below']);
  fireEvent.change(screen.getByLabelText('Slope of'), { target: { value: 'own-oil' } });
  expect(e.committed()).toMatchObject({ type: 'slope', map: 'own-oil' });
});

test('a seed can be thrown anew', () => {
  const e = editor('warp');
  fireEvent.click(screen.getByRole('button', { name: 'Another seed' }));
  const { seed } = e.committed() as { seed: number };
  expect(Number.isInteger(seed) && seed >= 0 && seed < 1000).toBe(true);
});

test.each(FILTER_TYPES)('the editor of %s has something for every setting that it names', (type) => {
  const { start, controls } = FILTERS[type];
  const { container, unmount } = render(
    <Tooltip.Provider>
      <FilterEditor filter={start} onPreview={() => undefined} onCommit={() => undefined} />
    </Tooltip.Provider>,
  );
  for (const { label } of controls) expect(screen.getAllByLabelText(label).length).toBeGreaterThan(0);
  // Those without settings have an empty editor, all others do not.
  const empty = Object.keys(start).length === 1;
  expect(container.querySelectorAll('[role=slider], select, canvas, svg, input, button').length > 0).toBe(!empty);
  unmount();
});

test.each(SOURCE_TYPES)('the controls of %s are set by keyboard', (type) => {
  const { start, controls } = SOURCES[type];
  const first = controls.find((c) => c.kind === 'number');
  if (!first) return;
  const onCommit = jest.fn();
  render(
    <Tooltip.Provider>
      <Controls controls={controls} settings={start} start={start} onPreview={() => undefined} onCommit={onCommit} />
    </Tooltip.Provider>,
  );
  fireEvent.keyDown(screen.getByRole('slider', { name: first.label }), { key: 'End' });
  const [next] = onCommit.mock.lastCall as [Record<string, number>];
  expect(next[first.key] * (first.scale ?? 1)).toBeCloseTo(first.max, 6);
  expect(SOURCES[type].schema.safeParse(next).success).toBe(true);
});
