import { fireEvent, render, screen } from '@testing-library/react';
import { PercentField } from './PercentField';

test('shares go in and come out; percent is shown, and the limits are 0 and 100 % unless others are given', () => {
  const onCommit = jest.fn();
  const { rerender } = render(<PercentField label="Wear" value={0.25} reset={0.6} onCommit={onCommit} />);
  const slider = screen.getByRole('slider', { name: 'Wear' });
  expect(slider.getAttribute('aria-valuetext')).toBe('25 %');
  fireEvent.keyDown(slider, { key: 'ArrowUp' });
  fireEvent.keyDown(slider, { key: 'End' });
  fireEvent.doubleClick(slider);
  expect(onCommit.mock.calls.flat()).toEqual([0.26, 1, 0.6]);
  rerender(<PercentField label="Wear" value={0.25} min={-1} max={4} reset={0} onCommit={onCommit} />);
  fireEvent.keyDown(slider, { key: 'Home' });
  fireEvent.keyDown(slider, { key: 'End' });
  expect(onCommit.mock.calls.flat().slice(3)).toEqual([-1, 4]);
});
