/** What can be made again is kept for another day, in the background, once all is quiet: what was drawn, and surface maps. */
import type { Piece } from '../core/document/schema';
import type { SurfaceMap } from '../core/mesh/surfaceMap';
import { writeSurfaceMap } from '../core/mesh/surfaceMapFile';
import type { Drawing } from './drawing';
import type { Keeping } from './shelf';

/** Longer than one rests between two strokes. */
const REST_MS = 2000;

export interface RememberingOptions {
  keeping?: Keeping;
  drawing: Drawing;
  /** Runs a callback after the messages that wait now. */
  later: (callback: () => void) => void;
  /** Nothing is under way, and the house has all there is. */
  quiet: () => boolean;
}

export class Remembering {
  /** Surface maps that are not kept yet, by name. */
  private surfaces = new Map<string, SurfaceMap>();
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

  surfacesMade(made: ReadonlyMap<string, SurfaceMap>): void {
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
      void this.keepSurfaces();
    }, REST_MS);
  }

  private async keepSurfaces(): Promise<void> {
    for (const [name, map] of this.surfaces) {
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
}
