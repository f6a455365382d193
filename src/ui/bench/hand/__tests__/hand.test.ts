/** The brush as the engine gets it: tool, settings, and what it writes. */
import { newMask, newPaintedLayer, newPiece, newSheet } from '@/core/document/factory';
import { brushSchema } from '@/core/hand/brush';
import { TOOL_TYPES, TOOLS } from '@/core/hand/tools';
import { COMMANDS } from '../../keys/commands';
import type { Mirror } from '@/core/hand/mirror';
import { mirrorSentence } from '../sentences';
import { SHIPPED } from '@/core/hand/rack/shipped';
import { loadHand, saveHand, setBrush } from '../../store/hand';
import { fresh } from '../../store/state';
import { readToolBrushes, takeTool } from '../../store/toolBrushes';
import {
  brushInHand,
  setMirror,
  setToolSettings,
  toggleMirror,
  setWrite,
  settingsOf,
  swapWells,
  useBench,
  useRack,
} from '../../store';
import { HAND_TOOLS } from '../../keys/tools';

const kept = new Map<string, string>();
Object.assign(globalThis, {
  localStorage: { getItem: (key: string) => kept.get(key) ?? null, setItem: (key: string, text: string) => kept.set(key, text) },
});

beforeEach(() => {
  const sheet = newSheet('s', 'Sheet', 256, 256, { maps: ['base-colour', 'height', 'normal'] });
  sheet.layers = [{ ...newPaintedLayer('l', 'Hand', sheet.maps), mask: { id: 'm', on: true } }];
  sheet.masks = [newMask('m', 'Mask', 0)];
  useBench.setState({
    document: newPiece('p', 'P', 'canvas', [sheet]),
    sheetId: 's',
    target: 'layer',
    maskValue: 1,
    wells: ['#ff0000', '#00ff00'],
    toolSettings: {},
  });
});

test('it writes the well’s colour and each map’s own value, and never a direction', () => {
  setWrite('height', { on: true, value: 0.75, amount: 0.5 });
  const { writes, mode } = brushInHand('paint');
  expect(mode).toBe('paint');
  expect(writes).toEqual({
    'base-colour': { on: true, value: [1, 0, 0], amount: 1 },
    height: { on: true, value: [0.75], amount: 0.5 },
  });
  swapWells();
  expect(brushInHand('paint').writes['base-colour']!.value).toEqual([0, 1, 0]);
});

test('a tool’s settings go with it, complete; others’ do not', () => {
  setToolSettings('dodge', { ...settingsOf('dodge'), strength: 0.8 });
  expect(brushInHand('dodge').settings).toEqual({ ...TOOLS.dodge.start, strength: 0.8 });
  expect(brushInHand('paint').settings).toEqual(TOOLS.paint.start);
  expect(brushInHand('erase').settings).toEqual({});
});

test('on a mask the well does not matter: it shows or hides, and an eraser hides', () => {
  useBench.setState({ target: 'mask', maskValue: 0.25 });
  expect(brushInHand('paint').writes).toEqual({ mask: { on: true, value: [0.25], amount: 1 } });
  expect(brushInHand('erase')).toMatchObject({ mode: 'paint', writes: { mask: { value: [0] } } });
  expect(brushInHand('dodge').mode).toBe('dodge');
});

test('whatever the tool, the engine’s own record takes the brush', () => {
  for (const type of TOOL_TYPES) expect(brushSchema.safeParse(brushInHand(type)).error?.issues ?? []).toEqual([]);
});

test('every tool has a place in the hand and a key of its own, which the commands know', () => {
  expect(HAND_TOOLS.map((t) => t.type)).toEqual([...TOOL_TYPES, 'pick']);
  for (const { type, key } of HAND_TOOLS) expect(COMMANDS.find((c) => c.id === type)?.keys).toEqual([key]);
  const keys = COMMANDS.flatMap((c) => c.keys);
  expect(keys.filter((k, n) => keys.indexOf(k) !== n)).toEqual([]);
});

test('a key takes a tool in hand, and the same key puts it away', () => {
  const command = COMMANDS.find((c) => c.id === 'dodge')!;
  command.run();
  expect(useBench.getState().tool).toBe('dodge');
  command.run();
  expect(useBench.getState().tool).toBe('paint');
});

