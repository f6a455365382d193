/** Tables. A piece is a document plus references to content-addressed blobs; the trail is its history. */
import { customType, index, integer, jsonb, pgTable, primaryKey, text, timestamp } from 'drizzle-orm/pg-core';
import type { Edit } from '../core/document/edits';
import type { Piece } from '../core/document/schema';

const bytea = customType<{ data: Uint8Array; driverData: Buffer }>({
  dataType: () => 'bytea',
  toDriver: (bytes) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength),
  fromDriver: (buffer) => new Uint8Array(buffer.buffer, buffer.byteOffset, buffer.byteLength),
});
const when = (name: string) => timestamp(name, { withTimezone: true });

export const pieces = pgTable('pieces', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  document: jsonb('document').$type<Piece>().notNull(),
  /** Rises with every operation, undo and redo too: how a second writer is noticed. */
  revision: integer('revision').notNull().default(0),
  /** How many entries of the trail are applied; later ones can be redone. */
  position: integer('position').notNull().default(0),
  thumbnail: bytea('thumbnail'),
  createdAt: when('created_at').notNull().defaultNow(),
  updatedAt: when('updated_at').notNull().defaultNow(),
  deletedAt: when('deleted_at'),
});

/** Tiles and meshes, addressed by the SHA-256 of their content. */
export const blobs = pgTable('blobs', {
  hash: text('hash').primaryKey(),
  bytes: bytea('bytes').notNull(),
});

/** The tiles of a piece as it stands. */
export const pieceTiles = pgTable(
  'piece_tiles',
  {
    pieceId: text('piece_id').notNull(),
    plane: text('plane').notNull(),
    tile: integer('tile').notNull(),
    hash: text('hash').notNull(),
  },
  (t) => [primaryKey({ columns: [t.pieceId, t.plane, t.tile] })],
);

/** [plane, tile, hash before, hash after]; null: no tile. */
export type TrailTile = [plane: string, tile: number, before: string | null, after: string | null];

export const trail = pgTable(
  'trail',
  {
    pieceId: text('piece_id').notNull(),
    seq: integer('seq').notNull(),
    label: text('label').notNull(),
    edit: jsonb('edit').$type<Edit>().notNull(),
    tiles: jsonb('tiles').$type<TrailTile[]>().notNull(),
    at: when('at').notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.pieceId, t.seq] })],
);

/** Operations already carried out: sending one twice does no harm. */
export const operations = pgTable(
  'operations',
  {
    id: text('id').primaryKey(),
    pieceId: text('piece_id').notNull(),
    revision: integer('revision').notNull(),
  },
  (t) => [index('operations_piece').on(t.pieceId)],
);
