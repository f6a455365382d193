/** What is seen, for the engine to draw first. */
import type { Look } from '@/core/strata/displayPlanes';
import type { Picture } from '@/core/document/schema';
import type { Looking } from '@/viewport/materials';
import { shownOn } from '@/core/kinds/shown';
import { holder } from '../panes/viewportHolder';
import { bench, connected } from './link';
import { get, type BenchState } from './state';
import { currentMask } from './current';

export const VIEWING_FIELDS = ['phase', 'document', 'sheetId', 'view', 'maskMode', 'bakeLook', 'solo', 'selected'] as const;
let lastViewing = '';

/** The bake that is looked at: one of the sheet, or a first try. */
export function bakeLooked({ bakeLook, document, sheetId }: BenchState): Picture | null {
  if (!bakeLook) return null;
  if (typeof bakeLook === 'object') return bakeLook;
  return document?.sheets.find((s) => s.id === sheetId)?.pictures.find((p) => p.id === bakeLook) ?? null;
}

/** What the panes are to show. */
export const seenNow = (state: BenchState): Looking => (bakeLooked(state) ? 'bake' : state.view);

/** What is looked at by itself: a mask, a bake, or a map that no other plane shows. */
function lookNow(state: BenchState): Look | null {
  const mask = state.maskMode && currentMask(state);
  if (mask) return { kind: 'mask', maskId: mask.id, layerId: state.selected[state.sheetId] ?? null };
  const looked = bakeLooked(state);
  if (looked) return { kind: 'bake', picture: looked };
  const { view } = state;
  return view !== 'lit' && shownOn(view).plane === 'view' ? { kind: 'map', map: view } : null;
}

/** To a new engine everything is new. */
export function forgetViewing(): void {
  lastViewing = '';
}

/** Tells the engine what is seen, when it has changed: that is drawn, and drawn first. */
export function sendViewing(): void {
  const state = get();
  if (state.phase !== 'open' || !connected()) return;
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
  bench().send({ type: 'viewing', viewing });
}
