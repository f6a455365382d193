/**
 * One operation on its way to the server, as bytes: a little-endian uint32 length, that many bytes of JSON
 * (the header), then the blobs in the header's order. Blobs that the server has already are not in it.
 */
import { z } from 'zod';
import { brushSchema, RECORDING_LIMITS } from '../hand/brush';
import { sampleSchema } from '../hand/sample';
import { issueInWords } from '../issue';
import { editSchema } from '../document/edits';
import { LIMITS } from '../document/layer';

const HASH = /^[0-9a-f]{64}$/;
const hash = z.string().regex(HASH);

/** Plane, tile, hash before, hash after. */
export type TileRow = [string, number, string | null, string | null];
const MOST_TILE_ROWS = 200_000;

const isHash = (value: unknown): boolean => value === null || (typeof value === 'string' && HASH.test(value));
function isTileRow(row: unknown): row is TileRow {
  if (!Array.isArray(row) || row.length !== 4) return false;
  const [plane, tile, before, after] = row as unknown[];
  const place =
    typeof plane === 'string' &&
    plane.length <= 80 &&
    Number.isInteger(tile) &&
    (tile as number) >= 0 &&
    (tile as number) <= 65535;
  return place && isHash(before) && isHash(after);
}
/** By hand: a schema for each of 200,000 rows holds the server up for seconds. */
const tileRows = z.custom<TileRow[]>(
  (value) => Array.isArray(value) && value.length <= MOST_TILE_ROWS && value.every(isTileRow),
  `its list of tiles is not one of up to ${MOST_TILE_ROWS} rows of a plane, a tile and two hashes`,
);

/**
 * All the rows that an operation may have, or the samples of a stroke, take less. The server parses a header on its own thread: another
 * thread would have to hand the result over, and reading a structured clone takes two to four times as long as `JSON.parse`.
 */
const MOST_HEADER_BYTES = 48 * 1024 * 1024;

/** How a stroke came about: kept with its step, so that it can be painted anew. */
export const strokeRecordSchema = z.object({
  sheet: z.string().max(60),
  /** Id of a painted layer, or of a mask's painted step. */
  layer: z.string().max(60),
  seed: z.number().int(),
  /** Parts that were hidden: rays went through them. */
  hidden: z.array(z.string().max(200)).max(10_000).default([]),
  /** Faces that were hidden by themselves: from … to. */
  hiddenFaces: z
    .array(z.tuple([z.number().int().min(0), z.number().int().min(0)]))
    .max(LIMITS.maxFaceRanges)
    .default([]),
  brush: brushSchema,
  /** As many as a recording may have (hand/replay.ts). A longer stroke is kept without how it came about. */
  samples: z.array(sampleSchema).min(1).max(RECORDING_LIMITS.maxSamples),
});
export type StrokeRecord = z.infer<typeof strokeRecordSchema>;

/** `after`: the id of the operation that made the base revision, if the browser knows it. Two histories may have equal revision numbers. */
const base = { baseRevision: z.number().int().min(0), after: z.string().max(60).nullish() };

const moving = {
  id: z.string().max(60),
  ...base,
  step: z.string().max(60).nullable().default(null),
};

export const operationSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('edit'),
    id: z.string().max(60),
    ...base,
    label: z.string().max(300),
    edit: editSchema,
    tiles: tileRows,
    blobs: z
      .array(
        z.object({
          hash,
          length: z
            .number()
            .int()
            .min(1)
            .max(1 << 20),
        }),
      )
      .max(200_000),
    stroke: strokeRecordSchema.nullable().default(null),
  }),
  /** `step`: which step of the trail it concerns; null in operations of before. */
  z.object({ kind: z.literal('undo'), ...moving }),
  z.object({ kind: z.literal('redo'), ...moving }),
]);
export type Operation = z.infer<typeof operationSchema>;

/** The server's yes to an operation. */
export interface Taken {
  server: string;
  operation: string;
  revision: number;
  /** Of the piece, which may have been given elsewhere. */
  name: string;
}

export interface PackedOperation {
  operation: Operation;
  blobs: Map<string, Uint8Array>;
}

export function packOperation(operation: Operation, blobs: ReadonlyMap<string, Uint8Array>): Uint8Array<ArrayBuffer> {
  const header = new TextEncoder().encode(JSON.stringify(operation));
  const parts = operation.kind === 'edit' ? operation.blobs.map((b) => blobs.get(b.hash)!) : [];
  const out = new Uint8Array(4 + header.length + parts.reduce((n, p) => n + p.length, 0));
  new DataView(out.buffer).setUint32(0, header.length, true);
  out.set(header, 4);
  let at = 4 + header.length;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

export function unpackOperation(bytes: Uint8Array): { ok: true; value: PackedOperation } | { ok: false; message: string } {
  const bad = (message: string) => ({ ok: false as const, message: `The change could not be read: ${message}.` });
  if (bytes.length < 4) return bad('it is cut short');
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  if (4 + length > bytes.length) return bad('it is cut short');
  if (length > MOST_HEADER_BYTES)
    return bad(`its header is larger than ${MOST_HEADER_BYTES / 2 ** 20} MiB, the most that is taken`);
  let json: unknown;
  let parsed;
  try {
    json = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + length)));
    parsed = operationSchema.safeParse(json);
  } catch {
    // Nesting so deep that the parser or the checks give up counts as unreadable too.
    return bad('its header is not JSON');
  }
  if (!parsed.success) return bad(issueInWords(parsed.error));
  const blobs = new Map<string, Uint8Array>();
  let at = 4 + length;
  for (const blob of parsed.data.kind === 'edit' ? parsed.data.blobs : []) {
    if (at + blob.length > bytes.length) return bad('a tile is cut short');
    blobs.set(blob.hash, bytes.subarray(at, at + blob.length));
    at += blob.length;
  }
  if (at !== bytes.length) return bad('it is longer than it says');
  return { ok: true, value: { operation: parsed.data, blobs } };
}
