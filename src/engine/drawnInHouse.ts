/** What was drawn of pieces, as the house keeps it (src/server/drawn.ts): by build, since another one may draw it differently. */
import type { DrawnElsewhere } from './drawnParts';

const BUILD = process.env.BRINDLE_BUILD ?? '';
const TIMEOUT_MS = 30_000;

const asked = async (path: string, init?: RequestInit): Promise<Response> => {
  const response = await fetch(path, { ...init, signal: AbortSignal.timeout(TIMEOUT_MS) });
  if (!response.ok && response.status !== 404) throw new Error(`The server refused (${response.status}).`);
  return response;
};

/** Failures are thrown: whoever asks can do without. null: a build under development, which changes all the time. */
export function drawnInHouse(origin: string): DrawnElsewhere | undefined {
  if (!BUILD) return undefined;
  const of = (pieceId: string, sheetId: string) => `${origin}/api/pieces/${pieceId}/drawn/${encodeURIComponent(sheetId)}`;
  return {
    async parts(pieceId, sheetId) {
      const { parts } = (await (await asked(`${of(pieceId, sheetId)}?build=${BUILD}`)).json()) as { parts?: number };
      return parts ?? 0;
    },
    async part(pieceId, sheetId, n) {
      const response = await asked(`${of(pieceId, sheetId)}/${n}?build=${BUILD}`);
      if (!response.ok) return null;
      const unpacked = response.body!.pipeThrough(new DecompressionStream('gzip'));
      return new Uint8Array(await new Response(unpacked).arrayBuffer());
    },
    async put(pieceId, sheetId, n, last, bytes) {
      const packed = new Blob([bytes]).stream().pipeThrough(new CompressionStream('gzip'));
      const body = await new Response(packed).blob();
      await asked(`${of(pieceId, sheetId)}/${n}?build=${BUILD}${last ? '&last' : ''}`, { method: 'PUT', body });
    },
  };
}
