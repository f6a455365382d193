import { act, render, screen } from '@testing-library/react';
import { inWords, Unsent } from './Unsent';

let found: object[] = [];
jest.mock('@/engine/client', () => ({ pageJournal: () => ({ door: { summary: async () => found } }) }));

test('nothing is said while nothing waits; else how much, for which piece, with the way there', async () => {
  const names = new Map([['a', 'Harbour lantern']]);
  const { unmount } = render(<Unsent names={names} />);
  await act(() => Promise.resolve());
  expect(screen.queryByTestId('unsent')).toBeNull();
  unmount();
  found = [
    { pieceId: 'a', waiting: 3, aside: 1 },
    { pieceId: 'b', waiting: 0, aside: 2 },
  ];
  render(<Unsent names={names} />);
  expect(await screen.findByText('Harbour lantern')).toBeTruthy();
  expect(screen.getByText('A piece that is not on the server any more')).toBeTruthy();
  expect(screen.getAllByRole('link', { name: 'Open it' }).map((l) => l.getAttribute('href'))).toEqual(['/pieces/a', '/pieces/b']);
});

test('in words', () => {
  expect(inWords(1, 0)).toBe('1 change waits in this browser and goes to the server when it is opened');
  expect(inWords(2, 1)).toMatch(/^2 changes wait .+; 1 change that the server refused is set aside$/);
});
