/** The bench's state in the page, and what can be done to it. The engine has the truth; this mirrors it. */
import { create } from 'zustand';
import { brushSchema, type Brush } from '@/core/brush/brush';
import { hexToSrgb } from '@/core/colour/transfer';
import { applyEdit, type Edit } from '@/core/document/edits';
import { MAPS, type MapId } from '@/core/document/maps';
import { findLayer, type Layer, type Piece, type Sheet } from '@/core/document/schema';
import { EngineClient } from '@/engine/client';
import type { Event, Geometry, KeptState, PixelPatch, TrailState } from '@/engine/protocol';
import type { View } from '@/viewport/materials';

export interface Job {
  id: number;
  done: number;
  total: number;
  what: string;
  startedAt: number;
}

export type Tool = 'paint' | 'erase' | 'pick';

export interface Writes {
  'base-colour': { on: boolean; amount: number };
  height: { on: boolean; value: number; amount: number };
  roughness: { on: boolean; value: number; amount: number };
  metallic: { on: boolean; value: number; amount: number };
}

export interface BenchState {
  phase: 'opening' | 'open' | 'failed';
  opening: { what: string; done: number; total: number };
  failure: string;
  document: Piece | null;
  geometry: Geometry | null;
  trail: TrailState;
  kept: KeptState & { at: number };
  sheetId: string;
  /** Selected layer of each sheet. */
  selected: Record<string, string>;
  view: View;
  tool: Tool;
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
  resolve: (bytes: Uint8Array<ArrayBuffer>, name: string) => void;
  reject: (message: string, cancelled: boolean) => void;
} | null = null;
let goTo: (pieceId: string) => void = () => {};
export const pixelListeners = new Set<PixelListener>();

const startWrites: Writes = {
  'base-colour': { on: true, amount: 1 },
  height: { on: false, value: 0.62, amount: 1 },
  roughness: { on: false, value: 0.4, amount: 1 },
  metallic: { on: false, value: 0, amount: 1 },
};

