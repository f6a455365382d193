/** Getting things out of an open piece: files made by the engine, saved by the browser. */
import type { DispatchOptions } from '@/core/deliver/plan';
import { ask, download } from '../common/api';
import { say, startJob } from './store';

export async function exportPieceFile(): Promise<void> {
  try {
    const made = await startJob((id) => ({ type: 'export-piece', id }));
    if (made) download(made.bytes, made.name);
  } catch (error) {
    say((error as Error).message);
  }
}

/** Of a piece that was deleted for good: all that this page shows goes into the house anew. */
export async function keepAsNewPiece(): Promise<void> {
  try {
    const made = await startJob((id) => ({ type: 'export-piece', id }));
    if (!made) return;
    const { id } = await ask<{ id: string }>('/api/pieces/import', { method: 'POST', body: made.bytes });
    window.location.assign(`/pieces/${id}`);
  } catch (error) {
    say((error as Error).message);
  }
}

export async function runDispatch(
  options: DispatchOptions,
): Promise<{ name: string; bytes: number; warning: string | null } | null> {
  const made = await startJob((id) => ({ type: 'dispatch', id, options }));
  if (!made) return null;
  const bytes = made.bytes.length;
  download(made.bytes, made.name);
  return { name: made.name, bytes, warning: made.warning };
}
