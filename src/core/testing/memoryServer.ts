/** A server in memory, for tests: pieces, tiles and trail in maps, by the very rules of the real one (keeping/rules.ts). */
import { inflateSync } from 'fflate';
import { blobChannels, sha256, tileBytes, unfilterTile } from '../codec/tileBlob';
import { parsePiece, type Piece } from '../document/schema';
import type { Edit } from '../document/edits';
import type { OpenedPiece } from '../keeping/opened';
import { unpackOperation, type StrokeRecord, type Taken } from '../keeping/operation';
import { KEEPING } from '../keeping/protocol';
import { judge, tileKey, type OperationStore, type TileRow } from '../keeping/rules';

export interface ServerPiece {
  /** As it is stored: perhaps of an older version. */
  document: unknown;
  revision: number;
  position: number;
  deleted: boolean;
  /** Which operation made which revision. */
  recent: [revision: number, operation: string][];
  trail: { name: string; label: string; edit: Edit; tiles: TileRow[]; stroke: StrokeRecord | null }[];
  tiles: Map<string, [plane: string, tile: number, hash: string]>;
}

/** What becomes of a message: lost on its way or on its way back, late, doubled, or answered with a status. */
export type Faults = (what: string) => 'lost' | 'answer lost' | 'late' | 'twice' | number | null;

export interface Refused {
  status: number;
  message: string;
  server?: string;
  revision?: number;
  last?: string | null;
  missing?: string[];
  deleted?: boolean;
}

export class MemoryServer {
  id = 'server';
  pieces = new Map<string, ServerPiece>();
  stored = new Map<string, Uint8Array>();
  /** By piece and id: to which revision each led. */
  operations = new Map<string, number>();
  /** One at a time, as transactions that lock the piece are. */
  private turn: Promise<unknown> = Promise.resolve();

  add(document: unknown, id = (document as Piece).id): void {
    this.pieces.set(id, { document, revision: 0, position: 0, deleted: false, recent: [], trail: [], tiles: new Map() });
  }

  openPiece(id: string): OpenedPiece | Refused {
    const p = this.pieces.get(id);
    if (!p) return { status: 404, message: 'There is no such piece.' };
    if (p.deleted) return { status: 410, message: 'It was deleted.', deleted: true };
    const parsed = parsePiece(p.document);
    if (!parsed.ok) return { status: 422, message: parsed.message };
    return {
      server: this.id,
      document: parsed.value,
      revision: p.revision,
      recent: p.recent.slice(-KEEPING.recentRevisions),
      position: p.position,
      trail: p.trail.map((t, i) => ({ seq: i + 1, label: t.label, step: t.name })),
      tiles: [...p.tiles.values()],
    };
  }

  stepAt(id: string, seq: number): ServerPiece['trail'][number] | Refused {
    return this.pieces.get(id)?.trail[seq - 1] ?? { status: 404, message: 'There is no such step.' };
  }

  readBlobs(hashes: readonly string[]) {
    return new Map(hashes.flatMap((h) => (this.stored.has(h) ? [[h, this.stored.get(h)!] as const] : [])));
  }

  async takeBlobs(blobs: readonly Uint8Array[]): Promise<void> {
    for (const blob of blobs) {
      const hash = await addressOf(blob);
      if (hash) this.stored.set(hash, blob.slice());
    }
  }

  commitBytes(id: string, bytes: Uint8Array): Promise<(Taken & { position: number }) | Refused> {
    const result = this.turn.then(() => this.carryOut(id, bytes));
    this.turn = result.catch(() => undefined);
    return result;
  }

  private async carryOut(id: string, bytes: Uint8Array) {
    const unpacked = unpackOperation(bytes);
    if (!unpacked.ok) return { status: 400, message: unpacked.message };
    const { operation, blobs } = unpacked.value;
    for (const [hash, blob] of blobs)
      if ((await addressOf(blob)) !== hash) return { status: 422, message: 'A tile was damaged on its way: it is sent again.' };
    const p = this.pieces.get(id);
    const inside = new Map(blobs);
    const shelf: OperationStore = {
      piece: async () => (p ? { ...p, last: p.recent.at(-1)?.[1] ?? null } : null),
      done: async (op) => (this.operations.has(`${id} ${op}`) ? { revision: this.operations.get(`${id} ${op}`)! } : null),
      step: async (seq) => p!.trail[seq - 1] ?? null,
      tiles: async () => new Map([...p!.tiles.values()].map(([plane, tile, hash]) => [tileKey(plane, tile), hash])),
      channels: async (hashes) =>
        new Map(
          hashes.flatMap((h) => {
            const blob = inside.get(h) ?? this.stored.get(h);
            return blob ? [[h, blob[0]] as const] : [];
          }),
        ),
    };
    const verdict = await judge(shelf, operation);
    if (!verdict.ok) return { ...verdict, server: this.id };
    const name = () => (p!.document as Piece).name;
    const yes = { server: this.id, operation: operation.id };
    if ('done' in verdict) return { ...yes, ...verdict.done, name: name() };
    const { plan } = verdict;
    for (const [hash, blob] of blobs) this.stored.set(hash, blob.slice());
    if (plan.step) {
      p!.trail.length = plan.step.seq - 1;
      p!.trail.push(plan.step);
    }
    for (const [plane, tile, , after] of plan.tiles)
      if (after) p!.tiles.set(tileKey(plane, tile), [plane, tile, after]);
      else p!.tiles.delete(tileKey(plane, tile));
    Object.assign(p!, { document: plan.document, position: plan.position, revision: p!.revision + 1 });
    this.operations.set(`${id} ${operation.id}`, p!.revision);
    p!.recent.push([p!.revision, operation.id]);
    return { ...yes, revision: p!.revision, position: p!.position, name: name() };
  }

  doneOf(id: string, ids: readonly string[]) {
    const revision = (op: string) => this.operations.get(`${id} ${op}`);
    return ids.flatMap((op): [string, number][] => (revision(op) === undefined ? [] : [[op, revision(op)!]]));
  }

  strokesOf(id: string): StrokeRecord[] {
    const p = this.pieces.get(id)!;
    return p.trail.slice(0, p.position).flatMap((t) => t.stroke ?? []);
  }

  copyPiece(id: string, copyId = 'copy') {
    const p = this.pieces.get(id)!;
    this.add({ ...(p.document as Piece), id: copyId });
    this.pieces.get(copyId)!.tiles = new Map(p.tiles);
    return { id: copyId, revision: 0 };
  }

  /** All tiles as texels, for comparing whole states. */
  pixels(id = 'p') {
    return Object.fromEntries(
      [...this.pieces.get(id)!.tiles.values()].map(([plane, tile, hash]) => {
        const blob = this.stored.get(hash)!;
        return [`${plane} ${tile}`, unfilterTile(inflateSync(blob.subarray(1)), blobChannels(blob))];
      }),
    );
  }
}

async function addressOf(blob: Uint8Array): Promise<string | null> {
  try {
    return await sha256(tileBytes(unfilterTile(inflateSync(blob.subarray(1)), blobChannels(blob))));
  } catch {
    return null;
  }
}
