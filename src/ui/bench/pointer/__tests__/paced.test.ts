import { Signal } from '@/engine/signal';
import { paced } from '../paced';

describe('what follows the pointer', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());

  test('is shown at once where pictures cost nothing', () => {
    const seen: number[] = [];
    const { show } = paced((n: number) => seen.push(n));
    show(1, null);
    show(2, null);
    expect(seen).toEqual([1, 2]);
  });

  test('is shown with the frames of the work, the newest of it only', () => {
    const seen: number[] = [];
    const frames = new Signal();
    const { show } = paced((n: number) => seen.push(n));
    for (const n of [1, 2, 3]) show(n, frames);
    expect(seen).toEqual([]);
    frames.tell();
    expect(seen).toEqual([3]);
    frames.tell();
    expect(seen).toEqual([3]);
    show(4, frames);
    frames.tell();
    expect(seen).toEqual([3, 4]);
  });

  test('does not wait for a frame that never comes, nor after the end', () => {
    const seen: number[] = [];
    const frames = new Signal();
    const { show, stop } = paced((n: number) => seen.push(n));
    show(1, frames);
    jest.advanceTimersByTime(200);
    expect(seen).toEqual([1]);
    show(2, frames);
    // The stroke is over: what waited is overtaken.
    show(3, null);
    jest.advanceTimersByTime(200);
    frames.tell();
    expect(seen).toEqual([1, 3]);
    show(4, frames);
    stop();
    jest.advanceTimersByTime(200);
    frames.tell();
    expect(seen).toEqual([1, 3]);
  });
});
