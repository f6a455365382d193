/** The soak's own book-keeping: what it calls lost, doubled, cut short or other. */
import { after, difference, differenceOfAny, NOTHING, type Action, type Found, type History, type Step } from '../soak/expected';

const stroke = (way: number, over: Partial<Step> = {}): Action => ({
  type: 'step',
  step: { kind: 'stroke', label: 'Stroke', layers: 0, way, atLeast: 0.98, ...over },
});
const add: Action = { type: 'step', step: { kind: 'edit', label: 'Add a layer', layers: 1 } };
const [undo, redo]: Action[] = [{ type: 'undo' }, { type: 'redo' }];
const all = (...actions: Action[]): History => actions.reduce(after, NOTHING);
const found = (over: Partial<Found> = {}): Found => ({
  labels: ['Stroke', 'Add a layer', 'Stroke'],
  position: 3,
  layers: 2,
  ways: [100, 200],
  ...over,
});
const three = all(stroke(100), add, stroke(200));

test('a step after an undo takes the place of what was undone', () => {
  expect(all(stroke(1), stroke(2), undo, undo, redo, add).steps.map(({ label }) => label)).toEqual(['Stroke', 'Add a layer']);
  expect(all(undo, redo)).toEqual(NOTHING);
  expect(all(add, undo).position).toBe(0);
});

test.each<[string, Partial<Found>, ReturnType<typeof difference>]>([
  ['as it must be', {}, null],
  ['a step is not there', { labels: ['Stroke', 'Add a layer'], position: 2, ways: [100] }, 'lost'],
  ['an undo that nobody did', { position: 2, ways: [100] }, 'lost'],
  ['a step twice', { labels: ['Stroke', 'Add a layer', 'Stroke', 'Stroke'], position: 4, ways: [100, 200, 200] }, 'doubled'],
  ['another step', { labels: ['Stroke', 'Stroke', 'Add a layer'] }, 'other'],
  ['a layer is not there', { layers: 1 }, 'other'],
  ['a stroke without its recording', { ways: [100] }, 'lost'],
  ['a stroke that ends early', { ways: [100, 120] }, 'cut short'],
])('%s', (_what, over, says) => expect(difference(three, found(over), 1)).toBe(says));

test('what nobody looked at may be called anything; what may have been done or not is either', () => {
  const unknown = all(stroke(100), add, stroke(200, { label: null }));
  expect(difference(unknown, found({ labels: ['Stroke', 'Add a layer', 'Smear'] }), 1)).toBeNull();
  const before = all(stroke(100), add);
  const without = found({ labels: ['Stroke', 'Add a layer'], position: 2, ways: [100] });
  expect(differenceOfAny([three, before], found(), 1)).toBeNull();
  expect(differenceOfAny([three, before], without, 1)).toBeNull();
  expect(differenceOfAny([three], without, 1)).toBe('lost');
  expect(differenceOfAny([three, before], found({ position: 1, labels: ['Stroke'], ways: [100], layers: 1 }), 1)).toBe('lost');
});

test('undone strokes are not looked for', () => {
  const undone = after(three, undo);
  expect(difference(undone, found({ position: 2, ways: [100] }), 1)).toBeNull();
});
