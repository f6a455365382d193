/** Every command of the bench: what the keys, the command search and the menus carry out. */
import { shownKey } from './keys';
import { COLOUR_MAP, mapInfo } from '@/core/kinds/maps';
import type { Sheet } from '@/core/document/schema';
import { FILTERS, FILTER_TYPES } from '@/core/kinds/filters';
import type { View } from '@/viewport/materials';
import { toggleScheme } from '../../common/scheme';
import { addAdjust, addEcho, addLayer } from '../layers/adding';
import { copyChosen, cutChosen, pasteLayers } from '../layers/clipboard';
import {
  cycleLock,
  deleteLayers,
  duplicateChosen,
  groupChosen,
  merge,
  moveChosen,
  toggleLayers,
  toggleSolo,
  ungroup,
} from '../layers/commands';
import { layings, STROKES } from '../areas/laying';
import { dropFence, hideFenced, showAll, toggleFence } from '../fence/commands';
import { nextGuide } from '../panes/guides';
import { addMask, cycleMaskMode, invertMask, mixByHeight, shadeEdges, switchTarget } from '../mask/commands';
import { askForDecal, askForSet } from '../pictures/pictureSet';
import { currentSheet, redo, say, sendViewing, setBrush, stepTone, swapWells, toggleMirror, undo, useBench } from '../store';
import { keysOf } from './keymap';
import { lastPointer } from '../pointer/heldKeys';
import { toggleLines } from '../pointer/lines';
import { toggleStencil } from '../stencil/commands';
import { HAND_TOOLS, type HandTool } from './tools';
import { holder } from '../panes/viewportHolder';
import { takeTool } from '../store/toolBrushes';

export interface Command {
  id: string;
  label: string;
  group: 'Paint' | 'Layers' | 'Masks' | 'View' | 'Trail';
  /** As KeyboardEvent.key, lower case, with ctrl+/shift+/alt+ before it. Several are alternatives. */
  keys: string[];
  run: () => void;
}

const viewport = () => holder.viewport;

export function frameModel(): void {
  viewport()?.frameModel();
}

export function lookFrom(side: 'front' | 'side' | 'top'): void {
  const angles = { front: [0, 0], side: [Math.PI / 2, 0], top: [0, Math.PI / 2 - 0.01] }[side];
  viewport()?.modelCamera.look(angles[0], angles[1]);
  viewport()?.invalidate('model');
}

export function fitFlat(): void {
  const sheet = currentSheet();
  viewport()?.flatCamera.fit(sheet.width, sheet.height);
  viewport()?.invalidate('flat');
}

export function oneToOne(): void {
  viewport()?.flatCamera.oneToOne();
  viewport()?.invalidate('flat');
}

/** Turns the flat sheet by a step, flips it, or lays it straight. */
export function turnFlat(how: 'left' | 'right' | 'flip' | 'upright'): void {
  const camera = viewport()?.flatCamera;
  if (how === 'flip') camera?.flip();
  else if (how === 'upright') camera?.upright();
  else camera?.turn(((how === 'left' ? -15 : 15) * Math.PI) / 180);
  viewport()?.invalidate('flat');
  sendViewing();
}

/** Lit, then each map of the sheet. */
export function viewsOf(sheet: Sheet): { value: View; label: string; hint: string }[] {
  return [
    { value: 'lit', label: 'Lit', hint: 'All maps under light' },
    ...sheet.maps.map((m) => {
      const { label, tab } = mapInfo(m, sheet.ownMaps);
      return { value: m, label: tab ?? label, hint: `${label} alone, exact values, no light` };
    }),
  ];
}

/** One map alone, shaded by the model's shape; and back into the light. */
export function toggleForm(): void {
  const { form, view } = useBench.getState();
  if (form && view !== 'lit') useBench.setState({ form: false, view: 'lit' });
  else useBench.setState({ form: true, view: view === 'lit' ? COLOUR_MAP : view });
}

function cycleView(step: number): void {
  const views = viewsOf(currentSheet());
  const at = views.findIndex((v) => v.value === useBench.getState().view);
  useBench.setState({ view: views[(at + step + views.length) % views.length].value });
}

