import { fireEvent, render, screen } from '@testing-library/react';
import { COMMANDS } from './commands';
import { CommandSearch } from './CommandSearch';

beforeAll(() => {
  // What the list asks of a browser and jsdom has not.
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  };
  Element.prototype.scrollIntoView = () => undefined;
});

const search = (text: string) => {
  render(<CommandSearch open onOpenChange={() => undefined} />);
  fireEvent.change(screen.getByRole('combobox'), { target: { value: text } });
  return screen.queryAllByRole('option').map((o) => o.textContent!);
};

test('lists every command of the bench, whatever its group', () => {
  render(<CommandSearch open onOpenChange={() => undefined} />);
  expect(screen.getAllByRole('option')).toHaveLength(COMMANDS.length);
});

test.each([
  ['mask', /Add a mask, from white/],
  ['dodge', /Dodge and burn/],
  ['colour balance', /Adjust: Colour balance/],
  ['undo', /Undo/],
])('"%s" finds it', (text, found) => {
  expect(search(text).some((o) => found.test(o))).toBe(true);
});

test('a command is carried out, and the search closes', () => {
  const closed = jest.fn();
  const command = COMMANDS.find((c) => c.id === 'dodge')!;
  const run = jest.spyOn(command, 'run').mockImplementation(() => undefined);
  render(<CommandSearch open onOpenChange={closed} />);
  fireEvent.click(screen.getByRole('option', { name: /Dodge and burn/ }));
  expect(run).toHaveBeenCalledTimes(1);
  expect(closed).toHaveBeenCalledWith(false);
  run.mockRestore();
});
