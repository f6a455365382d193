/**
 * Where a stroke takes from: a place that goes along with the pen, and the texels around it, each beside it as the stroke's
 * texel is beside the pen. On the model both places have frames that lie in the surface and are carried along without
 * turning; what is around one is laid around the other as a stiff body, and from there onto the nearest surface.
 */
import { surfacePoint } from '../mesh/surfaceMap/corners';
import type { Ways } from '../mesh/ways';
import { TILE, tileX, tileY, type TileIndex } from '../tile/tiles';
import type { Sample, Source } from './sample';
import { dot, frameAt, sheetPlace, surfacePlace } from './place';
import type { TipFrame } from './tip';
import type { Dab, ToolContext } from './tools/tool';

/** A place on the model with a frame that lies in the surface there. */
interface Spot {
  face: number;
  point: number[];
  frame: TipFrame;
}

/** Metres: rays meet the surface as exactly as this. */
const SAME = 1e-7;

export class Elsewhere {
  /** The place that was asked for last, texels of the sheet. */
  x = 0;
  y = 0;
  private pen: Spot | null = null;
  private spot: Spot | null = null;
  private penInSheet: [number, number] | null = null;
  private spotInSheet: [number, number] | null = null;
  private ways: Ways | null;
  private face = -1;
  private readonly texelsPerMetre: number;

  /** `moves`: the source goes along with the pen. */
  constructor(
    private context: Pick<ToolContext, 'sheet' | 'surface' | 'beside'>,
    private source: Source,
    private moves: boolean,
  ) {
    this.ways = context.beside.ways;
    this.texelsPerMetre = context.beside.texelsPerMetre;
  }

  /** The pen is here now. false: there is nothing to take from. */
  goTo({ at, frame }: Pick<Dab, 'at' | 'frame'>): boolean {
    if (at.pane === 'flat') return this.goInSheet(at.x, at.y);
    const first = this.pen === null;
    const here = this.carried(this.pen, at.hit.face, [...at.hit.point], frame!, at.hit.normal);
    if (first) this.begin(here);
    else if (this.moves) this.goAlong(this.pen!, here);
    this.pen = here;
    return this.spot !== null || this.spotInSheet !== null;
  }

  /** Sets `x`, `y` to where a texel under the pen takes from. false: nowhere. */
  of(tile: TileIndex, i: number): boolean {
    const { penInSheet, spotInSheet, spot, pen } = this;
    if (penInSheet) {
      this.x = tileX(tile) * TILE + (i % TILE) + 0.5 + spotInSheet![0] - penInSheet[0];
      this.y = tileY(tile) * TILE + ((i / TILE) | 0) + 0.5 + spotInSheet![1] - penInSheet[1];
      return true;
    }
    const position = this.context.surface!.map.tiles.get(tile)?.position;
    if (!position || !pen) return false;
    const o = i * 3;
    const dx = position[o] - pen.point[0];
    const dy = position[o + 1] - pen.point[1];
    const dz = position[o + 2] - pen.point[2];
    const { right, down, out } = pen.frame;
    const a = dx * right[0] + dy * right[1] + dz * right[2];
    const b = dx * down[0] + dy * down[1] + dz * down[2];
    if (spotInSheet) {
      this.x = spotInSheet[0] + a * this.texelsPerMetre;
      this.y = spotInSheet[1] + b * this.texelsPerMetre;
      return true;
    }
    if (!spot) return false;
    const c = dx * out[0] + dy * out[1] + dz * out[2];
    const { right: r, down: d, out: n } = spot.frame;
    const { ways } = this;
    // Texels that follow each other lie on the same face, or on one close by.
    if (this.face < 0) this.face = spot.face;
    const found = ways!.nearest(
      this.face,
      spot.point[0] + r[0] * a + d[0] * b + n[0] * c,
      spot.point[1] + r[1] * a + d[1] * b + n[1] * c,
      spot.point[2] + r[2] * a + d[2] * b + n[2] * c,
    );
    this.face = found ? ways!.face : -1;
    this.x = ways!.x;
    this.y = ways!.y;
    return found;
  }

