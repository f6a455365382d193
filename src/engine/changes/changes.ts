/** Changes to the open piece: each is applied, becomes a step of the trail, is handed to keeping, and is shown. */
import { applyEdit, invertEdit, type Edit } from '../../core/document/edits';
import { TRIED_ID } from '../../core/document/bake';
import { planeKey, planesOfSheet } from '../../core/document/planes';
import type { Piece } from '../../core/document/schema';
import type { BakedTiles, KeyedBake, TakenBake } from '../../core/document/work/bakes';
import type { ChangeRecord, Intent } from '../../core/keeping/entry';
import type { StrokeRecord } from '../../core/keeping/operation';
import type { Sample } from '../../core/hand/sample';
import { invertChanges, tilesFromPicture, type TileChange, type TileVersion } from '../../core/tile/tiles';
import type { Direction } from './history';
import type { Keepable } from '../keeping/keeper';
import { fetchTiles } from '../opening/loading';
import type { Event, LayersRequest, TriedBake } from '../protocol';
import type { Remote } from '../remote';
import type { Show } from '../show/show';
import type { OpenPiece } from '../state';
import type { DecodeTiles } from '../tiles/tilePool';
import { workOn } from './workOn';

export const TRIED_PLANE = planeKey(TRIED_ID, 'picture');

/** Where changes go to be kept. */
export interface ChangeKeeping {
  keep(change: ChangeRecord, what: Keepable): void;
  /** The server has the tile of this address. */
  rememberKnown(hash: string): void;
}

export interface ChangesOptions {
  remote: Pick<Remote, 'blobs' | 'bake'>;
  decode: DecodeTiles;
  post: (event: Event) => void;
}

export class Changes {
  constructor(
    private open: OpenPiece,
    private show: Show,
    private keeping: ChangeKeeping,
    private options: ChangesOptions,
  ) {}

  /** A change that this tab asked for now. */
  record(id: string, intent: Intent<LayersRequest>, label: string, samples: Sample[] = []): ChangeRecord {
    return { id, client: this.open.client, at: Date.now(), label, intent, step: null, samples };
  }

  commit(change: ChangeRecord, edit: Edit, label: string, tiles: TileChange[], stroke: StrokeRecord | null = null): void {
    const { open } = this;
    const next = applyEdit(open.piece, edit);
    const all = [...tiles, ...this.freed(next, tiles)];
    open.changeCount++;
    open.piece = next;
    this.apply(all);
    open.history.push(change.id, label, edit, all);
    this.keeping.keep({ ...change, label: change.label || label }, { kind: 'edit', edit, label, changes: all, stroke });
    this.adopt();
  }

  /** A stroke: its texels are in the store and shown already. */
  commitStroke(change: ChangeRecord, edit: Edit, tiles: TileChange[], stroke: StrokeRecord | null): void {
    const { open } = this;
    open.changeCount++;
    open.history.push(change.id, change.label, edit, tiles);
    this.keeping.keep(change, { kind: 'edit', edit, label: change.label, changes: tiles, stroke });
  }

  /** Tiles of planes that are no longer in the document: they are removed with it, and come back with it by undo. */
  private freed(next: Piece, tiles: readonly TileChange[]): TileChange[] {
    const { piece, store } = this.open;
    if (next.sheets === piece.sheets) return [];
    const planes = (of: Piece) => new Set(of.sheets.flatMap((s) => planesOfSheet(s).map((p) => p.key)));
    const [before, after] = [planes(piece), planes(next)];
    const done = new Set(tiles.map((c) => `${c.plane} ${c.tile}`));
    return [...before]
      .filter((plane) => !after.has(plane))
      .flatMap((plane) => [...store.tilesOf(plane)].map(([tile, version]) => ({ plane, tile, before: version, after: null })))
      .filter((c) => !done.has(`${c.plane} ${c.tile}`));
  }

  carryOutEdit(change: ChangeRecord): void {
    const { edit, label } = change.intent as Extract<Intent, { type: 'edit' }>;
    this.commit(change, edit, label, []);
  }

  /** Returns the layers that are to be selected. */
  async carryOutLayers(change: ChangeRecord): Promise<string[] | undefined> {
    const { what } = change.intent as Extract<Intent<LayersRequest>, { type: 'layers' }>;
    // New ids are derived from the change's own: carried out again, they are the same.
    let n = 0;
    const stem = change.id.replaceAll('-', '').slice(0, 10);
    const newId = () => `${stem}${(n++).toString(36).padStart(3, '0')}`;
    const { piece, store } = this.open;
    const { cache } = this.show.renderer.planes;
    const versionsOf = (hashes: ReadonlySet<string>) => this.versionsOf(hashes);
    const bakeOf = (taken: KeyedBake | TakenBake) => this.bakeOf(taken);
    const work = await workOn({ piece, store, cache, versionsOf, bakeOf }, what, { newId });
    this.commit(change, work.edit, work.label, work.changes);
    return work.select;
  }

