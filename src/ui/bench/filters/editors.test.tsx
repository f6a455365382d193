/** Editors of adjustments that are more than controls in a row: curve, levels, ramp. Each by pointer and by keys. */
import { fireEvent, render, screen } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import type { ReactNode } from 'react';
import { FILTERS, type FilterOf } from '@/core/kinds/filters';
import { withPointer } from '../testing/pointer';
import { CurveEditor } from './CurveEditor';
import { LevelsEditor } from './LevelsEditor';
import { RampEditor } from './RampEditor';

const preview = jest.fn();
const commit = jest.fn();
const told = { onPreview: preview, onCommit: commit };
const show = (what: ReactNode) => render(<Tooltip.Provider>{what}</Tooltip.Provider>);

beforeEach(() => {
  jest.clearAllMocks();
  withPointer({ left: 0, top: 0, width: 100, height: 100 });
});

const at = (x: number, y = 50) => ({ clientX: x, clientY: y, pointerId: 1, button: 0 });
function drag(what: Element, ...places: { clientX: number; clientY: number }[]) {
  const [first, ...rest] = places;
  fireEvent.pointerDown(what, first);
  for (const place of rest) fireEvent.pointerMove(what, place);
  fireEvent.pointerUp(what, places.at(-1)!);
}

describe('a curve', () => {
  const filter: FilterOf<'curve'> = { type: 'curve', points: [[0, 0], [0.5, 0.5], [1, 1]] }; // prettier-ignore
  const box = () => screen.getByLabelText(/^Curve/);
  const points = () => (commit.mock.lastCall![0] as FilterOf<'curve'>).points;

  test('a click adds a point where it is, in order, and a drag moves it', () => {
    show(<CurveEditor filter={filter} {...told} />);
    drag(box(), at(25, 40), at(30, 20));
    expect(preview).toHaveBeenCalled();
    expect(commit).toHaveBeenCalledTimes(1);
    expect(points()).toHaveLength(4);
    expect(points()[1][0]).toBeCloseTo(0.3);
    expect(points()[1][1]).toBeCloseTo(0.8);
  });

  test('a point never passes its neighbours', () => {
    show(<CurveEditor filter={filter} {...told} />);
    drag(box(), at(50, 50), at(100, 50));
    expect(points()[1][0]).toBeCloseTo(0.99);
    drag(box(), at(50, 50), at(0, 50));
    expect(points()[1][0]).toBeCloseTo(0.01);
  });

  test('dragged out of the box a point is removed; two stay in any case', () => {
    const { unmount } = show(<CurveEditor filter={filter} {...told} />);
    drag(box(), at(50, 50), at(50, 200));
    expect(points()).toEqual([[0, 0], [1, 1]]); // prettier-ignore
    unmount();
    show(<CurveEditor filter={{ type: 'curve', points: points() }} {...told} />);
    fireEvent.keyDown(screen.getByLabelText('Point 2'), { key: 'Delete' });
    expect(commit).toHaveBeenCalledTimes(1);
  });

  test('keys move a point by hundredths, with Shift by twentieths, and remove it', () => {
    show(<CurveEditor filter={filter} {...told} />);
    const middle = screen.getByLabelText('Point 2');
    expect(middle.getAttribute('aria-valuenow')).toBe('50');
    fireEvent.keyDown(middle, { key: 'ArrowUp' });
    expect(points()[1][1]).toBeCloseTo(0.51);
    fireEvent.keyDown(middle, { key: 'ArrowLeft', shiftKey: true });
    expect(points()[1][0]).toBeCloseTo(0.45);
    fireEvent.keyDown(middle, { key: 'Backspace' });
    expect(points()).toHaveLength(2);
    commit.mockClear();
    fireEvent.keyDown(middle, { key: 'x' });
    expect(commit).not.toHaveBeenCalled();
  });
});

