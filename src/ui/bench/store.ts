/** The bench's state in the page, and what can be done to it. The engine has the truth; this mirrors it. */
import { create } from 'zustand';
import { brushSchema, type Brush } from '@/core/hand/brush';
import { TOOLS, type ToolType } from '@/core/hand/tools';
import { hexToSrgb } from '@/core/colour/transfer';
import { applyEdit, type Edit } from '@/core/document/edits';
import { LAYERS } from '@/core/kinds/layers';
import { mapInfo, mapKind, MAP_ROWS, type MapId } from '@/core/kinds/maps';
import { findLayer, findMask, type Layer, type Mask, type Piece, type Sheet } from '@/core/document/schema';
import { ancestors, findCycle } from '@/core/document/tree';
import { type Look } from '@/core/strata/displayPlanes';
import { shownOn } from '@/core/kinds/shown';
import { EngineClient } from '@/engine/client';
import type { Event, Geometry, KeptState, LayersRequest, PageRequest, PixelPatch, TrailState } from '@/engine/protocol';
import type { MaskMode, View } from '@/viewport/materials';
import { NO_GUIDES, type Guides } from './guides';
import type { HandleOwner } from './openThings';
import type { PictureSet } from './openThings';
import type { HandTool } from './tools';
import { holder } from './viewportHolder';

export interface Job {
  id: number;
  done: number;
  total: number;
  what: string;
  startedAt: number;
}

type ToolSettings = Brush['settings'];

/** What a stroke does to a map. Colours take the active well, other maps their own value. */
export interface MapWrite {
  on: boolean;
  value: number;
  amount: number;
}
export type Writes = Partial<Record<MapId, MapWrite>>;

export interface BenchState {
  /** `elsewhere`: another tab has the piece; `busy`: it has it and does not answer. */
  phase: 'opening' | 'open' | 'failed' | 'elsewhere' | 'busy';
  opening: { what: string; done: number; total: number };
  failure: string;
  /** Of a piece that could not be opened: it was deleted and can be brought back; how many changes wait for it here. */
  failed: { deleted: boolean; waiting: number };
  document: Piece | null;
  geometry: Geometry | null;
  trail: TrailState;
  kept: KeptState & { at: number };
  /** This browser's own journal: what is not on its disk yet, and why writing fails. */
  journal: { pending: number; asked: number; failing: string | null };
  sheetId: string;
  /** Selected layer of each sheet: the one at work. */
  selected: Record<string, string>;
  /** All that are chosen on the sheet, the selected one among them. */
  chosen: string[];
  /** Strokes go onto the layer, or onto its mask. */
  target: 'layer' | 'mask';
  /** What a stroke paints into a mask: 0 hides, 1 shows. */
  maskValue: number;
  maskMode: MaskMode | null;
  /** The step of the mask that is open. */
  openStep: string | null;
  /** What the handles in the view belong to. */
  handles: HandleOwner | null;
  /** A click in a pane gives a face to this step instead of painting. */
  picking: string | null;
  /** Counts what passes by: small pictures follow. */
  previews: number;
  /** Pictures that wait for the artist's yes. */
  pictureSet: PictureSet | null;
  squint: boolean;
  guides: Guides;
  /** Marks where base colour is no plausible albedo. */
  albedoMarks: boolean;
  solo: string[];
  collapsed: string[];
  hiddenColumns: MapId[];
  /** Planes that have lost tiles. */
  missing: string[];
  view: View;
  tool: HandTool;
  /** What each tool is set to, beside the brush; where it says nothing, as the tool starts. */
  toolSettings: Partial<Record<ToolType, ToolSettings>>;
  brush: Brush;
  writes: Writes;
  wells: [string, string];
  recent: string[];
  light: number;
  wireOpacity: number;
  filled: 'both' | 'model' | 'flat';
  job: Job | null;
  notice: { id: number; message: string } | null;
}

/** Painted pixels do not go through React: the viewport listens here. */
type PixelListener = (patches: PixelPatch[], strokeAt: number | null) => void;

let engine: EngineClient | null = null;
let serial = 0;
let noticeId = 0;
let finishJob: {
  resolve: (bytes: Uint8Array<ArrayBuffer>, name: string, warning: string | null) => void;
  reject: (message: string, cancelled: boolean) => void;
} | null = null;
let goTo: (pieceId: string) => void = () => {};
export const pixelListeners = new Set<PixelListener>();

const startWrites: Writes = Object.fromEntries(
  MAP_ROWS.flatMap(({ id, brush }) => (brush ? [[id, { ...brush, amount: 1 }]] : [])),
);

