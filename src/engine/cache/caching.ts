/**
 * Caches what is expensive to compute or to fetch again, in the background while nothing else happens: rendered tiles, surface maps,
 * texels.
 */
import type { Piece } from '../../core/document/schema';
import type { SurfaceMap } from '../../core/mesh/surfaceMap/surfaceMap';
import { writeSurfaceMap } from '../../core/mesh/surfaceMap/file';
import { partsOfShelf, readPart, type DrawnElsewhere } from './drawnParts';
import type { BrowserShelves, Shelf } from './shelf';
import type { Event } from '../protocol';
import type { Show } from '../show/show';
import type { OpenPiece } from '../state';
import { TexelShelf } from './texelShelf';
import { turnsOf, type Clock } from '../turns';

/** Longer than a painter pauses between two strokes. */
const REST_MS = 2000;
/** The least time between two uploads of rendered tiles. */
const GIVE_MS = 10 * 60_000;

export interface CachingOptions extends Clock {
  /** How long nothing has to happen before caching begins. */
  restMs?: number;
  keeping?: BrowserShelves;
  elsewhere?: DrawnElsewhere;
}

export class Caching {
  /** Surface maps that are not cached yet, by name. */
  private surfaces = new Map<string, () => SurfaceMap | null>();
  private texels: TexelShelf | null = null;
  private storing: Promise<void> | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private open: OpenPiece,
    private show: Show,
    /** Whether the server has every change. */
    private custody: { readonly allKept: boolean },
    private options: CachingOptions,
  ) {}

  private get shelves(): Map<string, Shelf> {
    return this.show.renderer.cached.shelves;
  }

  /** Nothing is in progress, and the server has every change. */
  private get isQuiet(): boolean {
    const { open } = this;
    return open.stage === 'ready' && this.custody.allKept && !open.previewed && this.show.isAtRest;
  }

  /** Opens the caches of a piece's sheets. Returns false if this browser cannot cache. */
  async openShelves(piece: Piece): Promise<boolean> {
    const { keeping } = this.options;
    if (!keeping) return false;
    const shelves = await Promise.all(piece.sheets.map(async ({ id }) => [id, await keeping.shelf(piece.id, id)] as const));
    for (const [id, shelf] of shelves) if (shelf) this.shelves.set(id, shelf);
    return true;
  }

  /**
   * Fetches rendered tiles from the server for sheets of which nothing is cached here, after what the pen needs (`first`). If that fails,
   * they are rendered here.
   */
  async fetchRendered(piece: Piece, focus: string, first: Promise<unknown>): Promise<void> {
    const { elsewhere } = this.options;
    const { shelves, show } = this;
    const missing = piece.sheets.filter(({ id }) => shelves.get(id)?.empty);
    if (!elsewhere || missing.length === 0) return;
    show.fetching(piece);
    try {
      await first;
      for (const sheet of missing.toSorted((a, b) => Number(b.id === focus) - Number(a.id === focus))) {
        const shelf = shelves.get(sheet.id)!;
        const parts = await elsewhere.parts(piece.id, sheet.id);
        if (parts > 0) this.markGiven(sheet.id);
        let next = parts > 0 ? elsewhere.part(piece.id, sheet.id, 0) : null;
        for (let n = 0; n < parts; n++) {
          const part = await next;
          next = n + 1 < parts ? elsewhere.part(piece.id, sheet.id, n + 1) : null;
          // Without this, a failure before the next await would count as an unhandled rejection.
          next?.catch(() => undefined);
          if (!part) continue;
          for (const { plane, tile, signature, texels } of readPart(part, sheet)) shelf.put(plane, tile, signature, texels);
          show.fetched(false);
        }
      }
    } catch {
      // What has arrived is used.
    } finally {
      show.fetched(true);
    }
  }

  /** Texels by address, as many as are cached. */
  async texelsOf(pieceId: string, hashes: readonly string[]): Promise<Map<string, Uint16Array>> {
    const out = new Map<string, Uint16Array>();
    const file = await this.options.keeping?.file(`texels.${encodeURIComponent(pieceId)}`);
    if (!file) return out;
    const shelf = (this.texels = new TexelShelf(file));
    const turn = turnsOf(this.options);
    for (const hash of hashes) {
      const texels = shelf.read(hash);
      if (texels) out.set(hash, texels);
      await turn();
    }
    return out;
  }

  surfacesToKeep(made: ReadonlyMap<string, () => SurfaceMap | null>): void {
    this.surfaces = new Map(made);
  }

  /** To be told what the page is told: when everything is shown exactly, or kept, caching begins after a rest. */
  noticed(event: Event): void {
    const restful = (event.type === 'kept' && event.kept.state === 'kept') || (event.type === 'pixels' && event.exact);
    if (!restful || this.shelves.size === 0) return;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      if (!this.isQuiet) return;
      this.storing ??= this.store().finally(() => (this.storing = null));
    }, this.options.restMs ?? REST_MS);
  }

  /** Caches everything, as long as nothing else happens. */
  private async store(): Promise<void> {
    const turn = turnsOf(this.options);
    for (const _ of this.show.renderer.cached.store()) {
      await turn();
      if (!this.isQuiet) return;
    }
    await this.storeSurfaces();
    await this.storeTexels();
    await this.giveRendered();
  }

  private async storeSurfaces(): Promise<void> {
    for (const [name, made] of this.surfaces) {
      const map = made();
      if (!map) continue;
      this.surfaces.delete(name);
      const file = await this.options.keeping?.file(name);
      if (!file) continue;
      try {
        for (const _ of writeSurfaceMap(map, file)) await new Promise<void>((resolve) => this.options.later(resolve));
      } catch {
        // No room: it is made again at the next visit.
      }
      file.close();
    }
  }

  private async storeTexels(): Promise<void> {
    const shelf = this.texels;
    if (!shelf) return;
    const { store } = this.open;
    const versions = store.planeKeys().flatMap((plane) => [...store.tilesOf(plane).values()]);
    shelf.keepOnly(new Set(versions.flatMap(({ hash }) => hash ?? [])));
    const turn = turnsOf(this.options);
    let room = true;
    for (const { hash, data } of versions) {
      if (!room) break;
      if (hash && data) room = shelf.put(hash, data);
      await turn();
    }
    shelf.flush();
  }

  /** When the server last got the rendered tiles of a sheet, and how many changes of this visit were in them. */
  private given = new Map<string, { at: number; changes: number }>();

  private markGiven(sheetId: string, changes = 0): void {
    this.given.set(sheetId, { at: this.options.now(), changes });
  }

  /** Uploads the rendered tiles of sheets of which the server has none, or that were changed since. */
  private async giveRendered(): Promise<void> {
    const { elsewhere, now } = this.options;
    const { open } = this;
    if (!elsewhere) return;
    try {
      for (const [sheetId, shelf] of this.shelves) {
        if (!this.given.has(sheetId) && (await elsewhere.parts(open.pieceId, sheetId)) > 0) this.markGiven(sheetId);
        const last = this.given.get(sheetId);
        const { changeCount } = open;
        if (last && (last.changes === changeCount || now() - last.at < GIVE_MS)) continue;
        if (await this.giveShelf(elsewhere, sheetId, shelf)) this.markGiven(sheetId, changeCount);
      }
    } catch {
      // Other browsers render them themselves.
    }
  }

  /** false: something else came in between. */
  private async giveShelf(to: DrawnElsewhere, sheetId: string, shelf: Shelf): Promise<boolean> {
    let n = 0;
    for (const [part, last] of partsOfShelf(shelf)) {
      if (!this.isQuiet) return false;
      await to.put(this.open.pieceId, sheetId, n++, last, part);
    }
    return true;
  }
}
