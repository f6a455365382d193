/**
 * A stencil between the brush and the work: how much of the paint each texel gets, and which colour, by where it lies under the
 * picture. Read trilinearly, as finely as texels lie: what the ghost shows over a place is what its texel gets.
 */
import type { TexelRect } from '../../kernels/dabs';
import type { Picture } from '../document/schema';
import { intoStencil, type Stencil } from '../document/stencil';
import { around, within } from '../tile/border';
import { lasting, TILE, TILE_TEXELS, tileX, tileY, type TileIndex, type TileStore } from '../tile/tiles';
import { pictureData, pictureStamp } from '../strata/picture';
import type { PictureLevel } from '../strata/pictureLevel';
import type { StrokeContext } from './context';
import { mirrored } from './mirrored';
import type { Mirror } from './mirror';
import { Sight } from './sight';
import { pictureOfRule } from './texture';
import { viewOfImage, type View } from './view';

/** A picture that a stencil shows. */
export interface StencilPicture {
  width: number;
  height: number;
  /** Full size first, RGBA in 16 bits, colours not premultiplied. */
  levels: readonly PictureLevel[];
}

/** What a stencil shows; null: its picture is gone. */
export function stencilPicture(
  { of }: Stencil,
  store: TileStore,
  find: (id: string) => Picture | undefined,
): StencilPicture | null {
  if (typeof of === 'string') {
    const info = find(of);
    if (!info) return null;
    const { levels } = pictureData(store, info, pictureStamp(store, of));
    return { width: info.width, height: info.height, levels };
  }
  const { side, levels } = pictureOfRule(of);
  return {
    width: side,
    height: side,
    levels: levels.map((values, n) => {
      const data = new Uint16Array(values.length * 4);
      values.forEach((v, i) => data.set([v * 65535 + 0.5, v * 65535 + 0.5, v * 65535 + 0.5, 65535], i * 4));
      return { width: side >> n, height: side >> n, data };
    }),
  };
}

/** Reads a picture: places 0 … 1, `out` gets RGB and alpha, 0 … 1. */
export class StencilReader {
  private readonly one = new Float64Array(4);
  private readonly two = new Float64Array(4);

  constructor(
    private picture: StencilPicture,
    private tiled: boolean,
  ) {}

  /** `span`: texels of the picture that a texel of the work spans. */
  read(u: number, v: number, span: number, out: Float64Array): void {
    const { levels } = this.picture;
    const lod = Math.min(levels.length - 1, Math.max(0, Math.log2(Math.max(1e-6, span))));
    const n = Math.floor(lod);
    const t = lod - n;
    this.bilinear(levels[n], u, v, this.one);
    if (t > 0) {
      this.bilinear(levels[n + 1], u, v, this.two);
      for (let k = 0; k < 4; k++) this.one[k] += (this.two[k] - this.one[k]) * t;
    }
    const alpha = this.one[3];
    for (let k = 0; k < 3; k++) out[k] = alpha > 0 ? this.one[k] / alpha : 0;
    out[3] = alpha;
  }

  /** Premultiplied. */
  private bilinear({ width, height, data }: PictureLevel, u: number, v: number, out: Float64Array): void {
    const x = u * width - 0.5;
    const y = v * height - 0.5;
    const x0 = Math.floor(x);
    const y0 = Math.floor(y);
    const fx = x - x0;
    const fy = y - y0;
    const at = this.tiled ? around : within;
    const left = at(x0, width);
    const top = at(y0, height);
    const x1 = at(x0 + 1, width);
    const y1 = at(y0 + 1, height);
    const a = (top * width + left) * 4;
    const b = (top * width + x1) * 4;
    const c = (y1 * width + left) * 4;
    const d = (y1 * width + x1) * 4;
    const unit = 1 / 65535;
    const wa = (1 - fx) * (1 - fy) * data[a + 3] * unit;
    const wb = fx * (1 - fy) * data[b + 3] * unit;
    const wc = (1 - fx) * fy * data[c + 3] * unit;
    const wd = fx * fy * data[d + 3] * unit;
    for (let k = 0; k < 3; k++) out[k] = (data[a + k] * wa + data[b + k] * wb + data[c + k] * wc + data[d + k] * wd) * unit;
    out[3] = wa + wb + wc + wd;
  }
}

/** How much of the paint a place gets, 0 … 1, by what the picture is there. Luma of ITU-R BT.709 on the stored values. */
export function letThrough({ use, invert, cut }: Stencil, r: number, g: number, b: number, a: number): number {
  let share = use === 'luminance' ? 0.2126 * r + 0.7152 * g + 0.0722 * b : a;
  if (invert) share = 1 - share;
  if (use === 'luminance') share *= a;
  if (cut !== null) share = share > cut ? 1 : 0;
  return share;
}

export interface StencilTile {
  /** 0 … 1 a texel. */
  share: Float32Array;
  /** Three planes, where it paints its own colours. */
  colours: Float32Array | null;
  /** 1: patches that are worked out. */
  done: Uint8Array;
}

