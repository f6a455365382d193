/** What is chosen, and that it is there. */
import { LAYERS } from '@/core/kinds/layers';
import { findLayer, type Sheet } from '@/core/document/schema';
import { ancestors } from '@/core/document/tree';
import { set, get } from './state';
import { currentSheet, currentMask } from './current';

/** Where work begins: the topmost painted layer, else the topmost. */
export const startLayer = (sheet: Sheet): string =>
  (sheet.layers.findLast((l) => LAYERS[l.kind].byHand) ?? sheet.layers.at(-1))?.id ?? '';

export function mendSelection(): void {
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
export function mendTarget(): void {
  const state = get();
  if (!currentMask(state) && (state.target === 'mask' || state.maskMode)) set({ target: 'layer', maskMode: null });
  if (state.view !== 'lit' && !currentSheet(state).maps.includes(state.view)) set({ view: 'lit' });
}

export function chooseLayers(ids: string[]): void {
  const sheet = currentSheet();
  const there = ids.filter((id) => findLayer(sheet, id));
  if (there.length === 0) return;
  const selected = there.at(-1)!;
  const around = ancestors(sheet.layers, selected).map((a) => a.id);
  const decal = findLayer(sheet, selected)!.placement?.by === 'decal';
  set((s) => ({
    chosen: there,
    selected: { ...s.selected, [s.sheetId]: selected },
    collapsed: s.collapsed.filter((id) => !around.includes(id)),
    ...(s.selected[s.sheetId] === selected
      ? {}
      : {
          target: 'layer' as const,
          openStep: null,
          picking: null,
          handles: decal ? { kind: 'layer' as const, layerId: selected } : null,
        }),
  }));
  mendTarget();
}

export const selectLayer = (id: string): void => chooseLayers([id]);
