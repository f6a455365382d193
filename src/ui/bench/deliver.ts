/** Getting things out of an open piece: files made by the engine, saved by the browser. */
import type { DispatchOptions } from '@/core/deliver/plan';
import { download } from '../common/api';
import { say, startJob } from './store';

export async function exportPieceFile(): Promise<void> {
  try {
    const made = await startJob((id) => ({ type: 'export-piece', id }));
    if (made) download(made.bytes, made.name);
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