/** A bracket changes the size by a tenth, at least one pixel. */
function resizeBrush(sign: 1 | -1): void {
  const { size } = useBench.getState().brush;
  const next = sign > 0 ? Math.max(size + 1, size * 1.1) : Math.min(size - 1, size / 1.1);
  setBrush({ size: Math.round(Math.min(1024, Math.max(1, next))) });
}

/** Takes a tool; the key of the tool in hand switches back to paint. */
function toggleTool(value: HandTool): void {
  const { tool } = useBench.getState();
  heldTool.before = tool;
  takeTool(tool === value ? 'paint' : value);
}

/** A tool's key that is held is that tool until it is let go. */
export const heldTool: { before: HandTool } = { before: 'paint' };
const tool = (value: HandTool) => () => toggleTool(value);

function openBrushRing(): void {
  const { x, y } = lastPointer;
  useBench.setState((s) => ({ brushRing: s.brushRing ? null : { x, y } }));
}

/** Digits set the opacity: 3 is 30 %, 0 is 100 %. */
export function digitOpacity(digit: number): void {
  setBrush({ opacity: digit === 0 ? 1 : digit / 10 });
}

/** What goes wrong on the way is said. */
const asked = (done: Promise<void>) => void done.catch((error: unknown) => say((error as Error).message));