export function writeOf(writes: Writes, map: MapId): MapWrite {
  return writes[map] ?? { on: false, value: mapInfo(map).start[0], amount: 1 };
}

const fresh = (): BenchState => ({
  phase: 'opening',
  opening: { what: 'Opening', done: 0, total: 1 },
  failure: '',
  failed: { deleted: false, waiting: 0 },
  document: null,
  geometry: null,
  trail: { labels: [], position: 0 },
  kept: { state: 'kept', waiting: 0, aside: [], reached: 0, at: Date.now() },
  journal: { pending: 0, asked: 0, failing: null },
  sheetId: '',
  selected: {},
  chosen: [],
  target: 'layer',
  maskValue: 0,
  maskMode: null,
  openStep: null,
  handles: null,
  picking: null,
  previews: 0,
  pictureSet: null,
  squint: false,
  guides: NO_GUIDES,
  albedoMarks: false,
  solo: [],
  collapsed: [],
  hiddenColumns: [],
  missing: [],
  view: 'lit',
  tool: 'paint',
  toolSettings: {},
  brush: brushSchema.parse({}),
  writes: startWrites,
  wells: ['#b5502f', '#e8d9b8'],
  recent: [],
  light: 0,
  wireOpacity: 0.15,
  filled: 'both',
  job: null,
  notice: null,
});

export const useBench = create<BenchState>(fresh);
const set = useBench.setState;
const get = useBench.getState;

/** Brush, wells and the like are the artist's, not the piece's: they stay in the browser. */
const HAND_KEY = 'brindle-hand';
const HAND_FIELDS = [
  'squint',
  'guides',
  'brush',
  'toolSettings',
  'writes',
  'wells',
  'recent',
  'wireOpacity',
  'light',
  'collapsed',
  'hiddenColumns',
] as const;

function loadHand(): Partial<BenchState> {
  try {
    const saved = JSON.parse(localStorage.getItem(HAND_KEY) ?? '{}') as Partial<BenchState>;
    return { ...saved, brush: brushSchema.parse({ ...saved.brush, writes: {} }) };
  } catch {
    return {};
  }
}

function saveHand(): void {
  const state = get();
  try {
    localStorage.setItem(HAND_KEY, JSON.stringify(Object.fromEntries(HAND_FIELDS.map((f) => [f, state[f]]))));
  } catch {
    // A full or forbidden local store costs only the memory of the brush.
  }
}

export function openBench(pieceId: string, onGoTo: (pieceId: string) => void, takeOver = false): () => void {
  goTo = onGoTo;
  lastViewing = '';
  set({ ...fresh(), ...loadHand() }, true);
  engine = new EngineClient(pieceId, { onEvent, onJournal: (journal) => set({ journal }), document: () => get().document });
  void engine.open(takeOver);
  const unsubscribe = useBench.subscribe((now, before) => {
    if (HAND_FIELDS.some((f) => now[f] !== before[f])) saveHand();
    if (VIEWING_FIELDS.some((f) => now[f] !== before[f])) sendViewing();
  });
  return () => {
    unsubscribe();
    engine?.close();
    engine = null;
  };
}

const VIEWING_FIELDS = ['phase', 'document', 'sheetId', 'view', 'maskMode', 'solo', 'selected'] as const;
let lastViewing = '';

/** What is looked at by itself: a mask, or a map that no other plane shows. */
function lookNow(state: BenchState): Look | null {
  const mask = state.maskMode && currentMask(state);
  if (mask) return { kind: 'mask', maskId: mask.id, layerId: state.selected[state.sheetId] ?? null };
  const { view } = state;
  return view !== 'lit' && shownOn(view).plane === 'view' ? { kind: 'map', map: view } : null;
}

/** Tells the engine what is seen, when it has changed: that is drawn, and drawn first. */
export function sendViewing(): void {
  const state = get();
  if (state.phase !== 'open' || !engine) return;
  const rect = holder.viewport?.flatVisible() ?? null;
  const visible = rect && {
    x: Math.floor(rect.x),
    y: Math.floor(rect.y),
    width: Math.ceil(rect.width),
    height: Math.ceil(rect.height),
  };
  const viewing = { look: lookNow(state), solo: state.solo, hot: state.selected[state.sheetId] ?? null, visible };
  const text = JSON.stringify(viewing);
  if (text === lastViewing) return;
  lastViewing = text;
  engine.send({ type: 'viewing', viewing });
}

