import { onceAtATime } from './onceAtATime';

/** Lets everything happen that happens within so many milliseconds. */
const pass = (ms: number) => jest.advanceTimersByTimeAsync(ms);

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

test('one run at a time; calls meanwhile lead to one more, which begins after a pause', async () => {
  const ends: (() => void)[] = [];
  const work = jest.fn(() => new Promise<void>((resolve) => ends.push(resolve)));
  const run = onceAtATime(work);
  run();
  run();
  run();
  expect(work).toHaveBeenCalledTimes(1);
  await pass(1000);
  expect(work).toHaveBeenCalledTimes(1);
  ends[0]();
  await pass(249);
  expect(work).toHaveBeenCalledTimes(1);
  await pass(1);
  expect(work).toHaveBeenCalledTimes(2);
  ends[1]();
  await pass(1000);
  expect(work).toHaveBeenCalledTimes(2);
  run();
  expect(work).toHaveBeenCalledTimes(3);
});

test('a run that fails ends like any other', async () => {
  const work = jest.fn(() => Promise.reject(new Error('away')));
  const run = onceAtATime(work);
  run();
  await pass(300);
  run();
  await pass(300);
  expect(work).toHaveBeenCalledTimes(2);
});
