/**
 * Caches what is expensive to compute or fetch again, in the background while nothing else happens: rendered tiles, surface maps, texels.
 */
import type { Piece } from '../core/document/schema';
import type { SurfaceMap } from '../core/mesh/surfaceMap';
import { writeSurfaceMap } from '../core/mesh/surfaceMapFile';
import type { TileStore } from '../core/tile/tiles';
import type { Drawing } from './drawing';
import { partsOfShelf, readPart, type DrawnElsewhere } from './drawnParts';
import type { BrowserShelves, Shelf } from './shelf';
import { TexelShelf } from './texelShelf';
import { turnsOf, type Clock } from './turns';

/** Longer than a painter pauses between two strokes. */
const REST_MS = 2000;
/** The least time between two uploads of rendered tiles. */
const GIVE_MS = 10 * 60_000;

export interface RememberingOptions extends Clock {
  /** How long nothing has to happen before caching begins. */
  restMs?: number;
  keeping?: BrowserShelves;
  elsewhere?: DrawnElsewhere;
  pieceId: () => string;
  /** How many changes were made to the piece since it was opened. */
  changes: () => number;
  drawing: Drawing;
  store: TileStore;
  /** Nothing is in progress, and the server has every change. */
  quiet: () => boolean;
}

export class Remembering {
  /** Surface maps that are not cached yet, by name. */
  private surfaces = new Map<string, () => SurfaceMap | null>();
  private texels: TexelShelf | null = null;
  private keepingTexels = false;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private options: RememberingOptions) {}

  /** Opens the caches of a piece's sheets. Returns false if this browser cannot cache. */
  async open(piece: Piece): Promise<boolean> {
    const { keeping, drawing } = this.options;
    if (!keeping) return false;
    const shelves = await Promise.all(piece.sheets.map(async ({ id }) => [id, await keeping.shelf(piece.id, id)] as const));
    for (const [id, shelf] of shelves) if (shelf) drawing.display.shelves.set(id, shelf);
    return true;
  }

  /**
   * Fetches rendered tiles from the server for sheets of which nothing is cached here, after what the pen needs (`first`). If that fails,
   * they are rendered here.
   */
  async fetchDrawn(piece: Piece, focus: string, first: Promise<unknown>): Promise<void> {
    const { drawing, elsewhere } = this.options;
    const owed = piece.sheets.filter(({ id }) => drawing.display.shelves.get(id)?.empty);
    if (!elsewhere || owed.length === 0) return;
    drawing.await(piece);
    try {
      await first;
      for (const sheet of owed.toSorted((a, b) => Number(b.id === focus) - Number(a.id === focus))) {
        const shelf = drawing.display.shelves.get(sheet.id)!;
        const parts = await elsewhere.parts(piece.id, sheet.id);
        if (parts > 0) this.given.set(sheet.id, this.asGiven());
        let next = parts > 0 ? elsewhere.part(piece.id, sheet.id, 0) : null;
        for (let n = 0; n < parts; n++) {
          const part = await next;
          next = n + 1 < parts ? elsewhere.part(piece.id, sheet.id, n + 1) : null;
          // Without this, a failure before the next await would count as an unhandled rejection.
          next?.catch(() => undefined);
          if (!part) continue;
          for (const { plane, tile, signature, texels } of readPart(part, sheet)) shelf.put(plane, tile, signature, texels);
          drawing.arrived(false);
        }
      }
    } catch {
      // What has arrived is used.
    } finally {
      drawing.arrived(true);
    }
  }

  /** When others got what is drawn of a sheet, and how many changes it has of this day. */
  private given = new Map<string, { at: number; changes: number }>();
  private giving = false;

  private asGiven(changes = 0): { at: number; changes: number } {
    return { at: this.options.now(), changes };
  }

  /** Gives to others what is kept of sheets where they have nothing yet, or where it was changed since. */
  private async giveDrawn(): Promise<void> {
    const { elsewhere, drawing, pieceId, changes, now } = this.options;
    if (!elsewhere || this.giving) return;
    this.giving = true;
    try {
      for (const [sheetId, shelf] of drawing.display.shelves) {
        if (!this.given.has(sheetId) && (await elsewhere.parts(pieceId(), sheetId)) > 0) this.given.set(sheetId, this.asGiven());
        const last = this.given.get(sheetId);
        const count = changes();
        if (last && (last.changes === count || now() - last.at < GIVE_MS)) continue;
        if (await this.giveShelf(elsewhere, sheetId, shelf)) this.given.set(sheetId, this.asGiven(count));
      }
    } catch {
      // They draw it themselves.
    }
    this.giving = false;
  }

  /** false: something else came in between. */
  private async giveShelf(to: DrawnElsewhere, sheetId: string, shelf: Shelf): Promise<boolean> {
    let n = 0;
    for (const [part, last] of partsOfShelf(shelf)) {
      if (this.options.drawing.busy || !this.options.quiet()) return false;
      await to.put(this.options.pieceId(), sheetId, n++, last, part);
    }
    return true;
  }

  /** Texels by address, as many as are kept. */
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

  /** Something came to rest: what differs from what is kept is kept soon. */
  soon(): void {
    const { drawing, quiet } = this.options;
    if (drawing.display.shelves.size === 0) return;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      // When it is drawn exactly, or kept, this is asked for again.
      if (drawing.busy || !quiet()) return;
      drawing.keep(() => void this.giveDrawn());
      void this.keepSurfaces().then(() => this.keepTexels());
    }, this.options.restMs ?? REST_MS);
  }

  private async keepSurfaces(): Promise<void> {
    for (const [name, made] of this.surfaces) {
      const map = made();
      if (!map) continue;
      this.surfaces.delete(name);
      const file = await this.options.keeping?.file(name);
      if (!file) continue;
      try {
        for (const _ of writeSurfaceMap(map, file)) await new Promise<void>((resolve) => this.options.later(resolve));
      } catch {
        // No room: it is made again.
      }
      file.close();
    }
  }

  private async keepTexels(): Promise<void> {
    const { texels: shelf, options } = this;
    if (!shelf || this.keepingTexels) return;
    this.keepingTexels = true;
    const versions = options.store.planeKeys().flatMap((plane) => [...options.store.tilesOf(plane).values()]);
    shelf.keepOnly(new Set(versions.flatMap(({ hash }) => hash ?? [])));
    const turn = turnsOf(this.options);
    let room = true;
    for (const { hash, data } of versions) {
      if (!room) break;
      if (hash && data) room = shelf.put(hash, data);
      await turn();
    }
    shelf.flush();
    this.keepingTexels = false;
  }
}