function onEvent(event: Event): void {
  switch (event.type) {
    case 'opening':
      return set({ opening: event });
    case 'opened': {
      const selected: Record<string, string> = {};
      for (const sheet of event.document.sheets) selected[sheet.id] = startLayer(sheet);
      return set({
        phase: 'open',
        document: event.document,
        geometry: event.geometry,
        trail: event.trail,
        sheetId: event.document.sheets[0].id,
        selected,
        chosen: [selected[event.document.sheets[0].id]].filter(Boolean),
        missing: event.missing,
      });
    }
    case 'failed':
      return set({
        phase: 'failed',
        failure: event.message,
        failed: { deleted: event.deleted ?? false, waiting: event.waiting ?? 0 },
      });
    case 'handed-over':
      return set({ phase: 'elsewhere' });
    case 'taken-elsewhere':
      return set({ phase: 'busy' });
    case 'renewed':
      set({ document: event.document, trail: event.trail });
      return mendSelection();
    case 'document':
      // An answer to an older request than the newest would undo what the page shows already.
      if (event.serial === serial || event.serial === -1) set({ trail: event.trail });
      if (event.serial === serial) {
        set({ document: event.document });
        mendSelection();
        if (event.select?.length) chooseLayers(event.select);
      }
      return;
    case 'pixels':
      return pixelListeners.forEach((listen) => listen(event.patches, event.strokeAt));
    case 'kept':
      return set({ kept: { ...event.kept, at: Date.now() } });
    case 'notice':
      return set({ notice: { id: ++noticeId, message: event.message } });
    case 'goto':
      return goTo(event.pieceId);
    case 'job-progress':
      return set((s) => (s.job?.id === event.id ? { job: { ...s.job, ...event } } : {}));
    case 'job-done':
      set({ job: null });
      if (event.warning) say(event.warning);
      return finishJob?.resolve(event.bytes, event.name, event.warning);
    case 'job-failed':
      set({ job: null });
      return finishJob?.reject(event.message, event.cancelled);
    case 'answer':
    case 'no-answer':
      return;
  }
}

/** Where work begins: the topmost painted layer, else the topmost. */
const startLayer = (sheet: Sheet): string =>
  (sheet.layers.findLast((l) => LAYERS[l.kind].byHand) ?? sheet.layers.at(-1))?.id ?? '';

function mendSelection(): void {
  const { document, selected, sheetId, chosen, solo } = get();
  if (!document) return;
  const next = { ...selected };
  for (const sheet of document.sheets) if (!findLayer(sheet, next[sheet.id] ?? '')) next[sheet.id] = startLayer(sheet);
  const sheet = document.sheets.find((s) => s.id === sheetId) ?? document.sheets[0];
  const there = chosen.filter((id) => findLayer(sheet, id));
  const now = next[sheet.id];
  set({
    selected: next,
    sheetId: sheet.id,
    chosen: there.includes(now) ? there : now ? [now] : [],
    solo: solo.filter((id) => document.sheets.some((s) => findLayer(s, id))),
  });
  mendTarget();
}

/** Without a mask there is none to paint on or to look at; without its map there is nothing to view. */
function mendTarget(): void {
  const state = get();
  if (!currentMask(state) && (state.target === 'mask' || state.maskMode)) set({ target: 'layer', maskMode: null });
  if (state.view !== 'lit' && !currentSheet(state).maps.includes(state.view)) set({ view: 'lit' });
}

// ── Asking the engine ──────────────────────────────────────────────────────────────────────────────────────

export const bench = () => engine!;
export const currentSheet = (s: BenchState = get()): Sheet =>
  s.document!.sheets.find((x) => x.id === s.sheetId) ?? s.document!.sheets[0];
export const currentLayer = (s: BenchState = get()): Layer | undefined => findLayer(currentSheet(s), s.selected[s.sheetId] ?? '');

/** The mask of the selected layer, switched on or not. */
export const currentMask = (s: BenchState = get()): Mask | undefined => {
  const layer = currentLayer(s);
  return layer?.mask ? findMask(currentSheet(s), layer.mask.id) : undefined;
};

/** Carries out an edit: the page shows it at once, the engine makes it true and keeps it. */
export function edit(change: Edit, label: string): void {
  const { document } = get();
  const next = applyEdit(document!, change);
  // Whatever led to it: nothing is made from itself.
  const cycle = next.sheets.map((s) => (document!.sheets.includes(s) ? null : findCycle(s.layers, s.masks))).find((c) => c);
  if (cycle) {
    preview(null);
    return say(`That cannot be: ${cycle}.`);
  }
  set({ document: next });
  engine!.send({ type: 'edit', edit: change, label, serial: ++serial });
  mendSelection();
}

