/** Long work on a snapshot of the piece: dispatch and the piece file, with progress and cancel. */
import { writePieceFile } from '../../core/piece/pieceFile';
import { writeZip } from '../../core/codec/zip';
import { fileSafe } from '../../core/text';
import { renderDispatch } from '../../core/deliver/dispatch';
import type { RenderContext } from '../../core/deliver/render';
import { LOST_FILE, lostTiles } from '../../core/deliver/lost';
import type { StrokeRecord } from '../../core/keeping/operation';
import { canvasThumbnail, modelThumbnail } from '../../core/piece/thumbnail';
import type { Event, Request } from '../protocol';

export interface JobContext {
  context: RenderContext;
  modelGlb: Uint8Array | null;
  /** How the strokes came about; the server has them. */
  strokes: () => Promise<StrokeRecord[]>;
  /** A reference picture of its pinboard, WebP; null: the server has lost it. */
  pinned: (hash: string) => Promise<Uint8Array | null>;
  post: (event: Event, transfer?: Transferable[]) => void;
  isCancelled: () => boolean;
  breathe: () => Promise<void>;
}

export async function runJob(request: Extract<Request, { type: 'dispatch' | 'export-piece' }>, job: JobContext): Promise<void> {
  const { id } = request;
  const { piece, store, model } = job.context;
  const stem = fileSafe(piece.name);
  const progress = (done: number, total: number, what: string) => job.post({ type: 'job-progress', id, done, total, what });
  const lost = lostTiles(piece, store);
  const warnings = lost ? [lost.sentence] : [];
  let bytes: Uint8Array;
  if (request.type === 'dispatch') {
    const files: [string, Uint8Array][] = [];
    for await (const file of renderDispatch(job.context, request.options, progress)) {
      files.push(file);
      // Messages get their turn between files; that is also where Cancel is heard.
      await job.breathe();
      if (job.isCancelled()) return job.post({ type: 'job-failed', id, message: 'Cancelled.', cancelled: true });
    }
    if (lost) files.push([LOST_FILE, new TextEncoder().encode(lost.report)]);
    bytes = writeZip(files);
  } else {
    progress(0, 1, 'Packing');
    await job.breathe();
    const thumbnailPng = model && piece.model ? modelThumbnail(piece, store, model) : canvasThumbnail(piece, store);
    const strokes = await job.strokes().catch(() => null);
    if (!strokes) warnings.push('The recordings of its strokes are not in it: the server does not answer.');
    const pinned = await pinnedOf(job, warnings);
    bytes = writePieceFile({ piece, store, modelGlb: job.modelGlb, thumbnailPng, pinned, strokes: strokes ?? [] }, progress);
    await job.breathe();
    if (job.isCancelled()) return job.post({ type: 'job-failed', id, message: 'Cancelled.', cancelled: true });
  }
  const out = bytes as Uint8Array<ArrayBuffer>;
  const name = request.type === 'dispatch' ? `${stem}.zip` : `${stem}.brindle`;
  job.post({ type: 'job-done', id, bytes: out, name, warning: warnings.join(' ') || null }, [out.buffer]);
}

/** The pictures of the pinboard; those that do not come are left out, which is said. */
async function pinnedOf({ context, pinned }: JobContext, warnings: string[]): Promise<Map<string, Uint8Array>> {
  const out = new Map<string, Uint8Array>();
  const wanted = [...new Set(context.piece.pins.map((pin) => pin.picture))];
  for (const hash of wanted) {
    const webp = await pinned(hash).catch(() => null);
    if (webp) out.set(hash, webp);
  }
  const lost = wanted.length - out.size;
  if (lost > 0) warnings.push(`${lost === 1 ? 'One picture' : `${lost} pictures`} of its pinboard could not be had.`);
  return out;
}
