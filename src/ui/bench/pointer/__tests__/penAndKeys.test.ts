/** How a pen presses, where strokes are held to, what fingers do, and keys as their owner has them. */
import { response } from '@/core/hand/vary';
import { hintDone, useHints } from '../../top/hints';
import { clashes, keyFile, keyOfEvent, keysOf, put, readKeyFile, setKeys, useKeyMap } from '../../keys/keymap';
import type { Pane } from '../pane';
import { bendFor, PLAIN_PEN, Pressure } from '../pen';
import { Fingers } from '../fingers';
import { sizeByDrag } from '../sizing';
import { atSteps, towards } from '../steady';
import { useBench } from '../../store';
import { fakeStorage } from '../../testing/bench';

beforeEach(() => {
  fakeStorage();
  put({});
});

const pen = (pressure: number, over: object = {}) => ({
  pointerType: 'pen',
  pressure,
  clientX: 0,
  clientY: 0,
  timeStamp: 0,
  ...over,
});

describe('pressure', () => {
  test('what is pressed mostly counts as half, whatever that is', () => {
    for (const usual of [0.2, 0.35, 0.5, 0.7]) {
      const pressures = Array.from({ length: 41 }, (_, n) => usual + (n - 20) * 0.004);
      expect(response(usual, bendFor(pressures))).toBeCloseTo(0.5, 2);
    }
    expect(bendFor([])).toBe(0);
    expect(bendFor([0, 1, 0])).toBe(0);
  });

  test('a pen answers by its response; one that never presses counts as pressed fully', () => {
    const p = new Pressure();
    expect(p.of(pen(0.25), { ...PLAIN_PEN, bend: 0.5 })).toBeCloseTo(0.5, 9);
    const deaf = new Pressure();
    const pressed = Array.from({ length: 8 }, () => deaf.of(pen(0), PLAIN_PEN));
    expect(pressed[0]).toBe(0);
    expect(pressed.at(-1)).toBe(1);
    expect(deaf.of(pen(0.4), PLAIN_PEN)).toBe(0.4);
  });

  test('a hand that is made up begins lightly, presses where it is slow and lets go where it is fast', () => {
    const p = new Pressure();
    const by = { ...PLAIN_PEN, mouse: 'speed' as const };
    const move = (x: number, t: number) => p.of(pen(0.5, { pointerType: 'mouse', clientX: x, timeStamp: t }), by);
    const first = move(0, 0);
    let slow = 0;
    for (let n = 1; n < 20; n++) slow = move(n * 2, n * 16);
    let fast = 0;
    for (let n = 1; n < 20; n++) fast = move(40 + n * 60, 320 + n * 16);
    expect(first).toBeLessThan(0.4);
    expect(slow).toBeGreaterThan(0.85);
    expect(fast).toBeLessThan(0.25);
    expect(new Pressure().of(pen(0.5, { pointerType: 'mouse' }), PLAIN_PEN)).toBe(1);
  });
});

describe('lines', () => {
  test('steps of 15° from where the stroke began; once decided they stay', () => {
    const from = { x: 10, y: 10 };
    expect(atSteps(from, { x: 110, y: 14 })).toMatchObject({ x: 110, y: 10, angle: 0 });
    const slanted = atSteps(from, { x: 110, y: 65 });
    expect((Math.atan2(slanted.y - 10, slanted.x - 10) * 180) / Math.PI).toBeCloseTo(30, 9);
    const held = atSteps(from, { x: 110, y: 65 }, 0);
    expect(held).toMatchObject({ x: 110, y: 10 });
  });

  test('to a point: every place lies on the line there', () => {
    const at = towards({ x: 0, y: 0 }, { x: 30, y: 80 }, { x: 100, y: 100 });
    expect(at.x).toBeCloseTo(55, 9);
    expect(at.y).toBeCloseTo(55, 9);
    expect(towards({ x: 5, y: 5 }, { x: 9, y: 1 }, { x: 5, y: 5 })).toEqual({ x: 9, y: 1 });
  });
});

