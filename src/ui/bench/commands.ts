/** Every command of the bench: what the keys, the command search and the menus carry out. */
import { MAPS } from '@/core/document/maps';
import { freeName, newCoatLayer, newPaintedLayer } from '@/core/document/factory';
import { setLayerEdit } from '@/core/document/edits';
import { LIMITS } from '@/core/document/schema';
import { hexToSrgb } from '@/core/colour/transfer';
import type { View } from '@/viewport/materials';
import { toggleScheme } from '../common/scheme';
import {
  currentLayer,
  currentSheet,
  duplicateLayer,
  edit,
  redo,
  say,
  selectLayer,
  setBrush,
  swapWells,
  undo,
  useBench,
  type Tool,
} from './store';
import { holder } from './viewportHolder';

export interface Command {
  id: string;
  label: string;
  group: 'Paint' | 'Layers' | 'View' | 'Trail';
  /** As KeyboardEvent.key, lower case, with ctrl+/shift+/alt+ before it. Several are alternatives. */
  keys: string[];
  run: () => void;
}

const newId = () => crypto.randomUUID().slice(0, 13);
const viewport = () => holder.viewport;

export function frameModel(): void {
  viewport()?.frameModel();
}

export function lookFrom(side: 'front' | 'side' | 'top'): void {
  const angles = { front: [0, 0], side: [Math.PI / 2, 0], top: [0, Math.PI / 2 - 0.01] }[side];
  viewport()?.modelCamera.look(angles[0], angles[1]);
  viewport()?.invalidate();
}

export function fitFlat(): void {
  const sheet = currentSheet();
  viewport()?.flatCamera.fit(sheet.width, sheet.height);
  viewport()?.invalidate();
}

export function oneToOne(): void {
  viewport()?.flatCamera.oneToOne();
  viewport()?.invalidate();
}

export function addLayer(kind: 'painted' | 'coat'): void {
  const sheet = currentSheet();
  if (sheet.layers.length >= LIMITS.maxLayers) return say(`A sheet holds up to ${LIMITS.maxLayers} layers.`);
  const selected = currentLayer();
  const index = selected ? sheet.layers.indexOf(selected) + 1 : sheet.layers.length;
  const name = freeName(
    kind === 'painted' ? 'Painted' : 'Coat',
    sheet.layers.map((l) => l.name),
  );
  const id = newId();
  const well = hexToSrgb(useBench.getState().wells[0]);
  const layer = kind === 'painted' ? newPaintedLayer(id, name, sheet.maps) : newCoatLayer(id, name, { 'base-colour': well });
  edit({ type: 'add-layer', sheetId: sheet.id, index, layer }, `Add ${name}`);
  selectLayer(id);
}

export function deleteLayer(layerId = currentLayer()?.id): void {
  const sheet = currentSheet();
  const index = sheet.layers.findIndex((l) => l.id === layerId);
  if (index < 0) return;
  const layer = sheet.layers[index];
  edit({ type: 'remove-layer', sheetId: sheet.id, index, layer }, `Delete ${layer.name}`);
}

export function copyLayer(layerId = currentLayer()?.id): void {
  const sheet = currentSheet();
  const layer = sheet.layers.find((l) => l.id === layerId);
  if (layer)
    duplicateLayer(
      sheet.id,
      layer.id,
      newId(),
      freeName(
        layer.name,
        sheet.layers.map((l) => l.name),
      ),
    );
}

/** Up is towards the eye, as in the list. */
export function moveLayer(step: 1 | -1, layerId = currentLayer()?.id): void {
  const sheet = currentSheet();
  const from = sheet.layers.findIndex((l) => l.id === layerId);
  const to = from + step;
  if (from < 0 || to < 0 || to >= sheet.layers.length) return;
  edit({ type: 'move-layer', sheetId: sheet.id, layerId: layerId!, from, to }, `Move ${sheet.layers[from].name}`);
}

export function toggleLayer(layerId = currentLayer()?.id): void {
  const sheet = currentSheet();
  const layer = sheet.layers.find((l) => l.id === layerId);
  if (layer) edit(setLayerEdit(sheet, layer, { visible: !layer.visible }), `${layer.visible ? 'Hide' : 'Show'} ${layer.name}`);
}

