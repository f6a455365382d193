/** The door of every API route: who may ask, how much may come in, and what a failure looks like. */
import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { SERVER_HEADER } from '../core/keeping/protocol';
import { faultOf } from './faults';
import { isLocalHost } from './hosts';
import { serverName } from './identity';

export const UPLOAD_LIMITS = {
  /** A piece file or a new piece. */
  importBytes: 1024 * 1024 * 1024,
  /** One operation; its tiles may have come before it, in parts. */
  commitBytes: 128 * 1024 * 1024,
  /** Tiles ahead of their operation. */
  partBytes: 16 * 1024 * 1024,
  pictureBytes: 512 * 1024 * 1024,
  /** A model that is to be unwrapped. */
  modelBytes: 256 * 1024 * 1024,
  /** The file of a dense model. */
  twinBytes: 512 * 1024 * 1024,
} as const;

/** Only pages of this very server may ask: anything else in the browser is refused. */
export function isOwnRequest(headers: Headers): boolean {
  const host = headers.get('host') ?? '';
  // A foreign name that resolves to this machine is no way in.
  if (!isLocalHost(host)) return false;
  const origin = headers.get('origin');
  if (origin !== null && origin !== `http://${host}`) return false;
  const site = headers.get('sec-fetch-site');
  return site === null || site === 'same-origin' || site === 'none';
}

export const refuse = (status: number, message: string, more: object = {}) => Response.json({ message, ...more }, { status });

type Handler<C> = (request: Request, context: C) => Promise<Response>;

/** Every answer carries the server's identity; browsers ignore answers without it (keeping/protocol.ts). */
export function guarded<C>(handler: Handler<C>): Handler<C> {
  const inside = checked(handler);
  return async (request, context) => {
    const response = await inside(request, context);
    response.headers.set(SERVER_HEADER, await serverName());
    return response;
  };
}

function checked<C>(handler: Handler<C>): Handler<C> {
  return async (request, context) => {
    if (!isOwnRequest(request.headers)) return refuse(403, 'This request came from another page and is refused.');
    try {
      return await handler(request, context);
    } catch (error) {
      if (error instanceof TooLarge) {
        await drain(request);
        return refuse(413, error.message);
      }
      const { status, message, log } = faultOf(error);
      if (log) console.error(error);
      return refuse(status, message);
    }
  };
}

/** The same for routes of one piece: what can be no piece's id is said to be none. */
export function guardedPiece(
  handler: (request: Request, id: string, params: Record<string, string>) => Promise<Response>,
): Handler<{ params: Promise<Record<string, string>> }> {
  return guarded(async (request, context) => {
    const params = await context.params;
    if (!/^[A-Za-z0-9_-]{1,60}$/.test(params.id)) return refuse(400, 'This is no address of a piece: go back to the pieces.');
    return handler(request, params.id, params);
  });
}

export class TooLarge extends Error {}

/** So much of a body that is refused is read and thrown away, so that the connection can be used again. */
const DRAIN_BYTES = 64 * 1024 * 1024;
/** … and for so long at most. */
const DRAIN_MS = 5000;

async function drain(request: Request): Promise<void> {
  if (!request.body || request.body.locked) return;
  if (Number(request.headers.get('content-length') ?? 0) > DRAIN_BYTES) return;
  const reader = request.body.getReader();
  const end = Date.now() + DRAIN_MS;
  try {
    for (let size = 0; size < DRAIN_BYTES && Date.now() < end;) {
      const { done, value } = await reader.read();
      if (done) return;
      size += value.length;
    }
  } catch {
    // The other side has gone: nothing to keep usable.
  }
}

/** What says at once that it is too large is not even begun. */
function refuseDeclared(request: Request, limit: number): void {
  if (Number(request.headers.get('content-length') ?? 0) > limit) throw tooLarge(limit);
}

export function sizeInWords(bytes: number): string {
  if (bytes >= 1 << 20) return `${Math.floor(bytes / (1 << 20))} MiB`;
  return bytes >= 1024 ? `${Math.floor(bytes / 1024)} KiB` : `${bytes} bytes`;
}
const tooLarge = (limit: number) => new TooLarge(`This is larger than ${sizeInWords(limit)}, the most that is taken.`);

/** The whole body, refused as soon as it passes the limit. */
export async function readBody(request: Request, limit: number): Promise<Uint8Array> {
  refuseDeclared(request, limit);
  const chunks: Uint8Array[] = [];
  let size = 0;
  if (request.body) {
    const reader = request.body.getReader();
    try {
      for (;;) {
        const { done, value } = await reader.read();
        if (done) break;
        size += value.length;
        if (size > limit) throw tooLarge(limit);
        chunks.push(value);
      }
    } finally {
      reader.releaseLock();
    }
  }
  return Buffer.concat(chunks, size);
}

/** A small JSON body; null if it is none, or nested beyond reason. */
export async function readJson(request: Request, limit = 65536): Promise<unknown> {
  const text = new TextDecoder().decode(await readBody(request, limit));
  if (depthOf(text) > MOST_DEPTH) return null;
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** Documents nest some ten deep; parsers and checks by recursion give up at some thousands. */
const MOST_DEPTH = 64;

/** How deep brackets nest. Those inside of strings count too: no text of ours has many. */
function depthOf(text: string): number {
  let depth = 0;
  let most = 0;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (c === 91 || c === 123) most = Math.max(most, ++depth);
    else if (c === 93 || c === 125) depth--;
  }
  return most;
}

/** Streams the body into a file of its own; nothing is held in memory. `take` gets the path. */
export async function withUploadedFile<T>(request: Request, limit: number, take: (path: string) => Promise<T>): Promise<T> {
  refuseDeclared(request, limit);
  const folder = await mkdtemp(join(tmpdir(), 'brindle-upload-'));
  try {
    const path = join(folder, 'upload');
    let size = 0;
    const meter = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        size += chunk.length;
        if (size > limit) done(tooLarge(limit));
        else done(null, chunk);
      },
    });
    if (request.body) await pipeline(Readable.fromWeb(request.body as never), meter, createWriteStream(path));
    return await take(path);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
