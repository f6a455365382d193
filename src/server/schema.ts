/** Tables. A piece is a document plus references to content-addressed blobs; the trail is its history. */
import { sql } from 'drizzle-orm';
import {
  bigint,
  bigserial,
  boolean,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
} from 'drizzle-orm/pg-core';
import type { RackedBrush } from '../core/hand/rack/brushes';
import type { Edit } from '../core/document/edits';
import type { StrokeRecord } from '../core/keeping/operation';
import type { TileRow } from '../core/keeping/rules';
import type { Piece } from '../core/document/schema';
import type { LookLeft } from '../core/piece/look';
import type { BakeSpec } from '../core/kinds/bakes/spec';
import type { BakeState } from '../core/kinds/bakes/status';

const bytea = customType<{ data: Uint8Array; driverData: Buffer }>({
  dataType: () => 'bytea',
  toDriver: (bytes) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength),
  fromDriver: (buffer) => new Uint8Array(buffer.buffer, buffer.byteOffset, buffer.byteLength),
});
const when = (name: string) => timestamp(name, { withTimezone: true });

/** One row: which server this database is, from the day on which it was made. */
export const server = pgTable('house', {
  id: text('id').primaryKey(),
  /** When somebody last tried whether the server can write. */
  writtenAt: when('written_at').notNull().defaultNow(),
});

export const pieces = pgTable('pieces', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  document: jsonb('document').$type<Piece>().notNull(),
  /** What a card shows of it, kept by the database beside each document: listing reads no whole documents. */
  summary: jsonb('summary')
    .$type<{ kind: Piece['kind']; sheets: { name: string; width: number; height: number }[] }>()
    .notNull()
    .generatedAlwaysAs(sql`piece_summary(document)`),
  /** Rises with every operation, undo and redo too: how a second writer is noticed. */
  revision: integer('revision').notNull().default(0),
  /** How many entries of the trail are applied; later ones can be redone. */
  position: integer('position').notNull().default(0),
  thumbnail: bytea('thumbnail'),
  /** How the bench was left, and what it showed then, WebP. */
  look: jsonb('look').$type<LookLeft>(),
  lookPicture: bytea('look_picture'),
  lookAt: when('look_at'),
  createdAt: when('created_at').notNull().defaultNow(),
  updatedAt: when('updated_at').notNull().defaultNow(),
  deletedAt: when('deleted_at'),
});

/**
 * Demo pieces that a first start has announced and not finished: the next start goes on with them. Home shows those that are not
 * imported yet.
 */
export const arriving = pgTable('arriving', {
  /** Of the demo piece (demo/list.ts). */
  name: text('name').primaryKey(),
  title: text('title').notNull(),
  /** The piece is imported; its dense model or its rendered tiles may be missing. */
  there: boolean('there').notNull().default(false),
  /** Why it could not be imported, one sentence; null: nothing went wrong. */
  fault: text('fault'),
});

/** Rows of a piece go with it. */
const ofPiece = () =>
  text('piece_id')
    .notNull()
    .references(() => pieces.id, { onDelete: 'cascade' });

/** Tiles and meshes, addressed by the SHA-256 of their content. */
export const blobs = pgTable('blobs', {
  hash: text('hash').primaryKey(),
  bytes: bytea('bytes').notNull(),
  /** When it last came in or was named: what nothing names stays for a grace time after it. */
  touchedAt: when('touched_at').notNull().defaultNow(),
});

/**
 * What was drawn of a sheet by one build, in parts (engine/cache/drawnParts.ts), gzip: another browser need not draw it again. It can be made
 * anew at any time.
 */
export const drawn = pgTable(
  'drawn',
  {
    pieceId: ofPiece(),
    sheetId: text('sheet_id').notNull(),
    part: integer('part').notNull(),
    build: text('build').notNull(),
    bytes: bytea('bytes').notNull(),
    at: when('at').notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.pieceId, t.sheetId, t.part] })],
);

/** The tiles of a piece as it stands. */
export const pieceTiles = pgTable(
  'piece_tiles',
  {
    pieceId: ofPiece(),
    plane: text('plane').notNull(),
    tile: integer('tile').notNull(),
    hash: text('hash').notNull(),
  },
  (t) => [primaryKey({ columns: [t.pieceId, t.plane, t.tile] }), index('piece_tiles_hash').on(t.hash)],
);