describe('levels', () => {
  const filter = FILTERS.levels.start as FilterOf<'levels'>;
  const levels = () => commit.mock.lastCall![0] as FilterOf<'levels'>;

  test('handles under the histogram set black, middle and white', () => {
    show(<LevelsEditor filter={filter} {...told} />);
    const handle = (name: string) => screen.getAllByRole('slider', { name }).find((el) => el.tabIndex === -1)!;
    drag(handle('Black'), at(0), at(20));
    expect(levels().black).toBeCloseTo(0.2);
    drag(handle('White'), at(100), at(70));
    expect(levels().white).toBeCloseTo(0.7);
    // 0.25 ^ (1 / 2) = 0.5: what lies at a quarter comes out as the middle.
    drag(handle('Middle'), at(50), at(25));
    expect(levels().gamma).toBeCloseTo(2);
    expect(preview.mock.lastCall![0]).toEqual(levels());
  });

  test('keys move a handle, and stop at the ends', () => {
    show(<LevelsEditor filter={filter} {...told} />);
    const black = screen.getAllByRole('slider', { name: 'Black' }).find((el) => el.tabIndex === -1)!;
    fireEvent.keyDown(black, { key: 'ArrowRight', shiftKey: true });
    expect(levels().black).toBeCloseTo(0.05);
    fireEvent.keyDown(black, { key: 'ArrowLeft' });
    expect(levels().black).toBe(0);
  });

  test('without a layer to ask about there are no bars', () => {
    show(<LevelsEditor filter={filter} {...told} />);
    expect(screen.getByLabelText('Histogram').dataset.bars).toBe('no');
  });
});

describe('a ramp', () => {
  const filter: FilterOf<'ramp'> = {
    ...(FILTERS.ramp.start as FilterOf<'ramp'>),
    stops: [
      { at: 0, colour: [0, 0, 0] },
      { at: 1, colour: [1, 1, 1] },
    ],
  };
  const bar = () => screen.getByRole('group', { name: /^Ramp/ });
  const stops = () => (commit.mock.lastCall![0] as FilterOf<'ramp'>).stops;

  test('a click adds a stop of the colour that is there, and chooses it', () => {
    const { rerender } = show(<RampEditor filter={filter} {...told} />);
    fireEvent.pointerDown(bar(), at(50));
    expect(stops()).toHaveLength(3);
    expect(stops()[2].at).toBeCloseTo(0.5);
    const [r, g, b] = stops()[2].colour;
    expect(r).toBeGreaterThan(0.2);
    expect(r).toBeLessThan(0.8);
    expect([g, b]).toEqual([r, r]);
    rerender(
      <Tooltip.Provider>
        <RampEditor filter={{ ...filter, stops: stops() }} {...told} />
      </Tooltip.Provider>,
    );
    expect(screen.getByRole('button', { name: 'Colour of stop 3' })).toBeTruthy();
  });

  test('a stop is dragged along the bar, told as it moves and committed once', () => {
    show(<RampEditor filter={filter} {...told} />);
    drag(bar().children[0], at(0), at(10), at(30));
    expect(preview).toHaveBeenCalledTimes(2);
    expect(commit).toHaveBeenCalledTimes(1);
    expect(stops()[0].at).toBeCloseTo(0.3);
  });

  test('a stop is removed, the last one is not; there are sixteen at most', () => {
    const { unmount } = show(<RampEditor filter={filter} {...told} />);
    fireEvent.click(screen.getByRole('button', { name: 'Remove this stop' }));
    expect(stops()).toEqual([filter.stops[1]]);
    unmount();
    const one = show(<RampEditor filter={{ ...filter, stops: filter.stops.slice(0, 1) }} {...told} />);
    expect(screen.getByRole('button', { name: 'Remove this stop' })).toHaveProperty('disabled', true);
    one.unmount();
    const many = Array.from({ length: 16 }, (_, n) => ({ at: n / 15, colour: [0, 0, 0] as [number, number, number] }));
    show(<RampEditor filter={{ ...filter, stops: many }} {...told} />);
    commit.mockClear();
    fireEvent.pointerDown(bar(), at(33));
    expect(commit).not.toHaveBeenCalled();
  });
});