const fresh = (): BenchState => ({
  phase: 'opening',
  opening: { what: 'Opening', done: 0, total: 1 },
  failure: '',
  document: null,
  geometry: null,
  trail: { labels: [], position: 0 },
  kept: { state: 'kept', waiting: 0, at: Date.now() },
  sheetId: '',
  selected: {},
  view: 'lit',
  tool: 'paint',
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
const HAND_FIELDS = ['brush', 'writes', 'wells', 'recent', 'wireOpacity', 'light'] as const;

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

export function openBench(pieceId: string, onGoTo: (pieceId: string) => void): () => void {
  goTo = onGoTo;
  set({ ...fresh(), ...loadHand() }, true);
  engine = new EngineClient(onEvent);
  engine.send({ type: 'open', pieceId });
  const unsubscribe = useBench.subscribe((now, before) => {
    if (HAND_FIELDS.some((f) => now[f] !== before[f])) saveHand();
  });
  return () => {
    unsubscribe();
    engine?.close();
    engine = null;
  };
}

function onEvent(event: Event): void {
  switch (event.type) {
    case 'opening':
      return set({ opening: event });
    case 'opened': {
      const selected: Record<string, string> = {};
      for (const sheet of event.document.sheets) selected[sheet.id] = topPainted(sheet)?.id ?? sheet.layers.at(-1)?.id ?? '';
      return set({
        phase: 'open',
        document: event.document,
        geometry: event.geometry,
        trail: event.trail,
        sheetId: event.document.sheets[0].id,
        selected,
      });
    }
    case 'failed':
      return set({ phase: 'failed', failure: event.message });
    case 'document':
      // An answer to an older request than the newest would undo what the page shows already.
      if (event.serial === serial || event.serial === -1) set({ trail: event.trail });
      if (event.serial === serial) {
        set({ document: event.document });
        mendSelection();
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
      return finishJob?.resolve(event.bytes, event.name);
    case 'job-failed':
      set({ job: null });
      return finishJob?.reject(event.message, event.cancelled);
    case 'picked':
      return;
  }
}

const topPainted = (sheet: Sheet): Layer | undefined => sheet.layers.findLast((l) => l.kind === 'painted');

function mendSelection(): void {
  const { document, selected } = get();
  if (!document) return;
  const next = { ...selected };
  for (const sheet of document.sheets)
    if (!findLayer(sheet, next[sheet.id] ?? '')) next[sheet.id] = topPainted(sheet)?.id ?? sheet.layers.at(-1)?.id ?? '';
  set({ selected: next });
}

// ── Asking the engine ──────────────────────────────────────────────────────────────────────────────────────

export const bench = () => engine!;
export const currentSheet = (s: BenchState = get()): Sheet =>
  s.document!.sheets.find((x) => x.id === s.sheetId) ?? s.document!.sheets[0];
export const currentLayer = (s: BenchState = get()): Layer | undefined => findLayer(currentSheet(s), s.selected[s.sheetId] ?? '');

/** Carries out an edit: the page shows it at once, the engine makes it true and keeps it. */
export function edit(change: Edit, label: string): void {
  const { document } = get();
  set({ document: applyEdit(document!, change) });
  engine!.send({ type: 'edit', edit: change, label, serial: ++serial });
  mendSelection();
}

export function preview(change: Edit | null): void {
  engine!.send({ type: 'preview', edit: change });
}

export function undo(): void {
  engine!.send({ type: 'undo', serial: ++serial });
}

export function redo(): void {
  engine!.send({ type: 'redo', serial: ++serial });
}

export function duplicateLayer(sheetId: string, layerId: string, newId: string, name: string): void {
  engine!.send({ type: 'duplicate-layer', sheetId, layerId, newId, name, serial: ++serial });
  set((s) => ({ selected: { ...s.selected, [sheetId]: newId } }));
}

export function selectSheet(sheetId: string): void {
  set({ sheetId });
  engine!.send({ type: 'focus', sheetId });
}

export function selectLayer(layerId: string): void {
  set((s) => ({ selected: { ...s.selected, [s.sheetId]: layerId } }));
}

export function swapWells(): void {
  set((s) => ({ wells: [s.wells[1], s.wells[0]] }));
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

export function setWrite<M extends MapId>(map: M, change: Partial<Writes[M]>): void {
  set((s) => ({ writes: { ...s.writes, [map]: { ...s.writes[map], ...change } } }));
}

/** The brush as the engine takes it: settings, mode and what it writes to the sheet's maps. */
export function brushInHand(erase: boolean): Brush {
  const { brush, writes, wells } = get();
  const out: Brush = { ...brush, mode: erase ? 'erase' : 'paint', writes: {} };
  for (const map of currentSheet().maps) {
    const w = writes[map];
    const value = map === 'base-colour' ? hexToSrgb(wells[0]) : [(w as Writes['height']).value];
    out.writes[map] = { on: w.on, value, amount: w.amount };
  }
  return out;
}

export function say(message: string): void {
  set({ notice: { id: ++noticeId, message } });
}

export function startJob(
  make: (id: number) => Parameters<EngineClient['send']>[0],
): Promise<{ bytes: Uint8Array<ArrayBuffer>; name: string } | null> {
  const id = engine!.freshId();
  set({ job: { id, done: 0, total: 1, what: 'Starting', startedAt: Date.now() } });
  return new Promise((resolve, reject) => {
    finishJob = {
      resolve: (bytes, name) => resolve({ bytes, name }),
      reject: (message, cancelled) => (cancelled ? resolve(null) : reject(new Error(message))),
    };
    engine!.send(make(id));
  });
}

export function cancelJob(): void {
  const { job } = get();
  if (job) engine!.send({ type: 'cancel', id: job.id });
}

export const mapLabel = (map: MapId) => MAPS[map].label;
