/** Opening a piece, and what the engine tells. */
import { shallow } from 'zustand/shallow';
import { EngineClient, type Told } from '@/engine/client';
import { drawnExactly, fresh, get, notExactYet, pixels, say, set, useBench, type BenchState } from './state';
import { HAND_FIELDS, loadHand, saveHand } from './hand';
import { forgetViewing, sendViewing, VIEWING_FIELDS } from './viewing';
import { startLayer, mendSelection, chooseLayers } from './selection';
import { connect, isNewest } from './link';
import { whenIdle } from './whenIdle';

let goTo: (pieceId: string) => void = () => {};

export function openBench(pieceId: string, onGoTo: (pieceId: string) => void, takeOver = false): () => void {
  goTo = onGoTo;
  forgetViewing();
  notExactYet();
  set({ ...fresh(), ...loadHand() }, true);
  // It is told at each write, at pen rate: the page renders only what has changed.
  const onJournal = (journal: BenchState['journal']) => set((s) => (shallow(s.journal, journal) ? s : { journal }));
  const engine = new EngineClient(pieceId, { onEvent, onJournal, document: () => get().document });
  connect(engine);
  void engine.open(takeOver);
  const saving = whenIdle(saveHand);
  const unsubscribe = useBench.subscribe((now, before) => {
    if (HAND_FIELDS.some((f) => now[f] !== before[f])) saving.due();
    if (VIEWING_FIELDS.some((f) => now[f] !== before[f])) sendViewing();
  });
  return () => {
    unsubscribe();
    saving.end();
    engine.close();
    connect(null);
  };
}

function onEvent(event: Told): void {
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
      });
    }
    case 'ready':
      return set({ ready: true, missing: event.missing });
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
      if (!isNewest(event.serial)) return;
      set({ document: event.document, trail: event.trail });
      mendSelection();
      if (event.select?.length) chooseLayers(event.select);
      return;
    case 'trail':
      return set({ trail: event.trail });
    case 'pixels':
      pixels.tell(event);
      if (event.exact) drawnExactly();
      return;
    case 'kept':
      return set({ kept: { ...event.kept, at: Date.now() } });
    case 'notice':
      return say(event.message);
    case 'goto':
      return goTo(event.pieceId);
    case 'job-progress':
      return set((s) => (s.job?.id === event.id ? { job: { ...s.job, ...event } } : {}));
  }
}
