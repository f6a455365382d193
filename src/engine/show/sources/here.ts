/** Tiles that are evaluated on this thread. */
import { renderPlane } from '../../../core/strata/displayPlanes';
import { cropped, evenTexel } from '../../../core/tile/mips';
import { TILE, tileIndex, WHOLE_TILE } from '../../../core/tile/tiles';
import type { PixelPatch } from '../../protocol';
import { aligned } from '../plane';
import { send, type Planes } from '../planes';
import { strokeJobs, taken, wholeJobs, type Job } from '../queue';
import { evenTile, onSheet } from '../tilePictures';
import type { CachedTiles } from './cached';
import type { EvenTiles } from './evenTiles';
import type { Slice, Source } from './source';

/** Renders jobs on this thread: what `strokes`, `looked` and `here` have in common. */
export class Rendering {
  constructor(
    readonly planes: Planes,
    private even: EvenTiles,
    private cached: CachedTiles,
  ) {}

  /** Renders jobs until the time is up, one at least; returns how many, and their patches. */
  renderSome(jobs: Iterable<Job>, until: () => boolean): { count: number; patches: PixelPatch[] } {
    const patches: PixelPatch[] = [];
    let count = 0;
    for (const job of jobs) {
      this.render(job, patches);
      count++;
      if (until()) break;
    }
    return { count, patches: this.planes.merged(patches) };
  }

  private render(job: Job, patches: PixelPatch[]): void {
    const { sheet, id, plane, tile } = job;
    const { planes, even } = this;
    const signature = planes.signatureOf(sheet, id, tile);
    taken(job);
    plane.drawn.set(tile, signature);
    const area = aligned(job.area);
    const rect = onSheet(tile, area, sheet);
    if (rect.width <= 0 || rect.height <= 0) return;
    const known = even.get(id, signature);
    if (known !== undefined) {
      const patch = plane.pyramid.layEven(known);
      if (patch !== undefined) return send(patches, sheet.id, id, patch);
    }
    const drawn =
      known === undefined
        ? renderPlane(planes.evaluator(sheet), sheet, id, tile, area, planes.lookOf(sheet.id))
        : evenTile(known);
    const texels = cropped(drawn, area.width, rect);
    if (job.why === 'wanted') {
      const one = evenTexel(texels, rect.width * rect.height);
      if (one !== null) even.set(id, signature, one);
      this.cached.offer(sheet.id, { plane: id, tile, signature, texels: one ?? drawn });
    }
    send(patches, sheet.id, id, plane.pyramid.lay(rect, texels));
  }
}

/** What a running stroke has reached: small areas, rendered at once. */
export class StrokeTiles implements Source {
  /** Time stamp of the newest pointer event whose texels have not been sent to the page. */
  unseen: number | null = null;

  constructor(private rendering: Rendering) {}

  work({ until }: Slice): PixelPatch[] {
    return this.rendering.renderSome(strokeJobs(this.rendering.planes), until).patches;
  }
}

/** What is looked at by itself: no cache and no server has it. */
export class LookedTiles implements Source {
  constructor(private rendering: Rendering) {}

  work({ until }: Slice): PixelPatch[] {
    return this.rendering.renderSome(this.jobs(), until).patches;
  }

  private *jobs(): Generator<Job> {
    for (const job of wholeJobs(this.rendering.planes)) if (job.id === 'view') yield job;
  }
}

/** Whatever no other source has. */
export class TilesHere implements Source {
  /** What a whole tile of a plane takes to render, a running mean; a guess to begin with. */
  msPerTile = 4;
  private warm = false;

  constructor(
    private rendering: Rendering,
    private now: () => number,
  ) {}

  work({ until, stroking }: Slice): PixelPatch[] {
    const start = this.now();
    const { count, patches } = this.rendering.renderSome(wholeJobs(this.rendering.planes), until);
    if (count === 0) return [];
    this.warm = true;
    if (!stroking) this.msPerTile += ((this.now() - start) / count - this.msPerTile) * 0.2;
    return patches;
  }

  /**
   * Renders a tile in the middle of what is seen, and forgets it, unless something was rendered already: the first one takes four times
   * as long as any other, since everything that it needs is made and compiled. A pen need not wait for that.
   */
  warmUp(): void {
    const { planes } = this.rendering;
    const [sheet] = planes.inOrder;
    if (this.warm || !sheet) return;
    this.warm = true;
    const { x, y, width, height } = (sheet.id === planes.focus && planes.visible) || { x: 0, y: 0, ...sheet };
    const tile = tileIndex(Math.floor((x + width / 2) / TILE), Math.floor((y + height / 2) / TILE));
    if (onSheet(tile, WHOLE_TILE, sheet).width > 0) renderPlane(planes.evaluator(sheet), sheet, 'colour', tile, WHOLE_TILE);
  }
}
