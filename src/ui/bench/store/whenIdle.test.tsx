/** What is saved once changes have come to rest. */
import { whenIdle } from './whenIdle';

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

test('many changes in a row are saved once, after the last', () => {
  const save = jest.fn();
  const saving = whenIdle(save);
  for (let n = 0; n < 50; n++) {
    saving.due();
    jest.advanceTimersByTime(20);
  }
  expect(save).not.toHaveBeenCalled();
  jest.advanceTimersByTime(1000);
  expect(save).toHaveBeenCalledTimes(1);
});

test.each([
  ['the page goes', () => window.dispatchEvent(new Event('pagehide'))],
  [
    'the tab is hidden',
    () => {
      Object.defineProperty(document, 'visibilityState', { value: 'hidden', configurable: true });
      document.dispatchEvent(new Event('visibilitychange'));
    },
  ],
])('a change that waits is saved at once when %s, and nothing when none waits', (_, leave) => {
  const save = jest.fn();
  const saving = whenIdle(save);
  leave();
  expect(save).not.toHaveBeenCalled();
  saving.due();
  leave();
  leave();
  expect(save).toHaveBeenCalledTimes(1);
  saving.end();
});

test('at the end what waits is saved, and later changes of the page are not heard', () => {
  const save = jest.fn();
  const saving = whenIdle(save);
  saving.due();
  saving.end();
  window.dispatchEvent(new Event('pagehide'));
  jest.advanceTimersByTime(1000);
  expect(save).toHaveBeenCalledTimes(1);
});
