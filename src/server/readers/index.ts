/**
 * Files from outside, read by processes of their own. Limits are explicit: processor time, so that a busy machine is no reason to refuse a
 * sound file, and memory. Whoever is over one is refused with a sentence; nothing else is harmed.
 */
import { readFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { z } from 'zod';
import { rackBrushSchema, type RackBrush } from '../../core/hand/rack/brushes';
import type { PictureResult } from '../pictures';
import type { PinResult } from '../pinPictures';
import { turns } from '../turns';
import { ReaderPool, type ReaderOutcome } from './pool';
import type { BrushesTask, ColladaTask, PictureTask, PieceTask, PinTask, ReaderLimits, TaskKind, UnwrapTask } from './protocol';

const GIB = 1024 ** 3;
const HEAP_MEGABYTES = 2048;

// One a server, however often a bundler copies this module.
const holder = globalThis as unknown as { brindleReaders?: ReaderPool };
export const readers = (): ReaderPool => (holder.brindleReaders ??= new ReaderPool(HEAP_MEGABYTES));

/** Of any small file; sound ones need a fraction of it. Readers of pictures get more once they know the size (tasks.ts). */
const SMALL: ReaderLimits = { cpuMs: 10_000, memoryBytes: GIB };

/** A piece of ten planes of 8192² takes some 0.7 GiB and minutes, a mesh of five million vertices more. */
const PIECE: ReaderLimits = { cpuMs: 5 * 60_000, memoryBytes: 3 * GIB };
/** An XML of a million triangles is some 200 MB, and several times that once it is parsed. */
const MODEL: ReaderLimits = { cpuMs: 60_000, memoryBytes: 2 * GIB };
const UNWRAP: ReaderLimits = { cpuMs: 3 * 60_000, memoryBytes: 4 * GIB };

/** Two pieces at once are what a machine with 8 GiB can hold. */
const pieceTurn = turns(2);
/** It keeps one core busy: others wait. */
const unwrapTurn = turns(1);

type Read<T> = { ok: true; value: T } | { ok: false; message: string };

/** `what`: the file as a sentence begins with it. */
export function refusalOf(outcome: Exclude<ReaderOutcome, { type: 'done' }>, what: string): string {
  if (outcome.type === 'refused') return outcome.message;
  if (outcome.type === 'over time')
    return `${what} took too long to read and was given up: make it smaller, or save it again if it should be quick.`;
  if (outcome.type === 'over memory')
    return `${what} needs more memory than a file may take: make it smaller, or save it again if it should be small.`;
  return `${what} could not be read, since its reader stopped: try again, or save it again.`;
}

async function ask<T>(
  kind: TaskKind,
  input: object,
  limits: ReaderLimits,
  what: string,
  answer: z.ZodType<T>,
  pool = readers(),
): Promise<Read<T>> {
  const outcome = await pool.run({ kind, limits, input });
  if (outcome.type !== 'done') return { ok: false, message: refusalOf(outcome, what) };
  return { ok: true, value: answer.parse(outcome.value) };
}

const pictureFacts = z.object({
  width: z.number().int(),
  height: z.number().int(),
  channels: z.number().int(),
  note: z.string().nullable(),
});

/** As `readPicture` (pictures.ts), in a reader process. */
export async function readPictureApart(path: string, name: string, as: 'colour' | 'data'): Promise<PictureResult> {
  const texels = `${path}.texels`;
  const task: PictureTask = { path, name, as, texels };
  const read = await ask('picture', task, SMALL, `"${name}"`, pictureFacts);
  if (!read.ok) return read;
  const bytes = await readFile(texels);
  const { width, height, channels } = read.value;
  const data = new Uint16Array(bytes.buffer as ArrayBuffer, bytes.byteOffset, width * height * channels);
  return { ok: true, picture: { ...read.value, data } };
}

const pinFacts = z.object({ width: z.number().int(), height: z.number().int() });

/** As `makePin` (pinned.ts), in a reader process. */
export async function makePinApart(path: string, name: string): Promise<PinResult> {
  const out = `${path}.webp`;
  const read = await ask('pin', { path, name, out } satisfies PinTask, SMALL, `"${name}"`, pinFacts);
  return read.ok ? { ok: true, webp: await readFile(out), ...read.value } : read;
}

export type ImportResult = { ok: true; id: string } | { ok: false; message: string };

/** Reads a piece file and stores the piece. */
export const importPieceFile = (path: string): Promise<ImportResult> =>
  pieceTurn(async () => {
    const read = await ask('piece', { path } satisfies PieceTask, PIECE, 'The piece file', z.string());
    return read.ok ? { ok: true, id: read.value } : read;
  });

export type UnwrapResult = { ok: true; glb: Uint8Array } | { ok: false; message: string };

/** New UVs for the GLB at `path`, for sheets of `size` texels a side. In the page it cannot run: watlas builds functions out of text. */
export const unwrapFile = (path: string, size: number): Promise<UnwrapResult> =>
  unwrapTurn(async () => {
    const out = `${path}.unwrapped.glb`;
    const read = await ask('unwrap', { path, size, out } satisfies UnwrapTask, UNWRAP, 'The model', z.null());
    return read.ok ? { ok: true, glb: await readFile(out) } : read;
  });

const namedPictures = z.array(
  z.object({ baseColourPicture: z.string(), normalPicture: z.string(), emissivePicture: z.string() }).partial(),
);

/** A COLLADA file as a GLB, and the names of the pictures of each of its materials. */
export async function readColladaApart(
  path: string,
): Promise<{ ok: true; glb: Uint8Array; pictures: z.infer<typeof namedPictures> } | { ok: false; message: string }> {
  const out = `${path}.glb`;
  const read = await ask('collada', { path, out } satisfies ColladaTask, MODEL, 'The model', namedPictures);
  return read.ok ? { ok: true, glb: await readFile(out), pictures: read.value } : read;
}

const brushFile = z.object({ brushes: z.array(rackBrushSchema), tips: z.array(z.tuple([z.string(), z.string()])) });

/** As `readBrushFile` (core/hand/rack/file.ts), in a reader process; tips are paths of pictures in the folder of `path`. */
export async function readBrushesApart(
  path: string,
  what: string,
): Promise<{ ok: true; brushes: RackBrush[]; tips: [picture: string, path: string][] } | { ok: false; message: string }> {
  const out = dirname(path);
  const read = await ask('brushes', { path, name: what, out } satisfies BrushesTask, SMALL, what, brushFile);
  return read.ok ? { ok: true, ...read.value } : read;
}