export const COMMANDS: Command[] = [
  ...HAND_TOOLS.map(({ type, label, key }): Command => ({ id: type, label, group: 'Paint', keys: [key], run: tool(type) })),
  ...layings().map(({ id, label, key }): Command => ({
    id: `lay-${id}`,
    label: id === STROKES ? 'Paint by strokes' : `Lay: ${label.toLowerCase()}`,
    group: 'Paint',
    keys: key ? [key] : [],
    run: () => useBench.setState((s) => ({ laying: s.laying === id ? STROKES : id })),
  })),
  {
    id: 'fence',
    label: 'Fence on or off (hold it and click a part: only that)',
    group: 'Paint',
    keys: ['o'],
    run: toggleFence,
  },
  {
    id: 'stencil',
    label: 'Stencil on or off (hold it: a drag moves it, Shift turns, Ctrl or the wheel scales)',
    group: 'Paint',
    keys: ['/'],
    run: toggleStencil,
  },
  { id: 'hide-fenced', label: 'Hide what the fence lets through', group: 'View', keys: [], run: () => asked(hideFenced(false)) },
  {
    id: 'only-fenced',
    label: 'Show only what the fence lets through',
    group: 'View',
    keys: [],
    run: () => asked(hideFenced(true)),
  },
  { id: 'show-all', label: 'Show all parts and faces again', group: 'View', keys: [], run: showAll },
  { id: 'no-fence', label: 'No fence', group: 'Paint', keys: ['shift+o'], run: dropFence },
  { id: 'last-brushes', label: 'The last eight brushes, around the pointer', group: 'Paint', keys: ['j'], run: openBrushRing },
  { id: 'pen', label: 'Pen: how it presses', group: 'Paint', keys: [], run: () => useBench.setState({ sheet: 'pen' }) },
  {
    id: 'lines',
    label: 'Strokes run to a point, or freely (hold it and click: which)',
    group: 'Paint',
    keys: ['p'],
    run: toggleLines,
  },
  { id: 'mirror', label: 'Mirror strokes, or not', group: 'Paint', keys: ['y'], run: toggleMirror },
  {
    id: 'rack',
    label: 'Open the rack and the brush, or close them',
    group: 'Paint',
    keys: ['shift+b'],
    run: () => useBench.setState((s) => ({ brushPanel: !s.brushPanel })),
  },
  {
    id: 'fold-hand',
    label: 'Fold the hand to one line, or open it',
    group: 'View',
    keys: ['shift+u'],
    run: () => useBench.setState((s) => ({ handFolded: !s.handFolded })),
  },
  { id: 'swap', label: 'Swap the wells', group: 'Paint', keys: ['x'], run: swapWells },
  { id: 'darker', label: 'The well a tone darker', group: 'Paint', keys: ['<'], run: () => stepTone(-1) },
  { id: 'lighter', label: 'The well a tone lighter', group: 'Paint', keys: ['>'], run: () => stepTone(1) },
  { id: 'smaller', label: 'Smaller brush', group: 'Paint', keys: ['['], run: () => resizeBrush(-1) },
  { id: 'larger', label: 'Larger brush', group: 'Paint', keys: [']'], run: () => resizeBrush(1) },
  ...[3, 5, 7, 0].map((d): Command => ({
    id: `opacity-${d}`,
    label: `Opacity ${d === 0 ? 100 : d * 10} % (any digit)`,
    group: 'Paint',
    keys: [String(d)],
    run: () => digitOpacity(d),
  })),
  { id: 'add-painted', label: 'Add a painted layer', group: 'Layers', keys: ['n'], run: () => addLayer('painted') },
  { id: 'add-coat', label: 'Add a coat', group: 'Layers', keys: ['shift+n'], run: () => addLayer('coat') },
  { id: 'group', label: 'Group the chosen layers', group: 'Layers', keys: ['ctrl+g'], run: groupChosen },
  { id: 'ungroup', label: 'Open the group up', group: 'Layers', keys: ['ctrl+shift+g'], run: ungroup },
  { id: 'echo', label: 'Echo the layer into another map', group: 'Layers', keys: [], run: addEcho },
  ...FILTER_TYPES.map((type): Command => ({
    id: `adjust-${type}`,
    label: `Adjust: ${FILTERS[type].label}`,
    group: 'Layers',
    keys: [],
    run: () => addAdjust(type),
  })),
  { id: 'duplicate', label: 'Duplicate the chosen layers', group: 'Layers', keys: ['ctrl+d'], run: duplicateChosen },
  { id: 'delete', label: 'Delete the chosen layers', group: 'Layers', keys: ['delete'], run: () => deleteLayers() },
  { id: 'cut', label: 'Cut layers', group: 'Layers', keys: ['ctrl+x'], run: () => void cutChosen() },
  { id: 'copy', label: 'Copy layers', group: 'Layers', keys: ['ctrl+c'], run: () => void copyChosen() },
  { id: 'paste', label: 'Paste layers', group: 'Layers', keys: ['ctrl+v'], run: pasteLayers },
  { id: 'raise', label: 'Move up', group: 'Layers', keys: ['alt+arrowup'], run: () => moveChosen(1) },
  { id: 'lower', label: 'Move down', group: 'Layers', keys: ['alt+arrowdown'], run: () => moveChosen(-1) },
  { id: 'hide', label: 'Hide or show', group: 'Layers', keys: ['h'], run: () => toggleLayers() },
  { id: 'solo', label: 'Show the chosen alone, or all again', group: 'Layers', keys: ['shift+h'], run: toggleSolo },
  { id: 'lock', label: 'Lock: paint, all, nothing', group: 'Layers', keys: ['k'], run: () => cycleLock() },
  {
    id: 'merge-down',
    label: 'Merge with the one below (a group: into one)',
    group: 'Layers',
    keys: ['ctrl+m'],
    run: () => merge('down'),
  },
  { id: 'merge-visible', label: 'Merged copy of the visible', group: 'Layers', keys: [], run: () => merge('visible') },
  { id: 'flatten', label: 'Flatten the sheet', group: 'Layers', keys: [], run: () => merge('flatten') },
  { id: 'mask-show', label: 'Add a mask, from white', group: 'Masks', keys: ['q'], run: () => addMask(1) },
  { id: 'mask-hide', label: 'Add a mask, from black', group: 'Masks', keys: ['shift+q'], run: () => addMask(0) },
  { id: 'mix-height', label: 'Add a mask, from height', group: 'Masks', keys: [], run: () => mixByHeight() },
  { id: 'mask-target', label: 'Paint the mask, or the layer', group: 'Masks', keys: ['t'], run: switchTarget },
  {
    id: 'mask-look',
    label: 'Look at the mask: over, alone, on black, not',
    group: 'Masks',
    keys: ['shift+t'],
    run: cycleMaskMode,
  },
  { id: 'mask-invert', label: 'Invert the mask', group: 'Masks', keys: [], run: () => invertMask() },
  { id: 'shade-edges', label: 'Shade inside the layer’s edges', group: 'Masks', keys: [], run: () => shadeEdges('shadow') },
  { id: 'outline-edges', label: 'Outline the layer', group: 'Masks', keys: [], run: () => shadeEdges('outline') },
  { id: 'bevel-edges', label: 'Bevel the layer’s edges', group: 'Masks', keys: [], run: () => shadeEdges('bevel') },
  {
    id: 'pictures',
    label: 'Lay down pictures: one, or the maps of a material',
    group: 'Layers',
    keys: [],
    run: () => askForSet(null),
  },
  { id: 'decal', label: 'Decal: pictures on the surface, once', group: 'Layers', keys: [], run: askForDecal },
  {
    id: 'bakes',
    label: 'Bakes: mesh maps of the model',
    group: 'View',
    keys: ['ctrl+b'],
    run: () => useBench.setState((s) => ({ bakes: { ...s.bakes, open: !s.bakes.open } })),
  },
  {
    id: 'pins',
    label: 'Pinboard: open it or put it away',
    group: 'View',
    keys: ['shift+j'],
    run: () => useBench.setState((s) => ({ pins: { ...s.pins, open: !s.pins.open } })),
  },
  {
    id: 'squint',
    label: 'Squint: light and dark only',
    group: 'View',
    keys: ['c'],
    run: () => useBench.setState((s) => ({ squint: !s.squint })),
  },
  {
    id: 'form',
    label: 'Unlit, with form: hollows of the model dark, no light',
    group: 'View',
    keys: ['alt+v'],
    run: toggleForm,
  },
  {
    id: 'albedo-marks',
    label: 'Mark colours that no real surface has',
    group: 'View',
    keys: ['shift+c'],
    run: () => useBench.setState((s) => ({ albedoMarks: !s.albedoMarks })),
  },
  {
    id: 'guides',
    label: 'Next kind of guides',
    group: 'View',
    keys: ['g'],
    run: () => useBench.setState((s) => ({ guides: { ...s.guides, kind: nextGuide(s.guides) } })),
  },
  { id: 'next-view', label: 'Next view', group: 'View', keys: ['v'], run: () => cycleView(1) },
  { id: 'last-view', label: 'Previous view', group: 'View', keys: ['shift+v'], run: () => cycleView(-1) },
  { id: 'frame', label: 'Frame the model', group: 'View', keys: ['f'], run: frameModel },
  { id: 'fit', label: 'Fit the sheet', group: 'View', keys: ['shift+f'], run: fitFlat },
  { id: 'turn-left', label: 'Turn the flat sheet left', group: 'View', keys: ['shift+['], run: () => turnFlat('left') },
  { id: 'turn-right', label: 'Turn the flat sheet right', group: 'View', keys: ['shift+]'], run: () => turnFlat('right') },
  {
    id: 'flip-flat',
    label: 'Flip the flat sheet, as in a mirror',
    group: 'View',
    keys: ['shift+m'],
    run: () => turnFlat('flip'),
  },
  { id: 'upright', label: 'Flat sheet upright again', group: 'View', keys: ['shift+k'], run: () => turnFlat('upright') },
  { id: 'one-to-one', label: 'Sheet at one texel per pixel', group: 'View', keys: [], run: oneToOne },
  { id: 'front', label: 'Look from the front', group: 'View', keys: [], run: () => lookFrom('front') },
  { id: 'side', label: 'Look from the side', group: 'View', keys: [], run: () => lookFrom('side') },
  { id: 'top', label: 'Look from the top', group: 'View', keys: [], run: () => lookFrom('top') },
  {
    id: 'fill-model',
    label: 'Model fills the bench, or both',
    group: 'View',
    keys: ['m'],
    run: () => useBench.setState((s) => ({ filled: s.filled === 'model' ? 'both' : 'model' })),
  },
  {
    id: 'fill-flat',
    label: 'Flat sheet fills the bench, or both',
    group: 'View',
    keys: ['u'],
    run: () => useBench.setState((s) => ({ filled: s.filled === 'flat' ? 'both' : 'flat' })),
  },
  {
    id: 'keys',
    label: 'Keys: what there are, and change them',
    group: 'View',
    keys: ['?'],
    run: () => useBench.setState({ sheet: 'keys' }),
  },
  { id: 'scheme', label: 'Plaster or slate (light or dark around the work)', group: 'View', keys: [], run: toggleScheme },
  { id: 'undo', label: 'Undo', group: 'Trail', keys: ['ctrl+z'], run: undo },
  { id: 'redo', label: 'Redo', group: 'Trail', keys: ['ctrl+shift+z', 'ctrl+y'], run: redo },
];

export function keysFor(id: string): string | undefined {
  const command = COMMANDS.find((c) => c.id === id);
  return command && shownKey(keysOf(command)[0]);
}