  private goInSheet(x: number, y: number): boolean {
    if (!this.penInSheet) {
      const at = this.inSheet(this.source.at);
      const from = this.source.from ? this.inSheet(this.source.from) : null;
      if (!at) return false;
      this.penInSheet = from ?? [x, y];
      this.spotInSheet = at;
    }
    if (this.moves) {
      this.spotInSheet = [this.spotInSheet![0] + x - this.penInSheet[0], this.spotInSheet![1] + y - this.penInSheet[1]];
    }
    this.penInSheet = [x, y];
    return true;
  }

  private begin(pen: Spot): void {
    const { source } = this;
    if (source.at.pane === 'flat') this.spotInSheet = [source.at.x, source.at.y];
    else this.spot = this.spotOf(source.at);
    const from = source.from && this.spotOf(source.from);
    if (from && this.moves) this.goAlong(from, pen);
    // At the pen itself: it stays there, whatever face an edge is taken to belong to.
    else if (this.spot && Math.hypot(...this.spot.point.map((v, k) => v - pen.point[k])) < SAME) this.spot = pen;
  }

  /** The source goes as the pen goes: the same way within its own frame. */
  private goAlong(from: Spot, to: Spot): void {
    const d = to.point.map((v, k) => v - from.point[k]);
    const { right, down, out } = from.frame;
    const [a, b, c] = [dot(d, right), dot(d, down), dot(d, out)];
    if (this.spotInSheet) {
      this.spotInSheet = [this.spotInSheet[0] + a * this.texelsPerMetre, this.spotInSheet[1] + b * this.texelsPerMetre];
      return;
    }
    const { spot, ways } = this;
    if (!spot || !ways) return;
    if (spot === from) return void (this.spot = to);
    const f = spot.frame;
    const aim = spot.point.map((v, k) => v + f.right[k] * a + f.down[k] * b + f.out[k] * c);
    ways.nearest(spot.face, aim[0], aim[1], aim[2]);
    const normal = this.normalAt(ways.face, ways.x, ways.y);
    this.spot = this.carried(spot, ways.face, this.pointAt(ways.face, ways.x, ways.y), f, normal);
    this.face = -1;
  }

  /** A frame carried to another place: its right is laid into the surface there. */
  private carried(before: Spot | null, face: number, point: number[], frame: TipFrame, normal: readonly number[]): Spot {
    const right = (before?.frame ?? frame).right as [number, number, number];
    const direction = normal.map((v) => -v) as [number, number, number];
    return { face, point, frame: frameAt({ direction, right: [...right] }, { normal: [...normal] as [number, number, number] }) };
  }

  private spotOf(sample: Sample): Spot | null {
    const { surface } = this.context;
    if (!surface) return null;
    if (sample.pane === 'flat') return surfacePlace(surface.map, sample.x, sample.y);
    const hit = surface.query.raycast(sample.origin, sample.direction);
    return hit && { face: hit.face, point: [...hit.point], frame: frameAt(sample, hit) };
  }

  private inSheet(sample: Sample): [number, number] | null {
    if (sample.pane === 'flat') return [sample.x, sample.y];
    const { surface } = this.context;
    const hit = surface?.query.raycast(sample.origin, sample.direction);
    if (!hit) return null;
    const { x, y } = sheetPlace(hit, surface!.map);
    return [x, y];
  }

  private pointAt(face: number, x: number, y: number): number[] {
    return [...this.surfaceAt(face, x, y).subarray(0, 3)];
  }

  private normalAt(face: number, x: number, y: number): number[] {
    return [...this.surfaceAt(face, x, y).subarray(3, 6)];
  }

  private surfaceAt(face: number, x: number, y: number): Float32Array {
    const out = new Float32Array(6);
    const ways = this.ways!;
    const m = ways.into;
    const o = ways.intoWeights(face);
    const w1 = m[o] * (x - m[o + 4]) + m[o + 1] * (y - m[o + 5]);
    const w2 = m[o + 2] * (x - m[o + 4]) + m[o + 3] * (y - m[o + 5]);
    surfacePoint(this.context.surface!.query.model, face, 1 - w1 - w2, w1, w2, out);
    return out;
  }
}
