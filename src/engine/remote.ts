/** The server as the engine sees it. Failure to reach it is `Unreachable`; a refusal carries a sentence. */
import type { Edit } from '../core/document/edits';
import type { Piece } from '../core/document/schema';

export class Unreachable extends Error {}
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export interface OpenedPiece {
  document: Piece;
  revision: number;
  position: number;
  trail: { seq: number; label: string }[];
  tiles: [plane: string, tile: number, hash: string][];
}

export interface RemoteTrailEntry {
  edit: Edit;
  label: string;
  tiles: [plane: string, tile: number, before: string | null, after: string | null][];
}

export interface Remote {
  open(pieceId: string): Promise<OpenedPiece>;
  trailEntry(pieceId: string, seq: number): Promise<RemoteTrailEntry>;
  /** Bytes by hash; missing ones are left out. */
  blobs(hashes: readonly string[]): Promise<Map<string, Uint8Array>>;
  commit(pieceId: string, operation: Uint8Array<ArrayBuffer>): Promise<{ revision: number }>;
  duplicate(pieceId: string): Promise<{ id: string; revision: number }>;
}

/** No answer for this long counts as unreachable: a commit of a large stroke takes well under a second. */
const TIMEOUT_MS = 30_000;
const BLOBS_PER_REQUEST = 256;

async function ask(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, { ...init, signal: AbortSignal.timeout(TIMEOUT_MS) });
  } catch {
    throw new Unreachable('The server does not answer.');
  }
  if (response.ok) return response;
  // 5xx: the server or its database is down or starting; what is sent again then succeeds.
  if (response.status >= 500) throw new Unreachable('The server cannot work just now.');
  const body = (await response.json().catch(() => ({}))) as { message?: string };
  throw new Refused(body.message ?? `The server refused (${response.status}).`, response.status);
}

async function answer<T>(path: string, init?: RequestInit): Promise<T> {
  const response = await ask(path, init);
  try {
    return (await response.json()) as T;
  } catch {
    throw new Unreachable('The answer was cut short.');
  }
}

export function fetchRemote(origin: string): Remote {
  return {
    open: (id) => answer(`${origin}/api/pieces/${id}`),
    trailEntry: (id, seq) => answer(`${origin}/api/pieces/${id}/trail/${seq}`),
    commit: (id, operation) => answer(`${origin}/api/pieces/${id}/commit`, { method: 'POST', body: operation }),
    duplicate: (id) => answer(`${origin}/api/pieces/${id}/duplicate`, { method: 'POST' }),
    async blobs(hashes) {
      const out = new Map<string, Uint8Array>();
      for (let i = 0; i < hashes.length; i += BLOBS_PER_REQUEST) {
        const part = hashes.slice(i, i + BLOBS_PER_REQUEST);
        const response = await ask(`${origin}/api/blobs`, { method: 'POST', body: JSON.stringify(part) });
        let bytes: Uint8Array;
        try {
          bytes = new Uint8Array(await response.arrayBuffer());
        } catch {
          throw new Unreachable('The answer was cut short.');
        }
        const view = new DataView(bytes.buffer);
        let at = 0;
        for (const hash of part) {
          const length = view.getUint32(at, true);
          if (length > 0) out.set(hash, bytes.subarray(at + 4, at + 4 + length));
          at += 4 + length;
        }
      }
      return out;
    },
  };
}
