import { act, fireEvent, render, screen } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import { KeptBadge } from './KeptBadge';
import { useBench } from '../store';

const sent: { type: string }[] = [];
jest.mock('../store', () => ({
  ...jest.requireActual<object>('../store'),
  bench: () => ({ send: (request: { type: string }) => sent.push(request), entries: async () => [] }),
}));

const kept = (change: object) => act(() => useBench.setState((s) => ({ kept: { ...s.kept, ...change } })));
const journal = (change: object) => act(() => useBench.setState((s) => ({ journal: { ...s.journal, ...change } })));
const badge = () => screen.getByTestId('kept');
/** Second by second: what a timer renders begins the next one. */
async function pass(seconds: number) {
  for (let n = 0; n < seconds; n++) await act(() => jest.advanceTimersByTimeAsync(1000));
}

beforeEach(() => {
  jest.useFakeTimers();
  sent.length = 0;
  useBench.setState({
    kept: { state: 'kept', waiting: 0, aside: [], reached: 0, at: Date.now() },
    journal: { pending: 0, asked: 0, failing: null },
  });
  render(
    <Tooltip.Provider>
      <KeptBadge />
    </Tooltip.Provider>,
  );
});
afterEach(() => jest.useRealTimers());

test('says how long ago all was kept, by seconds, then by minutes', async () => {
  const text = badge().textContent;
  await pass(3);
  const later = badge().textContent;
  expect(later).not.toBe(text);
  expect(later).toMatch(/3 s/);
  await pass(117);
  expect(badge().textContent).toMatch(/\d min/);
  // From now on it is renewed once a minute: nothing runs in between.
  expect(jest.getTimerCount()).toBeLessThanOrEqual(1);
});

test('a change that the engine has not come to is not kept yet', () => {
  expect(badge().dataset.state).toBe('kept');
  journal({ asked: 2 });
  expect(badge().dataset.state).toBe('keeping');
  expect(badge().dataset.waiting).toBe('2');
  kept({ reached: 2 });
  expect(badge().dataset.state).toBe('kept');
});

test('a server that is away and a browser that cannot write are said', () => {
  kept({ state: 'offline', waiting: 3, why: 'The server does not answer.' });
  expect(badge().dataset.state).toBe('offline');
  expect(badge().textContent).toMatch(/3/);
  journal({ failing: 'the disk is full' });
  expect(badge().dataset.journal).toBe('failing');
  expect(badge().textContent).toMatch(/Not kept here/);
});

test('a click says more, and tries again at once', async () => {
  kept({ state: 'offline', waiting: 1 });
  fireEvent.click(badge());
  await pass(1);
  expect(screen.getByRole('dialog', { name: 'What is kept' })).toBeTruthy();
  expect(sent).toEqual([{ type: 'retry' }]);
});
