/** The display planes of a piece with every source of tiles for them. */
import type { Piece } from '../../core/document/schema';
import type { TileStore } from '../../core/tile/tiles';
import type { PixelPatch } from '../protocol';
import { SOURCES, type SourceId } from './phase';
import { Planes } from './planes';
import { CachedTiles } from './sources/cached';
import { CoarsePicture } from './sources/coarse';
import { EvenTiles } from './sources/evenTiles';
import { HelperTiles } from './sources/helpers';
import { LookedTiles, Rendering, StrokeTiles, TilesHere } from './sources/here';
import type { Slice, Source } from './sources/source';

export class Renderer {
  readonly planes: Planes;
  readonly cached: CachedTiles;
  readonly coarse: CoarsePicture;
  readonly helpers: HelperTiles;
  readonly here: TilesHere;
  readonly strokes: StrokeTiles;
  private sources: Record<SourceId, Source>;

  constructor(store: TileStore, now: () => number = () => performance.now()) {
    const planes = (this.planes = new Planes(store));
    const even = new EvenTiles();
    const cached = (this.cached = new CachedTiles(planes));
    const rendering = new Rendering(planes, even, cached);
    const strokes = (this.strokes = new StrokeTiles(rendering));
    const here = (this.here = new TilesHere(rendering, now));
    const coarse = (this.coarse = new CoarsePicture(planes, here));
    const helpers = (this.helpers = new HelperTiles(planes, even, cached));
    this.sources = { strokes, cached, helpers, coarse, here, looked: new LookedTiles(rendering) };
  }

  /** Takes over a document. */
  refresh(piece: Piece): void {
    this.planes.refresh(piece);
    this.cached.lookAgain();
    this.coarse.lookAgain();
  }

  /** Something is due, or on its way from a helper. */
  get busy(): boolean {
    return this.planes.pending > 0 || this.helpers.busy;
  }

  /** One slice of work: what the first source that takes any jobs, or has something to show, gives; and which one it was. */
  work(slice: Slice): { patches: PixelPatch[]; from: SourceId | null } {
    for (const from of SOURCES[slice.phase]) {
      const before = this.planes.pending;
      const patches = this.sources[from].work(slice);
      if (patches.length > 0 || this.planes.pending < before) return { patches, from };
    }
    return { patches: [], from: null };
  }

  /** Renders everything that is due of a document on this thread, tile by tile, without a coarse picture first. */
  renderAll(piece: Piece, show: (patches: PixelPatch[]) => void): void {
    this.refresh(piece);
    while (this.planes.pending > 0) {
      const slice: Slice = { until: () => true, phase: 'live', stroking: true };
      show(this.work(slice).patches);
    }
  }
}
