/** Getting things out of an open piece: files made by the engine, saved by the browser. */
import type { DispatchOptions } from '@/core/deliver/options';
import { ask, download } from '../../common/api';
import { say, startJob } from '../store';

type TakeFile = (bytes: Uint8Array<ArrayBuffer>, name: string) => Promise<void> | void;

/** Makes the piece's file and hands it to `take`; an error of either is shown as a message. */
async function withPieceFile(take: TakeFile): Promise<void> {
  try {
    const made = await startJob((id) => ({ type: 'export-piece', id }));
    if (made) await take(made.bytes, made.name);
  } catch (error) {
    say((error as Error).message);
  }
}

export const exportPieceFile = (): Promise<void> => withPieceFile(download);

/** For a piece that was deleted for good: stores what this page shows as a new piece and opens it. */
export const keepAsNewPiece = (): Promise<void> =>
  withPieceFile(async (body) => {
    const { id } = await ask<{ id: string }>('/api/pieces/import', { method: 'POST', body });
    window.location.assign(`/pieces/${id}`);
  });

export async function runDispatch(
  options: DispatchOptions,
): Promise<{ name: string; bytes: number; warning: string | null } | null> {
  const made = await startJob((id) => ({ type: 'dispatch', id, options }));
  if (!made) return null;
  const bytes = made.bytes.length;
  download(made.bytes, made.name);
  return { name: made.name, bytes, warning: made.warning };
}
