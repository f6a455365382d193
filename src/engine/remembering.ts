/**
 * What can be had again is kept for another day, in the background, once all is quiet: what was drawn, surface maps, and texels.
 */
import type { Piece } from '../core/document/schema';
import type { SurfaceMap } from '../core/mesh/surfaceMap';
import { writeSurfaceMap } from '../core/mesh/surfaceMapFile';
import type { TileStore } from '../core/tile/tiles';
import type { Drawing } from './drawing';
import type { Keeping } from './shelf';
import { TexelShelf } from './texelShelf';
import { turnsOf, type Clock } from './turns';

/** Longer than one rests between two strokes. */
const REST_MS = 2000;

export interface RememberingOptions extends Clock {
  keeping?: Keeping;
  drawing: Drawing;
  store: TileStore;
  /** Nothing is under way, and the house has all there is. */
  quiet: () => boolean;
}

export class Remembering {
  /** Surface maps that are not kept yet, by name. */
  private surfaces = new Map<string, () => SurfaceMap | null>();
  private texels: TexelShelf | null = null;
  private keepingTexels = false;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(private options: RememberingOptions) {}

  /** Opens the shelves of a piece's sheets; false: nothing is kept here. */
  async open(piece: Piece): Promise<boolean> {
    const { keeping, drawing } = this.options;
    if (!keeping) return false;
    const shelves = await Promise.all(piece.sheets.map(async ({ id }) => [id, await keeping.shelf(piece.id, id)] as const));
    for (const [id, shelf] of shelves) if (shelf) drawing.display.shelves.set(id, shelf);
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
      drawing.keep();
      void this.keepSurfaces().then(() => this.keepTexels());
    }, REST_MS);
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
