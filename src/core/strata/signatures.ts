/**
 * What the result of each operation on each tile hangs on, as one number: parameters, texels, what lies below and beside. Equal
 * signatures mean equal results, so nothing is ever marked out of date.
 */
import { maskGround, type Sheet } from '../document/schema';
import {
  stampOf,
  stampOfHash,
  TILE,
  tileIndex,
  tilesAcross,
  tileX,
  tileY,
  type TileIndex,
  type TileStore,
  type TileVersion,
} from '../tile/tiles';
import { pictureStamp } from './picture';
import { EVERYWHERE, NOTHING, reachOf, type MaskUse, type Moment, type Reach, type Scope } from './scope';
import { mixSignature, numberSignature, textSignature, type Signature } from './signature';
import { surfaceStampUnder } from './surfaceUnder';
import { tilesBetween } from './window';

/**
 * Signatures from the addresses of tiles, whether their texels are at hand or not: the same another day. Nothing is evaluated then;
 * `unkept` is called where a tile has no address yet.
 */
export interface Lasting {
  unkept: () => void;
}

const UNMASKED = numberSignature(1);
/** A mask that is its ground here; which one is in the operation's key. */
const UNPAINTED = numberSignature(5);

/** Of one moment of a sheet. */
export class Signatures implements Moment {
  /** Of each scope and tile, by number of operations. */
  private signatures = new Map<Scope, Map<TileIndex, Signature[]>>();
  private readonly across: number;
  private readonly down: number;
  /** Size and wrapping of the sheet, for what hangs on the place. */
  private readonly extent: Signature;
  private pictures = new Map<string, Signature>();

  constructor(
    readonly sheet: Sheet,
    readonly store: TileStore,
    private readonly lasting: Lasting | null,
  ) {
    const { width, height, wrapU, wrapV } = sheet;
    this.across = tilesAcross(width);
    this.down = tilesAcross(height);
    this.extent = textSignature(`${width} ${height} ${wrapU} ${wrapV}`);
  }

  signatureOf(scope: Scope, tile: TileIndex): Signature {
    return this.signature(scope, scope.ops.length, tile);
  }

  /** What a mask looks like on a tile. */
  maskSignature(use: MaskUse, tile: TileIndex): Signature {
    return mixSignature(this.maskPart(use, tile), textSignature(JSON.stringify(use.painted)));
  }

  signature(scope: Scope, n: number, tile: TileIndex): Signature {
    let byTile = this.signatures.get(scope);
    if (!byTile) this.signatures.set(scope, (byTile = new Map()));
    let list = byTile.get(tile);
    if (!list) byTile.set(tile, (list = [scope.key]));
    for (let i = list.length - 1; i < n; i++) {
      const part = this.part(scope, i, tile);
      list.push(part === NOTHING ? list[i] : mixSignature(list[i], mixSignature(scope.ops[i].key, part)));
    }
    return list[n];
  }

  /** What an operation takes from the tile beside its parameters; NOTHING: it changes nothing here. */
  private part(scope: Scope, i: number, tile: TileIndex): Signature {
    const op = scope.ops[i];
    const mask = op.mask ? this.maskPart(op.mask, tile) : UNMASKED;
    if (mask === NOTHING && op.type !== 'restore') return NOTHING;
    switch (op.type) {
      case 'blend': {
        const below = op.source.part(this, tile);
        if (below === NOTHING || below === EVERYWHERE) return below === NOTHING ? NOTHING : mask;
        return mixSignature(below, mask);
      }
      case 'adjust': {
        if (!op.passes) return mask;
        // With the tile itself: two tiles of a narrow sheet can have the same neighbours, but on other sides.
        let all = mixSignature(mask, tile);
        for (const near of this.around(tile, reachOf(op.passes))) {
          all = mixSignature(all, this.signature(scope, i, near));
          if (op.aux) all = mixSignature(all, this.signatureOf(op.aux, near));
        }
        return all;
      }
      default:
        return mask;
    }
  }

  /** NOTHING: it hides all of the tile. */
  protected maskPart({ painted, scope }: MaskUse, tile: TileIndex): Signature {
    if (!painted) return this.signatureOf(scope, tile);
    const stamp = this.stamp(painted.plane, tile);
    if (stamp !== NOTHING) return stamp;
    return maskGround(painted) === 0 ? NOTHING : UNPAINTED;
  }

  private get surfaceStamp(): number | null {
    if (this.stampOfSurface === undefined) this.stampOfSurface = surfaceStampUnder(this.store, this.sheet);
    return this.stampOfSurface;
  }
  private stampOfSurface: number | null | undefined;

  get onModel(): boolean {
    return this.surfaceStamp !== null;
  }

  /** What hangs on the place: which tile of which sheet over which model. */
  place(tile: TileIndex): Signature {
    return mixSignature(mixSignature(this.extent, tile), this.surfaceStamp ?? 2);
  }

  pictureStamp(id: string): Signature {
    let stamp = this.pictures.get(id);
    if (stamp === undefined) this.pictures.set(id, (stamp = pictureStamp(this.store, id, (v) => this.stampNumber(v))));
    return stamp;
  }

  stamp(plane: string, tile: TileIndex): Signature {
    const version = this.store.get(plane, tile);
    const stamp = version && this.stampNumber(version);
    return stamp === null ? NOTHING : numberSignature(stamp + 16);
  }

  /** null: pixels that are missing (a lost blob, or not fetched yet), which count as unpainted until they are there. */
  private stampNumber(version: TileVersion): number | null {
    if (!this.lasting) return version.data ? stampOf(version) : null;
    if (version.hash) return stampOfHash(version.hash);
    this.lasting.unkept();
    return 0;
  }

  /** The tiles that a reach in texels touches, in a fixed order; beyond the border only where the sheet wraps. */
  around(tile: TileIndex, { rx, ry, dx = 0, dy = 0, round = false }: Partial<Reach> & { rx: number; ry: number }): TileIndex[] {
    const { sheet } = this;
    const x = tileX(tile) * TILE + dx;
    const y = tileY(tile) * TILE + dy;
    const xs = tilesBetween(x - rx, x + TILE + rx, sheet.width, sheet.wrapU || round, this.across);
    const ys = tilesBetween(y - ry, y + TILE + ry, sheet.height, sheet.wrapV || round, this.down);
    return ys.flatMap((v) => xs.map((u) => tileIndex(u, v)));
  }
}
