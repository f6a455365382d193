import { fireEvent, render, screen } from '@testing-library/react';
import { withPointer } from '../testing/pointer';
import { HandleDot } from './HandleDot';

const told = { onDrag: jest.fn(), onDrop: jest.fn(), onNudge: jest.fn() };

beforeEach(() => {
  jest.clearAllMocks();
  // The pane lies at (10, 20) of the page.
  withPointer({ left: 10, top: 20, width: 300, height: 200 });
  render(
    <svg>
      <HandleDot id="centre" label="Middle" x={100} y={80} {...told} />
    </svg>,
  );
});
const dot = () => screen.getByRole('slider', { name: /^Middle/ });
const at = (x: number, y: number, button = 0) => ({ clientX: x, clientY: y, pointerId: 1, button });

test('a drag is told in pixels of the pane, and its end once', () => {
  fireEvent.pointerDown(dot(), at(110, 100));
  fireEvent.pointerMove(dot(), at(120, 110));
  fireEvent.pointerMove(dot(), at(130, 140));
  fireEvent.pointerUp(dot(), at(130, 140));
  expect(told.onDrag.mock.calls).toEqual([
    [110, 90],
    [120, 120],
  ]);
  expect(told.onDrop).toHaveBeenCalledTimes(1);
  expect(told.onNudge).not.toHaveBeenCalled();
});

test('a click moves nothing; other buttons, and moves without a press, neither', () => {
  fireEvent.pointerDown(dot(), at(110, 100));
  fireEvent.pointerUp(dot(), at(110, 100));
  fireEvent.pointerDown(dot(), at(110, 100, 2));
  fireEvent.pointerMove(dot(), at(150, 100));
  fireEvent.pointerUp(dot(), at(150, 100));
  expect(told.onDrag).not.toHaveBeenCalled();
  expect(told.onDrop).not.toHaveBeenCalled();
});

test('arrow keys nudge it by four pixels; other keys go on to the bench', () => {
  fireEvent.keyDown(dot(), { key: 'ArrowRight' });
  fireEvent.keyDown(dot(), { key: 'ArrowUp' });
  expect(told.onNudge.mock.calls).toEqual([
    [104, 80],
    [100, 76],
  ]);
  const heard = jest.fn();
  window.addEventListener('keydown', heard);
  fireEvent.keyDown(dot(), { key: 'ArrowLeft' });
  fireEvent.keyDown(dot(), { key: 'e' });
  window.removeEventListener('keydown', heard);
  expect(heard).toHaveBeenCalledTimes(1);
});