describe('the mirror', () => {
  beforeEach(() => useBench.setState({ mirrored: false, mirror: { axes: ['x'], radial: 1, around: 'y' }, notice: null }));

  test('goes with the brush while it is on, and keeps how it is set while it is off', () => {
    expect(brushInHand('paint').mirror).toBeUndefined();
    setMirror({ axes: ['x', 'z'], radial: 3 });
    expect(brushInHand('erase').mirror).toEqual({ axes: ['x', 'z'], radial: 3, around: 'y' });
    toggleMirror();
    expect(brushInHand('paint').mirror).toBeUndefined();
    toggleMirror();
    expect(brushInHand('paint').mirror).toMatchObject({ axes: ['x', 'z'], radial: 3 });
  });

  test('one that mirrors nothing is off; switched on it is across x', () => {
    setMirror({ axes: [] });
    expect(useBench.getState().mirrored).toBe(false);
    toggleMirror();
    expect(brushInHand('paint').mirror).toMatchObject({ axes: ['x'], radial: 1 });
  });

  test('more images than there can be are refused in a sentence, and nothing changes', () => {
    setMirror({ axes: ['x', 'y', 'z'] });
    setMirror({ radial: 24 });
    expect(useBench.getState().mirror.radial).toBe(1);
    expect(useBench.getState().notice?.message).toMatch(/^A mirror makes more than 64 images/);
  });

  test.each([
    [{ axes: ['x', 'z'], radial: 1 }, false, 'Across X and Z.'],
    [{ axes: ['x', 'z'], radial: 1 }, true, 'Across X.'],
    [{ axes: [], radial: 6 }, false, '6 times around Y.'],
    [{ axes: ['y'], radial: 6 }, true, 'Across Y, 6 times around the middle.'],
    [{ axes: [], radial: 1 }, false, 'Nothing is mirrored.'],
  ])('%j reads as a sentence', (mirror, canvas, words) =>
    expect(mirrorSentence({ around: 'y', ...mirror } as Mirror, canvas)).toBe(words),
  );
});

describe('brushes of tools', () => {
  const plain = brushSchema.parse({ size: 23, hardness: 1 });
  beforeEach(() => {
    useBench.setState({ tool: 'paint', brush: plain, brushId: null, brushTool: 'paint', toolBrushes: {} });
    useRack.setState({ entries: SHIPPED.map((b) => ({ ...b, favourite: false, usedAt: null, shipped: true, changed: false })) });
  });
  const inHand = () => {
    const { tool, brush, brushId } = useBench.getState();
    return { tool, size: brush.size, hardness: brush.hardness, brushId };
  };

  test('a tool begins with one that suits it, in the size in hand, and then has the one that it had last', () => {
    takeTool('blur');
    expect(inHand()).toEqual({ tool: 'blur', size: 23, hardness: 0, brushId: 'shipped:soft-round' });
    setBrush({ size: 80 });
    takeTool('paint');
    expect(inHand()).toEqual({ tool: 'paint', size: 23, hardness: 1, brushId: null });
    takeTool('erase');
    expect(inHand()).toEqual({ tool: 'erase', size: 23, hardness: 1, brushId: null });
    takeTool('blur');
    expect(inHand().size).toBe(80);
  });

  test('picking has no brush: what changes while it is in hand is the brush of the tool before', () => {
    takeTool('smear');
    takeTool('pick');
    setBrush({ size: 7 });
    takeTool('paint');
    expect(inHand().size).toBe(23);
    takeTool('smear');
    expect(inHand().size).toBe(7);
  });

  test('a brush of whole texels stays in hand with every tool', () => {
    setBrush({ tip: { ...plain.tip, shape: 'square', grid: true } });
    for (const tool of TOOL_TYPES) {
      takeTool(tool);
      expect(useBench.getState().brush.tip.grid).toBe(true);
    }
  });

  test('until the rack is loaded the brush in hand stays', () => {
    useRack.setState({ entries: null });
    takeTool('blur');
    expect(inHand()).toEqual({ tool: 'blur', size: 23, hardness: 1, brushId: null });
  });

  test('every suited brush is one that Brindle comes with', () => {
    const ids = SHIPPED.map((b) => b.id);
    for (const { suitedBrush } of Object.values(TOOLS)) if (suitedBrush) expect(ids).toContain(suitedBrush);
  });

  test('a browser keeps them: the bench begins with paint and its brush; what is spoilt is left out', () => {
    takeTool('heal');
    setBrush({ size: 61 });
    saveHand();
    useBench.setState({ ...fresh(), brush: brushSchema.parse({}) });
    useBench.setState(loadHand());
    expect(inHand()).toEqual({ tool: 'paint', size: 23, hardness: 1, brushId: null });
    takeTool('heal');
    expect(inHand().size).toBe(61);
    expect(
      readToolBrushes({ heal: { brush: { size: 'wide' } }, blur: null, gone: {}, erase: { brush: {}, brushId: 7 } }),
    ).toEqual({
      erase: { brush: brushSchema.parse({}), brushId: null },
    });
    expect(readToolBrushes('nonsense')).toEqual({});
  });
});
