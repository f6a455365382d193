import { act, render, screen } from '@testing-library/react';
import { Signal } from '@/engine/signal';
import type { BenchViewport } from '@/viewport/benchViewport';
import { useView } from './useView';
import { holder } from './viewportHolder';

const moved = new Signal();
const viewport = { moved, drawn: new Signal(), zoom: 1 } as unknown as BenchViewport & { zoom: number };
let renders = 0;

function Overlay({ on }: { on: boolean }) {
  const { viewport: at } = useView(on);
  renders++;
  return <p>{at ? `at ${(at as typeof viewport).zoom}` : 'nothing'}</p>;
}

beforeEach(() => {
  renders = 0;
  viewport.zoom = 1;
  holder.viewport = viewport;
});
afterEach(() => (holder.viewport = null));

test('an overlay follows the cameras, and not what is painted', () => {
  render(<Overlay on />);
  expect(screen.getByText('at 1')).toBeTruthy();
  const before = renders;
  act(() => viewport.drawn.tell());
  expect(renders).toBe(before);
  viewport.zoom = 2;
  act(() => moved.tell());
  expect(screen.getByText('at 2')).toBeTruthy();
});

test('what is there before the viewport shows once the viewport is there', async () => {
  jest.useFakeTimers();
  holder.viewport = null;
  render(<Overlay on />);
  expect(screen.getByText('nothing')).toBeTruthy();
  holder.viewport = viewport;
  await act(() => jest.advanceTimersByTimeAsync(50));
  expect(screen.getByText('at 1')).toBeTruthy();
  jest.useRealTimers();
});

test('one that is off, or gone, hears nothing', () => {
  const { rerender, unmount } = render(<Overlay on={false} />);
  const off = renders;
  act(() => moved.tell());
  expect(renders).toBe(off);
  rerender(<Overlay on />);
  unmount();
  const gone = renders;
  act(() => moved.tell());
  expect(renders).toBe(gone);
});