export function preview(change: Edit | null): void {
  set((s) => ({ previews: s.previews + 1 }));
  engine!.send({ type: 'preview', edit: change });
}

export function undo(): void {
  engine!.send({ type: 'undo', serial: ++serial });
}

export function redo(): void {
  engine!.send({ type: 'redo', serial: ++serial });
}

/** A change that the engine works out, since it needs pixels. */
export function work(what: LayersRequest): void {
  engine!.send({ type: 'layers', what, serial: ++serial });
}

export function selectSheet(sheetId: string): void {
  set((s) => ({
    sheetId,
    chosen: [s.selected[sheetId]].filter(Boolean),
    target: 'layer',
    maskMode: null,
    openStep: null,
    handles: null,
    picking: null,
  }));
  engine!.send({ type: 'focus', sheetId });
}

export function chooseLayers(ids: string[]): void {
  const sheet = currentSheet();
  const there = ids.filter((id) => findLayer(sheet, id));
  if (there.length === 0) return;
  const selected = there.at(-1)!;
  const around = ancestors(sheet.layers, selected).map((a) => a.id);
  set((s) => ({
    chosen: there,
    selected: { ...s.selected, [s.sheetId]: selected },
    collapsed: s.collapsed.filter((id) => !around.includes(id)),
    ...(s.selected[s.sheetId] === selected ? {} : { target: 'layer' as const, openStep: null, handles: null, picking: null }),
  }));
  mendTarget();
}

export const selectLayer = (id: string): void => chooseLayers([id]);

/** On a mask the swap is between hiding and showing. */
export function swapWells(): void {
  set((s) => (s.target === 'mask' ? { maskValue: 1 - s.maskValue } : { wells: [s.wells[1], s.wells[0]] }));
}

export function setWell(colour: string): void {
  set((s) => ({ wells: [colour, s.wells[1]] }));
}

const RECENT = 12;
/** Called when a stroke begins: colours that were really used. */
export function rememberColour(): void {
  set((s) => ({ recent: [s.wells[0], ...s.recent.filter((c) => c !== s.wells[0])].slice(0, RECENT) }));
}

export function setBrush(change: Partial<Brush>): void {
  set((s) => ({ brush: { ...s.brush, ...change } }));
}

export function setWrite(map: MapId, change: Partial<MapWrite>): void {
  set((s) => ({ writes: { ...s.writes, [map]: { ...writeOf(s.writes, map), ...change } } }));
}

export const settingsOf = (type: ToolType, state: Pick<BenchState, 'toolSettings'> = get()): ToolSettings => ({
  ...TOOLS[type].start,
  ...state.toolSettings[type],
});

export function setToolSettings(type: ToolType, settings: ToolSettings): void {
  set((s) => ({ toolSettings: { ...s.toolSettings, [type]: settings } }));
}

/** The brush as the engine takes it: tool, settings and what it writes, to the sheet's maps or to the mask. */
export function brushInHand(mode: ToolType): Brush {
  const { brush, writes, wells, target, maskValue } = get();
  const out: Brush = { ...brush, mode, settings: settingsOf(mode), writes: {} };
  if (target === 'mask') {
    const hides = TOOLS[mode].hidesOnMasks;
    const value = hides ? 0 : maskValue;
    return { ...out, mode: hides ? 'paint' : mode, writes: { mask: { on: true, value: [value], amount: 1 } } };
  }
  for (const map of currentSheet().maps) {
    const w = writeOf(writes, map);
    const kind = mapKind(map);
    if (kind === 'normal') continue;
    out.writes[map] = { on: w.on, value: kind === 'colour' ? hexToSrgb(wells[0]) : [w.value], amount: w.amount };
  }
  return out;
}

export function say(message: string): void {
  set({ notice: { id: ++noticeId, message } });
}

export function startJob(
  make: (id: number) => PageRequest,
): Promise<{ bytes: Uint8Array<ArrayBuffer>; name: string; warning: string | null } | null> {
  const id = engine!.freshId();
  set({ job: { id, done: 0, total: 1, what: 'Starting', startedAt: Date.now() } });
  return new Promise((resolve, reject) => {
    finishJob = {
      resolve: (bytes, name, warning) => resolve({ bytes, name, warning }),
      reject: (message, cancelled) => (cancelled ? resolve(null) : reject(new Error(message))),
    };
    engine!.send(make(id));
  });
}

export function cancelJob(): void {
  const { job } = get();
  if (job) engine!.send({ type: 'cancel', id: job.id });
}

export const mapLabel = (map: MapId, sheet: Sheet = currentSheet()) => mapInfo(map, sheet.ownMaps).label;
