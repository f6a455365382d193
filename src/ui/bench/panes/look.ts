/** How the bench was left: taken up again when a piece opens, and kept with it when the work rests. */
import { joinBlobs } from '@/core/keeping/parts';
import type { LookLeft } from '@/core/piece/look';
import { mapInfo } from '@/core/kinds/maps';
import type { BenchViewport } from '@/viewport/benchViewport';
import type { View } from '@/viewport/materials';
import { exactOnce, selectSheet, useBench } from '../store';

const isView = (view: string, maps: readonly string[]): view is View =>
  view === 'lit' || (maps.includes(view) && !!mapInfo(view as never));

/** Parts of the state, as far as they still fit the document. */
export function stateLeft(left: LookLeft): void {
  const { document } = useBench.getState();
  const sheet = document?.sheets.find((s) => s.id === left.sheetId) ?? document?.sheets[0];
  if (!sheet) return;
  if (sheet.id !== useBench.getState().sheetId) selectSheet(sheet.id);
  useBench.setState({
    view: isView(left.view, sheet.maps) ? left.view : 'lit',
    filled: left.filled,
    light: left.light,
  });
}

export function camerasLeft(viewport: BenchViewport, left: LookLeft): void {
  viewport.modelCamera.takeUp(left.model);
  if (useBench.getState().sheetId === left.sheetId) viewport.flatCamera.takeUp(left.flat);
  viewport.invalidate();
}

/** After the last frame. */
const REST_MS = 2500;
const QUALITY = 0.8;

/** Keeps how the bench looks with the piece, whenever it rests. Gives what ends that. */
export function keepLook(pieceId: string, viewport: BenchViewport, area: () => DOMRect | undefined): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const stop = viewport.drawn.listen(() => {
    clearTimeout(timer);
    timer = setTimeout(() => void exactOnce().then(() => send(pieceId, viewport, area())), REST_MS);
  });
  return () => {
    stop();
    clearTimeout(timer);
  };
}

async function send(pieceId: string, viewport: BenchViewport, box: DOMRect | undefined): Promise<void> {
  const { phase, sheetId, view, filled, light, maskMode, bakeLook } = useBench.getState();
  // What is looked at in passing is no look to come back to.
  if (phase !== 'open' || maskMode || bakeLook || !box) return;
  const picture = await viewport.picture('image/webp', QUALITY);
  if (!picture) return;
  const insets = { left: box.left, top: box.top, right: innerWidth - box.right, bottom: innerHeight - box.bottom };
  const clamped = Object.fromEntries(Object.entries(insets).map(([k, v]) => [k, Math.max(0, v)])) as LookLeft['insets'];
  const { modelCamera, flatCamera } = viewport;
  const left: LookLeft = { insets: clamped, sheetId, view, filled, light, model: modelCamera.left, flat: flatCamera.left };
  const body = joinBlobs([new TextEncoder().encode(JSON.stringify(left)), new Uint8Array(await picture.arrayBuffer())]);
  // A missing look is no harm: the next rest tries again.
  await fetch(`/api/pieces/${pieceId}/look`, { method: 'PUT', body }).catch(() => undefined);
}