export const VIEWS: { value: View; label: string; hint: string }[] = [
  { value: 'lit', label: 'Lit', hint: 'All maps under light' },
  ...Object.values(MAPS).map((m) => ({
    value: m.id,
    label: m.label.replace('Base colour', 'Colour').replace('ness', '').replace('lic', ''),
    hint: `${m.label} alone, exact values, no light`,
  })),
];

function cycleView(step: number): void {
  const at = VIEWS.findIndex((v) => v.value === useBench.getState().view);
  useBench.setState({ view: VIEWS[(at + step + VIEWS.length) % VIEWS.length].value });
}

/** A bracket changes the size by a tenth, at least one pixel. */
function resizeBrush(sign: 1 | -1): void {
  const { size } = useBench.getState().brush;
  const next = sign > 0 ? Math.max(size + 1, size * 1.1) : Math.min(size - 1, size / 1.1);
  setBrush({ size: Math.round(Math.min(1024, Math.max(1, next))) });
}

const tool = (value: Tool) => () => useBench.setState((s) => ({ tool: s.tool === value && value !== 'paint' ? 'paint' : value }));

/** Digits set the opacity: 3 is 30 %, 0 is 100 %. */
export function digitOpacity(digit: number): void {
  setBrush({ opacity: digit === 0 ? 1 : digit / 10 });
}

export const COMMANDS: Command[] = [
  { id: 'paint', label: 'Paint', group: 'Paint', keys: ['b'], run: tool('paint') },
  { id: 'erase', label: 'Erase', group: 'Paint', keys: ['e'], run: tool('erase') },
  { id: 'pick', label: 'Pick a painted value', group: 'Paint', keys: ['i'], run: tool('pick') },
  { id: 'swap', label: 'Swap the wells', group: 'Paint', keys: ['x'], run: swapWells },
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
  { id: 'duplicate', label: 'Duplicate the layer', group: 'Layers', keys: ['ctrl+d'], run: () => copyLayer() },
  { id: 'delete', label: 'Delete the layer', group: 'Layers', keys: ['delete'], run: () => deleteLayer() },
  { id: 'raise', label: 'Move the layer up', group: 'Layers', keys: ['alt+arrowup'], run: () => moveLayer(1) },
  { id: 'lower', label: 'Move the layer down', group: 'Layers', keys: ['alt+arrowdown'], run: () => moveLayer(-1) },
  { id: 'hide', label: 'Hide or show the layer', group: 'Layers', keys: ['h'], run: () => toggleLayer() },
  { id: 'next-view', label: 'Next view', group: 'View', keys: ['v'], run: () => cycleView(1) },
  { id: 'last-view', label: 'Previous view', group: 'View', keys: ['shift+v'], run: () => cycleView(-1) },
  { id: 'frame', label: 'Frame the model', group: 'View', keys: ['f'], run: frameModel },
  { id: 'fit', label: 'Fit the sheet', group: 'View', keys: ['shift+f'], run: fitFlat },
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
  { id: 'scheme', label: 'Plaster or slate (light or dark around the work)', group: 'View', keys: [], run: toggleScheme },
  { id: 'undo', label: 'Undo', group: 'Trail', keys: ['ctrl+z'], run: undo },
  { id: 'redo', label: 'Redo', group: 'Trail', keys: ['ctrl+shift+z', 'ctrl+y'], run: redo },
];

export function keyOf(e: KeyboardEvent): string {
  const key = e.key.toLowerCase();
  return `${e.ctrlKey || e.metaKey ? 'ctrl+' : ''}${e.altKey ? 'alt+' : ''}${e.shiftKey && (key.length > 1 || /[a-z]/.test(key)) ? 'shift+' : ''}${key}`;
}

export function shownKey(key: string | undefined): string | undefined {
  return key
    ?.split('+')
    .map((k) => ({ arrowup: '↑', arrowdown: '↓', ctrl: 'Ctrl', shift: 'Shift', alt: 'Alt', delete: 'Del' })[k] ?? k.toUpperCase())
    .join(' ');
}

export const keysFor = (id: string) => shownKey(COMMANDS.find((c) => c.id === id)?.keys[0]);
