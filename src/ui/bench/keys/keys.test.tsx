/** Commands at their keys. */
import { listenToKeys, shownKey } from './keys';

const press = (key: string, over: KeyboardEventInit = {}, target: EventTarget = document.body) => {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...over });
  target.dispatchEvent(event);
  return event.defaultPrevented;
};
const ran: string[] = [];
const command = (name: string, ...keys: string[]) => ({ keys, run: () => void ran.push(name) });
let stop: () => void;

beforeEach(() => {
  ran.length = 0;
  document.body.innerHTML = '';
  stop = listenToKeys([
    command('paint', 'b'),
    command('undo', 'ctrl+z'),
    command('redo', 'ctrl+shift+z', 'ctrl+y'),
    command('smaller', '['),
    command('up', 'alt+arrowup'),
    command('three', '3'),
    { ...command('search', 'ctrl+k'), always: true },
  ]);
});
afterEach(() => stop());

test('a key alone, with modifiers, and none of the others', () => {
  expect(press('b')).toBe(true);
  press('z', { ctrlKey: true });
  press('Z', { ctrlKey: true, shiftKey: true });
  press('y', { ctrlKey: true });
  press('ArrowUp', { altKey: true });
  press('3');
  expect(ran).toEqual(['paint', 'undo', 'redo', 'redo', 'up', 'three']);
  expect(press('z')).toBe(false);
  press('b', { ctrlKey: true });
  expect(ran).toHaveLength(6);
});

test('a bracket by its sign, or by its place on keyboards that have it elsewhere', () => {
  press('[', { code: 'BracketLeft' });
  press('ü', { code: 'BracketLeft' });
  expect(ran).toEqual(['smaller', 'smaller']);
});

test('not while something is typed, nor under a dialog; the search always', () => {
  const input = document.body.appendChild(document.createElement('input'));
  expect(press('b', {}, input)).toBe(false);
  press('k', { ctrlKey: true }, input);
  const dialog = document.body.appendChild(document.createElement('div'));
  dialog.setAttribute('role', 'dialog');
  press('b');
  expect(ran).toEqual(['search']);
  dialog.remove();
  press('b');
  expect(ran).toEqual(['search', 'paint']);
});

test('not any more once it is let go', () => {
  stop();
  press('b');
  expect(ran).toEqual([]);
});

test('shown as keyboards have them', () => {
  expect(['ctrl+shift+z', 'alt+arrowup', '[', 'delete', undefined].map(shownKey)).toEqual([
    'Ctrl Shift Z',
    'Alt ↑',
    '[',
    'Del',
    undefined,
  ]);
});
