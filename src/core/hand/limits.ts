/** All that limits a stroke, texel by texel: what is given, its fence, its stencil, and what is hidden. */
import { lasting, TILE_TEXELS, type TileIndex, type TileStore } from '../tile/tiles';
import type { Brush } from './brush';
import type { StrokeContext } from './context';
import { FenceLimit, type Limit } from './fence';
import type { TexelRect } from '../../kernels/dabs';
import { StencilOver } from './stencil';

export class Limits {
  private readonly fence: FenceLimit | null;
  private readonly stencil: StencilOver | null;
  private readonly hides: boolean;
  private tiles = new Map<TileIndex, Limit>();

  /** `store`: the pixels as they were when the stroke began. */
  constructor(
    private context: StrokeContext,
    { fence, stencil, view, mirror }: Pick<Brush, 'fence' | 'stencil' | 'view' | 'mirror'>,
    store: () => TileStore,
  ) {
    const { sheet, layerId, surface } = context;
    this.fence = fence ? new FenceLimit(fence, { sheet, layerId, surface, store }) : null;
    this.stencil = stencil ? new StencilOver(stencil, context, { view, mirror, store: context.store }) : null;
    this.hides = surface?.query.hidden.includes(1) ?? false;
  }

  /** 0 … 1 a texel, row by row, good within a rectangle; null: nothing limits the tile. */
  tile(index: TileIndex, within: TexelRect): Limit {
    const { fence, hides, stencil, context } = this;
    if (!fence && !hides && !stencil) return context.limit?.(index) ?? null;
    if (stencil && !fence && !hides && !context.limit) return stencil.tile(index, within).share;
    const known = this.tiles.get(index);
    if (known !== undefined) return known;
    let limit: Limit = null;
    for (const other of [
      this.context.limit?.(index) ?? null,
      this.fence?.tile(index) ?? null,
      this.stencil?.tile(index).share ?? null,
      this.seen(index),
    ])
      limit = limit && other ? limit.map((v, i) => v * other[i]) : (limit ?? other);
    this.tiles.set(index, limit);
    return limit;
  }

  /** Colours that a stencil paints, three planes; null: the brush's own. */
  colours(index: TileIndex): Float32Array | null {
    return this.stencil?.colours(index) ?? null;
  }

  /** Nothing of what is hidden. */
  private seen(index: TileIndex): Limit {
    const { surface } = this.context;
    const face = this.hides ? surface!.map.tiles.get(index)?.face : undefined;
    if (!face) return null;
    const { hidden } = surface!.query;
    const out = lasting(Float32Array, TILE_TEXELS);
    let all = true;
    for (let i = 0; i < TILE_TEXELS; i++) {
      out[i] = face[i] >= 0 && hidden[face[i]] ? 0 : 1;
      if (out[i] === 0) all = false;
    }
    return all ? null : out;
  }
}
