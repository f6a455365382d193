/** Tools' keys, pressed and held. */
import { heldTool } from './commands';
import { holdTools } from './holdTools';
import { useBench } from '../store';
import { HAND_TOOLS } from './tools';

const pick = HAND_TOOLS.find((t) => t.type === 'pick')!;
const send = (type: 'keydown' | 'keyup', key: string) => window.dispatchEvent(new KeyboardEvent(type, { key }));
let stop: () => void;

beforeEach(() => {
  stop = holdTools({});
  heldTool.before = 'paint';
  useBench.setState({ tool: 'pick' });
});
afterEach(() => stop());

test('a key that was only pressed leaves its tool in hand, however long it was down', () => {
  send('keydown', pick.key.toLowerCase());
  send('keyup', pick.key.toLowerCase());
  window.dispatchEvent(new Event('pointerdown'));
  expect(useBench.getState().tool).toBe('pick');
});

test('a key that is down while the pen works gives the tool before back', () => {
  send('keydown', pick.key.toLowerCase());
  window.dispatchEvent(new Event('pointerdown'));
  send('keyup', pick.key.toLowerCase());
  expect(useBench.getState().tool).toBe('paint');
  // Another key's release is none of its.
  useBench.setState({ tool: 'pick' });
  send('keydown', pick.key.toLowerCase());
  window.dispatchEvent(new Event('pointerdown'));
  send('keyup', 'q');
  expect(useBench.getState().tool).toBe('pick');
});