export const trail = pgTable(
  'trail',
  {
    pieceId: ofPiece(),
    seq: integer('seq').notNull(),
    label: text('label').notNull(),
    /** The operation that made the step; null in trails of before. */
    op: text('op'),
    edit: jsonb('edit').$type<Edit>().notNull(),
    tiles: jsonb('tiles').$type<TileRow[]>().notNull(),
    at: when('at').notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.pieceId, t.seq] })],
);

/** Operations already carried out, on each piece by itself: sending one twice does no harm. */
export const operations = pgTable(
  'operations',
  {
    id: text('id').notNull(),
    pieceId: ofPiece(),
    revision: integer('revision').notNull(),
    at: when('at').notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.pieceId, t.id] }), index('operations_revision').on(t.pieceId, t.revision)],
);

/**
 * How each stroke came about, in the order in which they were painted. `step`: the step of the trail that it made; null
 * once that step can't be undone any more, and for strokes that came with a piece file or a copy.
 */
export const strokes = pgTable(
  'strokes',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    pieceId: ofPiece(),
    step: integer('step'),
    record: jsonb('record').$type<StrokeRecord>().notNull(),
  },
  (t) => [index('strokes_piece').on(t.pieceId, t.step)],
);

/** Brushes of the rack: the server's own, and what it has changed of those that Brindle comes with (null: as shipped). */
export const brushes = pgTable('brushes', {
  id: text('id').primaryKey(),
  name: text('name'),
  group: text('group'),
  brush: jsonb('brush').$type<RackedBrush>(),
  favourite: boolean('favourite').notNull().default(false),
  usedAt: when('used_at'),
  createdAt: when('created_at').notNull().defaultNow(),
});

/** Pictures of tips that came in: PNG, 8-bit grey, by the SHA-256 of that. */
export const tips = pgTable('tips', { hash: text('hash').primaryKey(), png: bytea('png').notNull() });

/** Reference pictures of pinboards: WebP in sRGB, by the SHA-256 of that. */
export const pinned = pgTable('pinned', {
  hash: text('hash').primaryKey(),
  webp: bytea('webp').notNull(),
  /** When it last came in: what no piece names stays for a grace time after it. */
  touchedAt: when('touched_at').notNull().defaultNow(),
});

/** Bakes that were asked for, by the SHA-256 of their spec's text: nothing is baked twice. */
export const bakes = pgTable(
  'bakes',
  {
    key: text('key').primaryKey(),
    spec: jsonb('spec').$type<BakeSpec>().notNull(),
    /** For people: what, of which piece. */
    label: text('label').notNull(),
    /** The piece that asked last; it may be gone. */
    pieceId: text('piece_id').notNull(),
    state: text('state').$type<BakeState>().notNull().default('waiting'),
    /** How many tiles it has; 0: not known yet. */
    tiles: integer('tiles').notNull().default(0),
    message: text('message'),
    createdAt: when('created_at').notNull().defaultNow(),
    startedAt: when('started_at'),
    finishedAt: when('finished_at'),
    /** When somebody asked for it or took it last. */
    touchedAt: when('touched_at').notNull().defaultNow(),
  },
  (t) => [index('bakes_touched').on(t.touchedAt)],
);

export const bakeTiles = pgTable(
  'bake_tiles',
  {
    key: text('key').notNull(),
    tile: integer('tile').notNull(),
    /** null: nothing of the model lies there. */
    hash: text('hash'),
    missed: integer('missed').notNull().default(0),
    /** The worker that made it. */
    worker: text('worker').notNull(),
  },
  (t) => [primaryKey({ columns: [t.key, t.tile] }), index('bake_tiles_hash').on(t.hash)],
);

/** Workers that bake: who is not seen for a while is taken for dead, and its work goes to others. */
export const bakeWorkers = pgTable('bake_workers', {
  id: text('id').primaryKey(),
  host: text('host').notNull(),
  cores: integer('cores').notNull(),
  /** Under which names it holds work in the queue. */
  holds: jsonb('holds').$type<string[]>().notNull(),
  seenAt: when('seen_at').notNull().defaultNow(),
});

/** Files of dense twins, by their SHA-256, in parts: PostgreSQL takes no gigabyte at once. */
export const twins = pgTable('twins', {
  hash: text('hash').primaryKey(),
  name: text('name').notNull(),
  size: bigint('size', { mode: 'number' }).notNull(),
  touchedAt: when('touched_at').notNull().defaultNow(),
});
export const twinParts = pgTable(
  'twin_parts',
  { hash: text('hash').notNull(), part: integer('part').notNull(), bytes: bytea('bytes').notNull() },
  (t) => [primaryKey({ columns: [t.hash, t.part] })],
);