test('dragging doubles the size over 120 pixels, raises flow, and Escape brings both back', () => {
  useBench.setState((s) => ({ brush: { ...s.brush, size: 20, flow: 0.5 } }));
  const gesture = sizeByDrag({ clientX: 100, clientY: 100 } as PointerEvent);
  gesture.move({ clientX: 220, clientY: 76 } as PointerEvent);
  expect(useBench.getState().brush).toMatchObject({ size: 40, flow: 0.6 });
  gesture.move({ clientX: -5000, clientY: 9000 } as PointerEvent);
  expect(useBench.getState().brush).toMatchObject({ size: 1, flow: 0.01 });
  gesture.cancel!();
  expect(useBench.getState().brush).toMatchObject({ size: 20, flow: 0.5 });
});

test('two fingers slide, zoom and turn the sheet about what lies between them; near a pen they are a palm', () => {
  const calls: [string, ...number[]][] = [];
  const pane = {
    name: 'flat',
    box: { getBoundingClientRect: () => ({ left: 0, top: 0 }), clientHeight: 400 },
    viewport: {
      flatCamera: {
        pan: (x: number, y: number) => calls.push(['pan', x, y]),
        zoomAt: (f: number, x: number, y: number) => calls.push(['zoom', f, x, y]),
        turn: (a: number, x: number, y: number) => calls.push(['turn', a, x, y]),
      },
      invalidate: () => undefined,
    },
  } as unknown as Pane;
  const touch = (pointerId: number, clientX: number, clientY: number, timeStamp = 10_000) =>
    ({ pointerId, clientX, clientY, timeStamp, pointerType: 'touch' }) as PointerEvent;
  const fingers = new Fingers();
  expect(fingers.press(touch(1, 100, 100), pane)).toBe(1);
  expect(fingers.press(touch(2, 200, 100), pane)).toBe(2);
  fingers.move(touch(2, 300, 100), pane);
  expect(calls).toEqual([
    ['pan', 50, 0],
    ['zoom', 0.5, 200, 100],
    ['turn', 0, 200, 100],
  ]);
  fingers.move(touch(2, 100, 300), pane);
  expect(calls.at(-1)).toEqual(['turn', Math.PI / 2, 100, 200]);
  fingers.pen(10_000);
  expect(fingers.isPalm(touch(3, 0, 0, 10_300))).toBe(true);
  expect(fingers.isPalm(touch(3, 0, 0, 11_300))).toBe(false);
});

test('hints go for good, in any order, and are remembered', () => {
  hintDone('paint');
  expect(useHints.getState().done).toEqual(['paint']);
  hintDone('layers', 'turn', 'paint');
  expect(useHints.getState().done).toEqual(['turn', 'paint', 'layers']);
  expect(JSON.parse(localStorage.getItem('brindle-hints')!)).toEqual(['turn', 'paint', 'layers']);
});

describe('keys', () => {
  const commands = [
    { id: 'paint', keys: ['b'] },
    { id: 'smear', keys: ['s'] },
  ];
  test('one’s own take the place of those that came; clashes are found; a file carries them', () => {
    setKeys('smear', ['b']);
    expect(keysOf(commands[1])).toEqual(['b']);
    expect([...clashes(commands, useKeyMap.getState().own)]).toEqual([['b', ['paint', 'smear']]]);
    const file = keyFile();
    setKeys('smear', null);
    expect(keysOf(commands[1])).toEqual(['s']);
    expect(readKeyFile(file)).toBeNull();
    expect(keysOf(commands[1])).toEqual(['b']);
    setKeys('smear', []);
    expect(clashes(commands, useKeyMap.getState().own).size).toBe(0);
  });

  test.each([
    'no json',
    '{}',
    '{"format":"brindle-keys","version":2,"keys":{}}',
    '{"format":"brindle-keys","version":1,"keys":{"paint":["<script>  x"]}}',
  ])('%s is refused in a sentence and changes nothing', (text) => {
    setKeys('paint', ['9']);
    expect(readKeyFile(text)).toMatch(/^This is no file of keys/);
    expect(useKeyMap.getState().own).toEqual({ paint: ['9'] });
  });

  test('what is pressed, as commands have it', () => {
    const key = (over: Partial<KeyboardEvent>) =>
      keyOfEvent({ key: 'x', ctrlKey: false, metaKey: false, shiftKey: false, altKey: false, ...over });
    expect([
      key({}),
      key({ ctrlKey: true, shiftKey: true }),
      key({ key: '?', shiftKey: true }),
      key({ key: ' ' }),
      key({ key: 'Shift' }),
    ]).toEqual(['x', 'ctrl+shift+x', '?', 'space', null]);
  });
});
