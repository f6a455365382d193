/** Replaces the open piece by what the server has, after a change was refused, and carries out upon it what still waits. */
import type { Edit } from '../../core/document/edits';
import { replaceEdit } from '../../core/document/work/replace';
import type { ChangeRecord } from '../../core/keeping/entry';
import { invertChanges, type TileChange, type TileVersion } from '../../core/tile/tiles';
import { carryOutAgain, type Doing } from './again';
import { TRIED_PLANE } from './changes';
import type { Custodian } from '../keeping/custody';
import { History } from './history';
import { changesTo, fetchTiles } from '../opening/loading';
import type { Moves } from './moves';
import type { Event } from '../protocol';
import type { OpenedPiece, Remote } from '../remote';

export class Renewal implements Custodian {
  /** Texels that were fetched ahead of a renewal, by address. */
  private ahead = new Map<string, Uint16Array>();

  constructor(
    private by: Doing,
    private moves: Moves,
    private options: { remote: Remote; post: (event: Event) => void },
  ) {}

  finishStroke(): void {
    this.by.painting.finish();
  }

  carryOutAgain(change: ChangeRecord): Promise<string | null> {
    return carryOutAgain(this.by, change);
  }

  async prefetch(opened: OpenedPiece): Promise<void> {
    const known = this.versionsByHash();
    const wanted = [...new Set(opened.tiles.map((t) => t[2]))].filter((h) => !known.has(h));
    this.ahead = await fetchTiles(wanted, this.options.remote, this.by.decode);
  }

  async renew(opened: OpenedPiece): Promise<void> {
    const { open, changes } = this.by;
    open.piece = opened.document;
    const tiles = changesTo(open.store, opened.tiles, this.versionsByHash(), this.ahead);
    this.ahead.clear();
    changes.apply(tiles);
    open.history = new History(open.pieceId, opened.trail, opened.position, this.options.remote, open.store);
    this.moves.clear();
  }

  against(opened: OpenedPiece): { edit: Edit; label: string; changes: TileChange[] } {
    const { store, piece } = this.by.open;
    const changes = invertChanges(changesTo(store, opened.tiles, new Map(), new Map())).filter((c) => c.plane !== TRIED_PLANE);
    return { edit: replaceEdit(opened.document, piece), label: 'Given back after the server was set back', changes };
  }

  renewed(): void {
    this.tell();
    this.by.changes.adopt();
  }

  named(name: string): void {
    const { open } = this.by;
    if (name === open.piece.name) return;
    open.piece = { ...open.piece, name };
    this.tell();
  }

  private tell(): void {
    const { piece, history } = this.by.open;
    this.options.post({ type: 'renewed', document: piece, trail: history.state });
  }

  /** States with their pixels by address: those that are shown and those of the trail. */
  private versionsByHash(): Map<string, TileVersion> {
    const { history, store } = this.by.open;
    const out = new Map<string, TileVersion>();
    for (const version of history.held()) out.set(version.hash!, version);
    for (const plane of store.planeKeys())
      for (const version of store.tilesOf(plane).values()) if (version.hash && version.data) out.set(version.hash, version);
    return out;
  }
}
