/** The door of every API route: who may ask, how much may come in, and what a failure looks like. */
import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';

export const UPLOAD_LIMITS = {
  /** A piece file or a new piece. */
  importBytes: 1024 * 1024 * 1024,
  /** One operation with its tiles. */
  commitBytes: 256 * 1024 * 1024,
} as const;

const LOCAL_HOST = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

/** Only pages of this very server may ask: anything else in the browser is refused. */
export function isOwnRequest(headers: Headers): boolean {
  const host = headers.get('host') ?? '';
  // A foreign name that resolves to this machine is no way in.
  if (!LOCAL_HOST.test(host)) return false;
  const origin = headers.get('origin');
  if (origin !== null && origin !== `http://${host}`) return false;
  const site = headers.get('sec-fetch-site');
  return site === null || site === 'same-origin' || site === 'none';
}

export const refuse = (status: number, message: string, more: object = {}) => Response.json({ message, ...more }, { status });

type Handler<C> = (request: Request, context: C) => Promise<Response>;

export function guarded<C>(handler: Handler<C>): Handler<C> {
  return async (request, context) => {
    if (!isOwnRequest(request.headers)) return refuse(403, 'This request came from another page and is refused.');
    try {
      return await handler(request, context);
    } catch (error) {
      if (error instanceof TooLarge) return refuse(413, error.message);
      console.error(error);
      return refuse(503, 'The server could not reach its database: it will be tried again.');
    }
  };
}

export class TooLarge extends Error {}

/** What says at once that it is too large is not even begun. */
function refuseDeclared(request: Request, limit: number): void {
  if (Number(request.headers.get('content-length') ?? 0) > limit) throw tooLarge(limit);
}
const tooLarge = (limit: number) => new TooLarge(`This is larger than ${limit >> 20} MiB, the most that is taken.`);

/** The whole body, refused as soon as it passes the limit. */
export async function readBody(request: Request, limit: number): Promise<Uint8Array> {
  refuseDeclared(request, limit);
  const chunks: Uint8Array[] = [];
  let size = 0;
  if (request.body)
    for await (const chunk of Readable.fromWeb(request.body as never)) {
      size += chunk.length;
      if (size > limit) throw tooLarge(limit);
      chunks.push(chunk);
    }
  return Buffer.concat(chunks, size);
}

/** A small JSON body; null if it is none. */
export async function readJson(request: Request): Promise<unknown> {
  const body = await readBody(request, 65536);
  try {
    return JSON.parse(new TextDecoder().decode(body));
  } catch {
    return null;
  }
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
