import { act, render, screen } from '@testing-library/react';
import { ArrivingCard, useArriving } from './Arriving';

let changed = () => {};
jest.mock('@/engine/updates', () => ({
  onUpdate: (_: string, listener: () => void) => {
    changed = listener;
    return () => undefined;
  },
}));
let answer: { name: string; title: string; fault: string | null }[] | Error = [];
jest.mock('../common/api', () => ({
  ask: () => (answer instanceof Error ? Promise.reject(answer) : Promise.resolve(answer)),
}));

const arrived = jest.fn(() => Promise.resolve());
const Home = () => useArriving(arrived).map((piece) => <ArrivingCard key={piece.name} piece={piece} />);
const pass = (ms: number) => act(() => jest.advanceTimersByTimeAsync(ms));

beforeEach(() => {
  jest.useFakeTimers();
  arrived.mockClear();
});
afterEach(() => jest.useRealTimers());

const lantern = { name: 'lantern', title: 'Harbour lantern', fault: null };
const buoy = { name: 'buoy', title: 'Buoy token', fault: null };

test('pieces that are being imported are shown until they are there; then the list is loaded', async () => {
  answer = [lantern, buoy];
  render(<Home />);
  await pass(300);
  expect(screen.getAllByText('Being imported …')).toHaveLength(2);
  expect(arrived).not.toHaveBeenCalled();
  answer = [lantern];
  changed();
  await pass(300);
  expect(arrived).toHaveBeenCalledTimes(1);
  expect(screen.queryByText('Buoy token')).toBeNull();
  answer = [];
  changed();
  await pass(300);
  expect(arrived).toHaveBeenCalledTimes(2);
  expect(screen.queryByText('Harbour lantern')).toBeNull();
});

test('why one cannot be imported is said; while the server is away what was known stays', async () => {
  answer = [{ ...lantern, fault: 'The disk is full.' }];
  render(<Home />);
  await pass(300);
  expect(screen.getByRole('alert').textContent).toBe('Not imported: The disk is full.');
  answer = new Error('away');
  changed();
  await pass(300);
  expect(screen.getByText('Harbour lantern')).toBeTruthy();
});
