import { act, fireEvent, render, screen } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import type { BakeStatus, WorkerCard } from '@/core/kinds/bakes/status';
import { Jobs } from './Jobs';

const listeners: Record<string, () => void> = {};
jest.mock('@/engine/updates', () => ({
  onUpdate: (topic: string, listener: () => void) => {
    listeners[topic] = listener;
    return () => delete listeners[topic];
  },
}));

const bake = (over: Partial<BakeStatus>): BakeStatus => ({
  ...{
    key: 'k',
    label: 'Lantern, Metalwork: Occlusion',
    pieceId: 'p',
    state: 'running',
    done: 2,
    tiles: 8,
    message: null,
    seconds: 4,
  },
  ...over,
});
const worker: WorkerCard = { id: 'here-1', host: 'here', cores: 2, alive: true };

/** What the server answers with; null: it does not answer. */
let answer: { bakes: BakeStatus[]; workers: WorkerCard[] } | null;
const asked: string[] = [];

beforeEach(() => {
  jest.useFakeTimers();
  asked.length = 0;
  answer = { bakes: [bake({})], workers: [worker] };
  globalThis.fetch = ((path: string, init?: RequestInit) => {
    asked.push(`${init?.method ?? 'GET'} ${path}`);
    return answer ? Promise.resolve({ ok: true, json: () => Promise.resolve(answer) }) : Promise.reject(new Error('away'));
  }) as typeof fetch;
});
afterEach(() => jest.useRealTimers());

const pass = (ms: number) => act(() => jest.advanceTimersByTimeAsync(ms));
async function open() {
  const page = render(
    <Tooltip.Provider>
      <Jobs />
    </Tooltip.Provider>,
  );
  await pass(300);
  return page;
}

test('shows how far a bake is and what is left, and follows what the server pushes', async () => {
  await open();
  expect(screen.getByText('25 %, about 12 s left')).toBeTruthy();
  answer = { bakes: [bake({ state: 'done', done: 8, seconds: 15.25 })], workers: [worker] };
  listeners.bakes();
  await pass(300);
  expect(screen.getByText('done')).toBeTruthy();
  expect(screen.getByText('15.3 s')).toBeTruthy();
  expect(asked).toEqual(['GET /api/bakes', 'GET /api/bakes']);
});

test('a bake under way can be cancelled; one that failed says why', async () => {
  answer = {
    bakes: [bake({}), bake({ key: 'f', label: 'Failed one', state: 'failed', message: 'No such model.' })],
    workers: [worker],
  };
  await open();
  expect(screen.getByText('No such model.')).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Cancel Failed one' })).toBeNull();
  fireEvent.click(screen.getByRole('button', { name: /^Cancel Lantern/ }));
  await pass(300);
  expect(asked).toContain('DELETE /api/bakes/k');
});

test('a worker that died says nothing: it is asked for after a while', async () => {
  await open();
  answer = { bakes: [bake({ state: 'waiting' })], workers: [{ ...worker, alive: false }] };
  await pass(9_000);
  expect(asked).toHaveLength(1);
  await pass(2_000);
  expect(screen.getByText(/not seen for a while/)).toBeTruthy();
  expect(screen.getByText(/Nobody bakes just now, and there is work/)).toBeTruthy();
});

test('a server that does not answer is said to be away, and what was known stays', async () => {
  await open();
  answer = null;
  listeners.workers();
  await pass(300);
  expect(screen.getByRole('status').textContent).toMatch(/does not answer/);
  expect(screen.getByText('25 %, about 12 s left')).toBeTruthy();
  answer = { bakes: [], workers: [] };
  listeners.bakes();
  await pass(300);
  expect(screen.queryByRole('status')).toBeNull();
  expect(screen.getByText(/Nothing was baked yet/)).toBeTruthy();
});

test('nothing is asked any more once the page is left', async () => {
  const { unmount } = await open();
  unmount();
  await pass(60_000);
  expect(asked).toHaveLength(1);
  expect(listeners).toEqual({});
});
