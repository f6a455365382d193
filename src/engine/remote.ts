/** The server as the engine sees it. What is no yes comes as a `ServerAnswer` of one of four kinds, with a sentence. */
import type { Edit } from '../core/document/edits';
import type { OpenedPiece } from '../core/keeping/opened';
import type { StrokeRecord, Taken } from '../core/keeping/operation';
import { joinBlobs, splitBlobs } from '../core/keeping/parts';
import type { BakedTiles } from '../core/document/work/bakes';
import { answerOf, SERVER_HEADER, type Answer } from '../core/keeping/protocol';
import type { TileRow } from '../core/keeping/rules';

interface AnswerDetails {
  /** Left out: nobody answered. */
  status?: number;
  missing?: string[];
  deleted?: boolean;
  /** Of a conflict: which server it is, where it stands, and the operation that made that. */
  server?: string;
  revision?: number;
  last?: string | null;
}

export class ServerAnswer extends Error {
  constructor(
    readonly answer: Exclude<Answer, 'taken'>,
    message: string,
    readonly more: AnswerDetails = {},
  ) {
    super(message);
  }

  /** What an answer of the server means. */
  static of(status: number, body: AnswerDetails & { message?: string }): ServerAnswer {
    const kind = answerOf(status) as Exclude<Answer, 'taken'>;
    const fallback = kind === 'again' ? 'The server cannot work just now.' : `The server refused (${status}).`;
    // 410: it is there, and can be brought back.
    return new ServerAnswer(kind, body.message ?? fallback, { ...body, status, deleted: body.deleted ?? status === 410 });
  }
}
export const unreachable = (message = 'The server does not answer.') => new ServerAnswer('again', message);

/** Said when an answer is not from this server. It is ignored: trusting it would delete work from the journal that nobody has stored. */
export const NOT_OURS =
  'What answers at this address is not this server: another program, or another Brindle, may have taken its port. Nothing is let go: start Brindle there again.';

export type { OpenedPiece, Taken };

export interface RemoteTrailEntry {
  edit: Edit;
  label: string;
  tiles: TileRow[];
}

export interface Remote {
  open(pieceId: string): Promise<OpenedPiece>;
  trailEntry(pieceId: string, seq: number): Promise<RemoteTrailEntry>;
  /** Bytes by hash; missing ones are left out. */
  blobs(hashes: readonly string[]): Promise<Map<string, Uint8Array>>;
  /** Tiles ahead of their operation. */
  putBlobs(blobs: readonly Uint8Array[]): Promise<void>;
  commit(pieceId: string, operation: Uint8Array<ArrayBuffer>): Promise<Taken>;
  /** Something small is written on the server: whether others would pass where one change fails. */
  tryToWrite(): Promise<void>;
  /** Which operations were carried out, and to which revision each led. */
  done(pieceId: string, ids: readonly string[]): Promise<[id: string, revision: number][]>;
  strokes(pieceId: string): Promise<StrokeRecord[]>;
  duplicate(pieceId: string): Promise<{ id: string; revision: number }>;
  restore(pieceId: string): Promise<void>;
  /** A reference picture, WebP; null: there is none. */
  pinned(hash: string): Promise<Uint8Array | null>;
  /** What a bake consists of that is done. */
  bake(key: string): Promise<BakedTiles>;
  /** The picture of a tip, PNG; null: there is none. */
  tip(hash: string): Promise<Uint8Array | null>;
}

/** No answer for this long counts as unreachable: a part of some MiB takes well under a second. */
const TIMEOUT_MS = 30_000;
const BLOBS_PER_REQUEST = 256;

export async function ask(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(path, { ...init, signal: AbortSignal.timeout(TIMEOUT_MS) });
  } catch {
    throw unreachable();
  }
  if (!response.headers.get(SERVER_HEADER)) throw unreachable(NOT_OURS);
  if (answerOf(response.status) === 'taken') return response;
  throw ServerAnswer.of(response.status, (await response.json().catch(() => ({}))) as { message?: string });
}

export async function answer<T>(path: string, init?: RequestInit): Promise<T> {
  const response = await ask(path, init);
  try {
    return (await response.json()) as T;
  } catch {
    throw unreachable('The answer was cut short.');
  }
}

/** null: it is not there. */
export async function bytesOf(path: string): Promise<Uint8Array | null> {
  try {
    return new Uint8Array(await (await ask(path)).arrayBuffer());
  } catch (error) {
    if (error instanceof ServerAnswer && error.answer !== 'again') return null;
    throw error;
  }
}

export function fetchRemote(origin: string): Remote {
  const of = (id: string) => `${origin}/api/pieces/${id}`;
  return {
    open: (id) => answer(of(id)),
    trailEntry: (id, seq) => answer(`${of(id)}/trail/${seq}`),
    commit: (id, operation) => answer(`${of(id)}/commit`, { method: 'POST', body: operation }),
    tryToWrite: async () => void (await ask(`${origin}/api/health`, { method: 'POST' })),
    done: (id, ids) => answer(`${of(id)}/done`, { method: 'POST', body: JSON.stringify(ids) }),
    strokes: (id) => answer(`${of(id)}/strokes`),
    duplicate: (id) => answer(`${of(id)}/duplicate`, { method: 'POST' }),
    restore: (id) => answer(of(id), { method: 'PATCH', body: JSON.stringify({ deleted: false }) }),
    pinned: (hash) => bytesOf(`${origin}/api/pins/${hash}`),
    bake: (key) => answer(`${origin}/api/bakes/${key}`),
    tip: (hash) => bytesOf(`${origin}/api/tips/${hash}`),
    putBlobs: async (blobs) => void (await ask(`${origin}/api/blobs`, { method: 'PUT', body: joinBlobs(blobs) })),
    async blobs(hashes) {
      const out = new Map<string, Uint8Array>();
      for (let i = 0; i < hashes.length; i += BLOBS_PER_REQUEST) {
        const part = hashes.slice(i, i + BLOBS_PER_REQUEST);
        const response = await ask(`${origin}/api/blobs`, { method: 'POST', body: JSON.stringify(part) });
        const body = await response.arrayBuffer().catch(() => null);
        const found = body && splitBlobs(new Uint8Array(body));
        if (found?.length !== part.length) throw unreachable('The answer was cut short.');
        // One without bytes is missing there.
        part.forEach((hash, n) => found[n].length > 0 && out.set(hash, found[n]));
      }
      return out;
    },
  };
}
