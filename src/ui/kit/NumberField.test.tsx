import { act, fireEvent, render, screen } from '@testing-library/react';
import { NumberField } from './NumberField';

function field(value = 40) {
  const onCommit = jest.fn();
  render(<NumberField label="Size" unit="px" value={value} min={0} max={100} reset={25} onCommit={onCommit} />);
  return { onCommit, slider: screen.getByRole('slider'), input: screen.getByLabelText('Size', { selector: 'input' }) };
}

test('says its value with its unit', () => {
  expect(field().slider.getAttribute('aria-valuetext')).toBe('40 px');
});

test.each([
  ['ArrowUp', 41],
  ['ArrowLeft', 39],
  ['PageUp', 50],
  ['Home', 0],
  ['End', 100],
])('the key %s steps it', (key, expected) => {
  const { onCommit, slider } = field();
  fireEvent.keyDown(slider, { key });
  expect(onCommit).toHaveBeenCalledWith(expected);
});

test('a double click resets it', () => {
  const { onCommit, slider } = field();
  fireEvent.doubleClick(slider);
  expect(onCommit).toHaveBeenCalledWith(25);
});

test.each([
  ['12', 12],
  ['12,5', 12.5],
  ['−5', 0],
  ['900 px', 100],
])('typing "%s" sets it, within its limits', (typed, expected) => {
  const { onCommit, input } = field();
  act(() => input.focus());
  fireEvent.change(input, { target: { value: typed } });
  fireEvent.keyDown(input, { key: 'Enter' });
  expect(onCommit).toHaveBeenCalledWith(expected);
});

test('nonsense and Escape change nothing', () => {
  const { onCommit, input } = field();
  act(() => input.focus());
  fireEvent.change(input, { target: { value: 'many' } });
  fireEvent.blur(input);
  fireEvent.change(input, { target: { value: '7' } });
  fireEvent.keyDown(input, { key: 'Escape' });
  expect(onCommit).not.toHaveBeenCalled();
});
