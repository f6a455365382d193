/** What reader processes do. Files go in and come out by path; an answer is plain data. */
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Extend } from './child';
import type {
  BrushesTask,
  ColladaTask,
  PictureTask,
  PieceTask,
  PinTask,
  ReaderAnswer,
  ReaderLimits,
  TaskKind,
  UnwrapTask,
} from './protocol';
// Loaded ahead, since most tasks are pictures and sharp takes a while to load. Other readers are loaded when they are needed.
import { readPicture, type Declared } from '../pictures';
import { makePin } from '../pinPictures';

const MIB = 1024 * 1024;
/** A texel of four channels in 16 bits takes eight bytes, and it is held twice while it is read. */
const BYTES_A_TEXEL = 24;
/** Readers in JavaScript hold the file twice, and a texel as four floats twice. Up to 4096² are read by them. */
const BYTES_A_TEXEL_IN_JAVASCRIPT = 80;
const TEXELS_A_CPU_MS = 2000;
const TEXELS_A_CPU_MS_IN_JAVASCRIPT = 200;

/** `texels`: as the picture declares them; readers have checked that it is no more than is read. */
const pictureLimits: (...of: Parameters<Declared>) => ReaderLimits = (texels, inJavaScript = false) => ({
  cpuMs: 10_000 + texels / (inJavaScript ? TEXELS_A_CPU_MS_IN_JAVASCRIPT : TEXELS_A_CPU_MS),
  memoryBytes: Math.max(1024 * MIB, 384 * MIB + texels * (inJavaScript ? BYTES_A_TEXEL_IN_JAVASCRIPT : BYTES_A_TEXEL)),
});

const done = (value: unknown): ReaderAnswer => ({ type: 'done', value });
const refused = (message: string): ReaderAnswer => ({ type: 'refused', message });

async function picture({ path, name, as, texels }: PictureTask, extend: Extend): Promise<ReaderAnswer> {
  const result = await readPicture(path, name, as, (...declared) => extend(pictureLimits(...declared)));
  if (!result.ok) return refused(result.message);
  const { data, ...facts } = result.picture;
  await writeFile(texels, new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
  return done(facts);
}

async function pin({ path, name, out }: PinTask, extend: Extend): Promise<ReaderAnswer> {
  const result = await makePin(path, name, (...declared) => extend(pictureLimits(...declared)));
  if (!result.ok) return refused(result.message);
  await writeFile(out, result.webp);
  return done({ width: result.width, height: result.height });
}

/** Reads a piece file and stores it. */
async function piece({ path }: PieceTask): Promise<ReaderAnswer> {
  const { storePieceFile } = await import('./storePiece');
  const result = await storePieceFile(path);
  return result.ok ? done(result.id) : refused(result.message);
}

async function unwrap({ path, size, out }: UnwrapTask): Promise<ReaderAnswer> {
  const { readModelFile, unwrapModel } = await import('../models');
  const read = await readModelFile(path, 'model.glb');
  if (!read.ok) return refused(read.message);
  const result = await unwrapModel(read.model, { size });
  if (!result.ok) return refused(result.message);
  const { writeGlb } = await import('../../core/mesh/writeGlb');
  await writeFile(out, await writeGlb(result.found.model));
  return done(null);
}

/** The answer names the pictures of each material. */
async function collada({ path, out }: ColladaTask): Promise<ReaderAnswer> {
  const { readColladaFile } = await import('../models');
  const read = await readColladaFile(path);
  if (!read.ok) return refused(read.message);
  const { writeGlb } = await import('../../core/mesh/writeGlb');
  await writeFile(out, await writeGlb(read.model));
  return done(read.pictures);
}

async function brushes({ path, name, out }: BrushesTask): Promise<ReaderAnswer> {
  const { readBrushFile } = await import('../../core/hand/rack/file');
  const file = readBrushFile(await readFile(path), name);
  if (!file.ok) return refused(file.message);
  const tips = [...file.tips];
  for (const [n, [, png]] of tips.entries()) await writeFile(join(out, `tip-${n}.png`), png);
  return done({ brushes: file.brushes, tips: tips.map(([picture], n) => [picture, join(out, `tip-${n}.png`)]) });
}

export const TASKS: Record<TaskKind, (input: never, extend: Extend) => Promise<ReaderAnswer>> = {
  picture,
  pin,
  piece,
  unwrap,
  collada,
  brushes,
};
