import { fireEvent, render, screen, within } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import type { NamedEntry } from '@/engine/protocol';
import { ConflictDialog } from './ConflictDialog';
import { KeptPanel, roomInWords } from './KeptPanel';
import { useBench } from '../store';

const sent: unknown[] = [];
jest.mock('../store', () => ({
  ...jest.requireActual<object>('../store'),
  bench: () => ({ send: (request: unknown) => sent.push(request), entries: async () => [] }),
}));

const entry = (id: string, label: string, more: Partial<NamedEntry> = {}): NamedEntry => ({
  id,
  label,
  at: 0,
  own: true,
  why: null,
  ...more,
});
const state = (kept: object) => useBench.setState({ kept: { ...useBench.getState().kept, ...kept } });

beforeEach(() => void (sent.length = 0));

const panel = () =>
  render(
    <Tooltip.Provider>
      <KeptPanel hint="The hint." />
    </Tooltip.Provider>,
  );

test('what was set aside can be tried again, and is dropped only after a second yes', () => {
  state({ state: 'kept', aside: [entry('a', 'Lay down 3 pictures', { why: 'Larger than 128 MiB.' }), entry('b', 'Undo')] });
  panel();
  const rows = screen.getAllByTestId('kept-entry');
  expect(rows).toHaveLength(2);
  expect(within(rows[0]).getByText('Larger than 128 MiB.')).toBeTruthy();
  fireEvent.click(within(rows[1]).getByRole('button', { name: 'Try again' }));
  fireEvent.click(within(rows[0]).getByRole('button', { name: 'Drop for good' }));
  expect(sent).toEqual([{ type: 'aside', id: 'b', do: 'again' }]);
  expect(within(rows[0]).getByText('Drop “Lay down 3 pictures” for good?')).toBeTruthy();
  fireEvent.click(within(rows[0]).getByRole('button', { name: 'Keep it' }));
  expect(within(rows[0]).queryByText(/for good\?/)).toBeNull();
  fireEvent.click(within(rows[0]).getByRole('button', { name: 'Drop for good' }));
  fireEvent.click(within(rows[0]).getByRole('button', { name: 'Drop it' }));
  expect(sent.at(-1)).toEqual({ type: 'aside', id: 'a', do: 'drop' });
});

test('a deleted piece is brought back from here; what waits is listed without being dropped', () => {
  state({ state: 'gone', waiting: 1, aside: [], entries: [entry('w', 'Stroke on Hand')] });
  panel();
  expect(screen.getByText('Stroke on Hand')).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Drop for good' })).toBeNull();
  fireEvent.click(screen.getByRole('button', { name: 'Bring the piece back' }));
  expect(sent).toEqual([{ type: 'restore' }]);
});

test('a piece that is deleted for good can be kept as a new one, or downloaded; it cannot be brought back', () => {
  state({ state: 'gone', forGood: true, waiting: 1, aside: [], entries: [entry('w', 'Stroke on Hand')] });
  panel();
  expect(screen.queryByRole('button', { name: 'Bring the piece back' })).toBeNull();
  expect(screen.getByRole('button', { name: 'Keep it as a new piece' })).toBeTruthy();
  expect(screen.getByRole('button', { name: 'Download the piece file' })).toBeTruthy();
  expect(screen.getByText('Stroke on Hand')).toBeTruthy();
});

test('a conflict: both ways out, by name; dropping asks once more', () => {
  state({
    state: 'conflict',
    waiting: 2,
    aside: [],
    entries: [entry('x', 'Stroke on Hand'), entry('y', 'Opacity', { own: false })],
  });
  render(<ConflictDialog />);
  const list = within(screen.getByTestId('conflict-entries'));
  expect(list.getByText('Stroke on Hand')).toBeTruthy();
  expect(list.getByText('not of this tab')).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'Drop mine, open the other' }));
  expect(sent).toEqual([]);
  fireEvent.click(screen.getByRole('button', { name: 'Back' }));
  fireEvent.click(screen.getByRole('button', { name: 'Keep mine in a copy' }));
  expect(sent).toEqual([{ type: 'resolve-conflict', choice: 'copy' }]);
  fireEvent.click(screen.getByRole('button', { name: 'Drop mine, open the other' }));
  fireEvent.click(screen.getByRole('button', { name: 'Drop them' }));
  expect(sent.at(-1)).toEqual({ type: 'resolve-conflict', choice: 'drop', ids: ['x', 'y'] });
});

test('room in words, with what the browser has promised', async () => {
  const storage = (persisted: boolean) =>
    ({ estimate: async () => ({ quota: 12.4e9, usage: 3e6 }), persisted: async () => persisted }) as never as StorageManager;
  expect(await roomInWords(storage(true))).toBe('Room in this browser: 12.4 GB free, 3 MB used. It has promised to keep it.');
  expect(await roomInWords(storage(false))).toMatch(/may clear it/);
  expect(await roomInWords(undefined)).toBe('');
});
