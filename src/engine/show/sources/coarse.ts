/** A first, coarse picture of what will take long: rendered from a miniature and enlarged. Everything stays due. */
import { renderPlane } from '../../../core/strata/displayPlanes';
import { Evaluator } from '../../../core/strata/evaluator';
import { miniatureOf } from '../../../core/piece/miniature';
import { tilesOf, WHOLE_TILE } from '../../../core/tile/tiles';
import type { PixelPatch } from '../../protocol';
import { send, type Planes } from '../planes';
import { wholePending } from '../queue';
import { paste, runsOf, within } from '../tilePictures';
import type { TilesHere } from './here';
import type { Slice, Source } from './source';

/** Longer side of the miniature. */
const SIDE = 256;
/** What is expected to take longer than this is shown coarsely first. */
const FROM_MS = 120;

export class CoarsePicture implements Source {
  private wanted = false;

  constructor(
    private planes: Planes,
    private here: TilesHere,
  ) {}

  /** The document has changed. */
  lookAgain(): void {
    this.wanted = true;
  }

  /** Everything while the piece opens; only what the flat pane shows while something is dragged. */
  work({ phase, stroking }: Slice): PixelPatch[] {
    if (!this.wanted || stroking) return [];
    this.wanted = false;
    const seen = phase === 'live';
    if (wholePending(this.planes, seen) * this.here.msPerTile < FROM_MS) return [];
    return this.render(seen);
  }

  /** `seen`: only what the flat pane shows. */
  render(seen: boolean): PixelPatch[] {
    const { planes } = this;
    const patches: PixelPatch[] = [];
    for (const sheet of planes.inOrder) {
      if (seen && sheet.id !== planes.focus) continue;
      const due = [...(planes.of(sheet.id)?.planes ?? [])].filter(([, { whole }]) => whole.size > 0);
      if (due.length === 0) continue;
      const mini = miniatureOf(sheet, planes.store, SIDE);
      const evaluator = new Evaluator(mini);
      const { width, height } = mini.sheet;
      // What the pane shows of the miniature, and the texel next to it.
      const scale = width / sheet.width;
      const near = seen ? planes.visible : null;
      const shown = near && {
        x: near.x * scale - 1,
        y: near.y * scale - 1,
        width: near.width * scale + 2,
        height: near.height * scale + 2,
      };
      for (const [id, plane] of due) {
        const small = { width, height, data: new Uint8Array(width * height * 4) };
        for (const tile of tilesOf(width, height))
          if (!shown || within(tile, shown))
            paste(renderPlane(evaluator, mini.sheet, id, tile, WHOLE_TILE, planes.lookOf(sheet.id)), tile, small);
        const tiles = [...plane.whole.keys()].filter((tile) => !near || within(tile, near));
        for (const tile of tiles) plane.drawn.delete(tile);
        for (const rect of runsOf(tiles, sheet)) send(patches, sheet.id, id, plane.pyramid.enlarge(small, rect));
      }
    }
    return patches;
  }
}
