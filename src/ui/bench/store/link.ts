/** Asking the engine. */
import type { Delivered, EngineClient } from '@/engine/client';
import { applyEdit, type Edit } from '@/core/document/edits';
import { whyUnmakeable } from '@/core/document/tree';
import type { LayersRequest, PageRequest } from '@/engine/protocol';
import { set, get, say } from './state';
import { mendSelection } from './selection';

let engine: EngineClient | null = null;
let serial = 0;

/** The open piece's engine. */
export const bench = () => engine!;
export const connected = () => engine !== null;
export function connect(to: EngineClient | null): void {
  engine = to;
}
/** Whether an answer is to the last thing that was asked: an older one would undo what the page shows already. */
export const isNewest = (of: number) => of === serial;
/** Carries out an edit: the page shows it at once, the engine makes it true and keeps it. */
export function edit(change: Edit, label: string): void {
  const { document } = get();
  const next = applyEdit(document!, change);
  // Whatever led to it: nothing is made from itself.
  const fault = next.sheets.map((s) => (document!.sheets.includes(s) ? null : whyUnmakeable(s.layers, s.masks))).find((c) => c);
  if (fault) {
    preview(null);
    return say(`That cannot be: ${fault}.`);
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
    bakeLook: null,
    openStep: null,
    handles: null,
    picking: null,
  }));
  engine!.send({ type: 'focus', sheetId });
}

/** What is delivered; null if it was cancelled. Throws what went wrong, also when the engine stops. */
export async function startJob(make: (id: number) => PageRequest): Promise<Delivered | null> {
  const engine = bench();
  const id = engine.freshId();
  set({ job: { id, done: 0, total: 1, what: 'Starting', startedAt: Date.now() } });
  try {
    const delivered = await engine.deliver(id, make(id));
    if (delivered?.warning) say(delivered.warning);
    return delivered;
  } finally {
    set((s) => (s.job?.id === id ? { job: null } : {}));
  }
}

export function cancelJob(): void {
  const { job } = get();
  if (job) engine!.send({ type: 'cancel', id: job.id });
}