const WHOLE: TexelRect = { x0: 0, y0: 0, x1: TILE, y1: TILE };
/** Tiles are worked out in patches of so many texels a side. */
const PATCH_BITS = 4;
const PATCH = 1 << PATCH_BITS;
const PATCHES = TILE / PATCH;

export class StencilOver {
  private readonly picture: StencilPicture | null;
  private readonly reader: StencilReader | null;
  private readonly eyes: readonly Sight[];
  private tiles = new Map<TileIndex, StencilTile>();

  constructor(
    private stencil: Stencil,
    private context: Pick<StrokeContext, 'sheet' | 'surface' | 'picture'>,
    { view, mirror, store }: { view: View | undefined; mirror: Mirror | undefined; store: TileStore },
  ) {
    const { sheet, surface } = context;
    this.picture = stencilPicture(stencil, store, (id) => context.picture?.(id) ?? sheet.pictures.find((p) => p.id === id));
    this.reader = this.picture && new StencilReader(this.picture, stencil.tiled);
    const { images, middle } = mirrored(mirror, context);
    this.eyes =
      stencil.over === 'view' && surface && view
        ? [view, ...images.map((image) => viewOfImage(view, image, middle))].map(
            (v) =>
              new Sight(surface.map, surface.query, v, { layers: 'front', grazing: 0, bothSides: sheet.preview.doubleSided }),
          )
        : [];
  }

  /** Its picture is not there any more. */
  get lost(): boolean {
    return this.picture === null;
  }

  /** Good within a rectangle, x1 and y1 exclusive; left out: all over. Strokes seldom reach all of a tile. */
  tile(index: TileIndex, within: TexelRect = WHOLE): StencilTile {
    let tile = this.tiles.get(index);
    if (!tile) {
      const share = lasting(Float32Array, TILE_TEXELS).fill(0);
      const colours = this.stencil.use === 'colour' ? lasting(Float32Array, TILE_TEXELS * 3).fill(0) : null;
      this.tiles.set(index, (tile = { share, colours, done: new Uint8Array(PATCHES * PATCHES) }));
    }
    for (let row = within.y0 >> PATCH_BITS; row << PATCH_BITS < within.y1; row++)
      for (let column = within.x0 >> PATCH_BITS; column << PATCH_BITS < within.x1; column++) {
        const n = row * PATCHES + column;
        if (tile.done[n]) continue;
        tile.done[n] = 1;
        this.make(index, tile, column << PATCH_BITS, row << PATCH_BITS);
      }
    return tile;
  }

  /** Colours that are worked out so far, three planes; null: the brush's own. */
  colours(index: TileIndex): Float32Array | null {
    return this.tiles.get(index)?.colours ?? null;
  }

  /** Works out a patch of a tile. */
  private make(index: TileIndex, { share, colours }: StencilTile, x0: number, y0: number): void {
    const { stencil, picture, reader, context } = this;
    if (!picture || !reader) return;
    // An affine map: three places of it say all.
    const into = intoStencil(stencil, picture.width / picture.height);
    const [u0, v0] = into(0, 0);
    const [ux, vx] = into(1, 0).map((v, k) => v - [u0, v0][k]);
    const [uy, vy] = into(0, 1).map((v, k) => v - [u0, v0][k]);
    const { width: columns, height: rows } = picture;
    const { tiled } = stencil;
    const byUnit = picture.height / stencil.size;
    const out = new Float64Array(4);
    const put = (i: number, px: number, py: number, unit: number, seen: number) => {
      const u = u0 + ux * px + uy * py;
      const v = v0 + vx * px + vy * py;
      const span = unit * byUnit;
      let within = 1;
      if (!tiled) {
        // Its border is as sharp as a texel.
        const across = ((u < 0.5 ? u : 1 - u) * columns) / span + 0.5;
        const down = ((v < 0.5 ? v : 1 - v) * rows) / span + 0.5;
        within = across < down ? across : down;
        if (!(within > 0)) return;
        if (within > 1) within = 1;
      }
      reader.read(u, v, span, out);
      const value = seen * within * letThrough(stencil, out[0], out[1], out[2], out[3]);
      if (!(value > share[i])) return;
      share[i] = value;
      if (!colours) return;
      colours[i] = out[0];
      colours[TILE_TEXELS + i] = out[1];
      colours[2 * TILE_TEXELS + i] = out[2];
    };
    if (stencil.over === 'sheet') {
      const { width } = context.sheet;
      const [left, top] = [tileX(index) * TILE + 0.5, tileY(index) * TILE + 0.5];
      for (let y = y0; y < y0 + PATCH; y++)
        for (let x = x0; x < x0 + PATCH; x++) put(y * TILE + x, (left + x) / width, (top + y) / width, 1 / width, 1);
      return;
    }
    for (const eye of this.eyes) {
      const seen = eye.tile(index);
      if (!seen) continue;
      const { width, height } = eye.view;
      for (let y = y0; y < y0 + PATCH; y++)
        for (let i = y * TILE + x0, end = i + PATCH; i < end; i++)
          if (seen.share[i] > 0)
            put(i, (seen.x[i] - width / 2) / height, (seen.y[i] - height / 2) / height, seen.span[i] / height, seen.share[i]);
    }
  }
}