  /** Undoes or redoes the next step of the trail, whose pixels are in memory. */
  step(direction: Direction, id: string): void {
    const { open } = this;
    const { edit, changes } = open.history.ready(direction)!;
    const step = open.history.next(direction)!;
    const undo = direction === 'undo';
    open.piece = applyEdit(open.piece, undo ? invertEdit(edit) : edit);
    this.apply(undo ? invertChanges(changes) : changes);
    open.history.moved(direction);
    this.keeping.keep(this.record(id, { type: direction }, undo ? 'Undo' : 'Redo'), { kind: direction, step });
    this.adopt();
  }

  apply(tiles: readonly TileChange[]): void {
    this.open.store.apply(tiles);
    this.show.changed(tiles);
  }

  /** The document is another one than before. */
  adopt(): void {
    const { open } = this;
    open.previewed = null;
    open.surfaces?.query.hide(open.piece.hiddenParts, open.piece.hiddenFaces);
    this.redraw();
  }

  /** Renders what differs from what is shown. */
  redraw(): void {
    if (this.open.stage !== 'closed') this.show.show(this.open.current);
  }

  /** Tells the page what a request has led to. */
  report(serial: number, select?: string[]): void {
    const { piece, history } = this.open;
    this.options.post({ type: 'document', document: piece, trail: history.state, serial, select });
  }

  // ── Bakes ────────────────────────────────────────────────────────────────────────────────────────────────

  private expectedTry: number | null = null;
  private arrivedTry: TriedBake | null = null;

  /** Says which try to show. It may have arrived before this: the page and the bake thread send their messages over different ports. */
  expectTry(id: number | null): void {
    this.expectedTry = id;
    if (id === null) this.arrivedTry = null;
    if (id === null || this.arrivedTry?.id === id) this.showTry(this.arrivedTry);
  }

  tryArrived(tried: TriedBake): void {
    this.arrivedTry = tried;
    if (tried.id === this.expectedTry) this.showTry(tried);
  }

  /** Under a name of its own beside the document's planes: it is looked at and never kept. */
  private showTry(tried: TriedBake | null): void {
    const after = tried ? tilesFromPicture(tried.data, tried.width, tried.height, 4) : new Map<number, Uint16Array>();
    const before = this.open.store.tilesOf(TRIED_PLANE);
    const tiles = new Set([...before.keys(), ...after.keys()]);
    this.apply(
      [...tiles].map((tile) => {
        const data = after.get(tile);
        return { plane: TRIED_PLANE, tile, before: before.get(tile) ?? null, after: data ? { data, hash: null } : null };
      }),
    );
    this.redraw();
  }

  /** Bakes that were fetched ahead of being taken, by key. */
  private ahead = new Map<string, [BakedTiles, Map<string, TileVersion>]>();

  /** Throws a sentence where the bake is not done, or the server does not answer. */
  async fetchBake(key: string): Promise<void> {
    const baked = await this.options.remote.bake(key);
    this.ahead.set(key, [baked, await this.versionsOf(new Set(baked.tiles.map(([, hash]) => hash)))]);
  }

  private async bakeOf(taken: KeyedBake | TakenBake): Promise<[TakenBake, ReadonlyMap<string, TileVersion>]> {
    // From a journal of an older version, which has the tiles themselves.
    if ('tiles' in taken) return [taken, await this.versionsOf(new Set(taken.tiles.map(([, hash]) => hash)))];
    const { key, ...rest } = taken;
    if (!this.ahead.has(key)) await this.fetchBake(key);
    const [baked, versions] = this.ahead.get(key)!;
    this.ahead.delete(key);
    return [{ ...rest, ...baked }, versions];
  }

  /** Tiles by address: from memory, otherwise from the server. */
  async versionsOf(hashes: ReadonlySet<string>): Promise<Map<string, TileVersion>> {
    const { store } = this.open;
    const out = new Map<string, TileVersion>();
    for (const plane of store.planeKeys())
      for (const version of store.tilesOf(plane).values())
        if (version.hash && version.data && hashes.has(version.hash)) out.set(version.hash, version);
    const wanted = [...hashes].filter((h) => !out.has(h));
    for (const [hash, data] of await fetchTiles(wanted, this.options.remote, this.options.decode)) {
      out.set(hash, { data, hash });
      this.keeping.rememberKnown(hash);
    }
    return out;
  }
}
