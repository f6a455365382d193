/** What was drawn of pieces, as the server keeps it (src/server/drawn.ts): by build, since another one may draw it differently. */
import { BUILD } from './browserShelf';
import type { DrawnElsewhere } from './drawnParts';
import { answer, ask, bytesOf } from '../remote';

const through = (bytes: Uint8Array, by: CompressionStream | DecompressionStream): Response =>
  new Response(new Blob([bytes as Uint8Array<ArrayBuffer>]).stream().pipeThrough(by));

/** Failures are thrown: whoever asks can do without. undefined: a build under development, which changes all the time. */
export function drawnOnServer(origin: string): DrawnElsewhere | undefined {
  if (!BUILD) return undefined;
  const of = (pieceId: string, sheetId: string) => `${origin}/api/pieces/${pieceId}/drawn/${encodeURIComponent(sheetId)}`;
  return {
    parts: async (pieceId, sheetId) => (await answer<{ parts: number }>(`${of(pieceId, sheetId)}?build=${BUILD}`)).parts,
    async part(pieceId, sheetId, n) {
      const packed = await bytesOf(`${of(pieceId, sheetId)}/${n}?build=${BUILD}`);
      return packed && new Uint8Array(await through(packed, new DecompressionStream('gzip')).arrayBuffer());
    },
    async put(pieceId, sheetId, n, last, bytes) {
      const body = await through(bytes, new CompressionStream('gzip')).blob();
      await ask(`${of(pieceId, sheetId)}/${n}?build=${BUILD}${last ? '&last' : ''}`, { method: 'PUT', body });
    },
  };
}
