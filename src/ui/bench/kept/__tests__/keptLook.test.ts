import { keptLook, keptNow } from '../keptLook';

const kept = { state: 'kept' as const, waiting: 0, aside: [] as unknown[], reached: 5 };
const journal = { pending: 0, asked: 5, failing: null as string | null };
const look = (
  k: Partial<Omit<typeof kept, 'state'>> & { state?: 'kept' | 'keeping' | 'offline' | 'conflict' | 'gone' },
  j = {},
) => keptLook({ ...kept, ...k }, { ...journal, ...j }, '3 s ago');

test('green only when the server has everything that was asked for', () => {
  expect(look({})).toMatchObject({ text: 'Kept 3 s ago', tone: 'text-kept' });
  // The engine has not come to the last two: not kept, whatever it said of those before.
  expect(look({}, { asked: 7 })).toMatchObject({ text: 'Keeping …', tone: 'text-ink-soft' });
  expect(keptNow({ state: 'kept', waiting: 0, reached: 5 }, 7)).toEqual({ state: 'keeping', waiting: 2 });
});

test.each([
  [{ state: 'offline' as const, waiting: 3 }, {}, 'Offline, 3 waiting', /closing the tab loses nothing/],
  [{ state: 'offline' as const, waiting: 3 }, { failing: 'this browser’s room is full' }, 'Not kept here: 3', /leave it open/],
  [{ state: 'keeping' as const, waiting: 1 }, { failing: 'x' }, 'Not kept here: 1', /memory only/],
  [{}, { failing: 'x' }, 'Kept by the server only', /cannot keep its journal/],
  [{ state: 'conflict' as const, waiting: 1 }, {}, 'Changed elsewhere', /Choose/],
  [{ state: 'gone' as const, waiting: 1 }, {}, 'Deleted elsewhere', /bring it back/],
  [{ aside: [{}] }, {}, '1 change set aside', /until you drop it/],
  [{ aside: [{}, {}] }, {}, '2 changes set aside', /everything else goes on/],
])('red, in words, where something is not safe: %j %j', (k, j, text, hint) => {
  const found = look(k, j);
  expect(found).toMatchObject({ text, tone: 'text-fault' });
  expect(found.hint).toMatch(hint);
});
