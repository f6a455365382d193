/**
 * What a stroke does to the texels that it reaches. Each tool is a file beside this one with a line in `index.ts`, and
 * a line in ui/bench/keys/tools.ts, where it gets its picture and key.
 */
import type { Control } from '../../kinds/control';
import type { MapId, PlaneMap } from '../../kinds/maps';
import type { Sheet } from '../../document/schema';
import type { TileValue } from '../../strata/tileCache';
import type { TileIndex } from '../../tile/tiles';
import type { Beside } from '../beside';
import type { Source } from '../sample';
import type { CoverageTile } from '../coverage';
import type { Meant } from '../meant';
import type { LaidDab } from '../images';
import type { Imprint } from '../imprint';
import type { Tip } from '../tip';
import type { TipPicture } from '../tipPicture';
import type { Vary } from '../vary';
import type { StrokeContext } from '../context';

/**
 * What of a map is seen: of the layer alone, of all below it, of all up to it, of everything, or of another layer (`layer:` and its id).
 */
export type Visible = 'layer' | 'below' | 'through' | 'all' | `layer:${string}`;

/** What a tool finds around it, from pen down to pen up. */
export interface ToolContext {
  /** Its own settings, by the keys of its controls. */
  readonly settings: Readonly<Record<string, number | string>>;
  /** Maps that the stroke writes. */
  readonly maps: readonly PlaneMap[];
  readonly sheet: Sheet;
  /** The layer that the stroke is on, or the painted step of a mask. */
  readonly layerId: string;
  readonly surface: StrokeContext['surface'];
  readonly beside: Beside;
  /** Where a tool that takes from elsewhere takes from. */
  readonly source: Source | null;
  /** The picture that is laid along a path: that of the tip, or one that Brindle draws. */
  pattern(): TipPicture;
  /** An evaluated tile of a map as it was when the stroke began: planes of the map's stored encoding, then alpha. */
  visible(of: Visible, map: MapId, tile: TileIndex): TileValue;
  /** Finds the paint for which what is meant is seen; null: what is laid on this map is not seen at all. */
  meant(map: MapId): Meant | null;
  /** A picture of the sheet: RGBA as it is stored, by tiles; null: it is not there. */
  picture(id: string): { width: number; height: number; tile(index: TileIndex): Uint16Array | null } | null;
  /** The layer's own texels as they were when the stroke began. */
  stored(map: PlaneMap, tile: TileIndex): Uint16Array | null;
}

/** A dab as it was laid: `which` of its images, 0 for itself; `weight`: of its imprint, flow and opacity. */
export interface Dab extends LaidDab {
  which: number;
  weight: number;
}

/** A rectangle of one tile of one map in which coverage has changed since the last time. */
export interface Patch {
  map: PlaneMap;
  tile: TileIndex;
  channels: 2 | 4;
  /** Texels within the tile, x1 and y1 exclusive. */
  x0: number;
  y0: number;
  x1: number;
  y1: number;
  /** How much of the stroke each texel has received in all, 0 … 1, a whole tile row by row, limits included. */
  coverage: Float32Array;
  /** Stored texels as the stroke found them; null: there were none. */
  before: Uint16Array | null;
  /** The same as they are now: to be written, wherever coverage is above 0. */
  after: Uint16Array;
  /** What the brush lays down on this map, stored encoding 0 … 1, and how much of the coverage it gets. */
  value: readonly number[];
  /** Where dabs have colours of their own, those instead: three planes of the tile, R, G and B. */
  colours: Float32Array | null;
  amount: number;
}

/** One stroke of a tool. */
export interface ToolStroke {
  /** Told of each dab and its images, while the imprint holds what it gives. */
  dab?(imprint: Imprint, dab: Dab): void;
  /** Lays down what has changed. */
  flush(patch: Patch): void;
  /** The pen is up: before what is left is laid down. Says whether all of it is to be laid down anew. */
  end?(touched: readonly CoverageTile[]): boolean;
}

/** What of a brush a tool may want otherwise. */
export interface Strokable {
  tip: Tip;
  hardness: number;
  flow: number;
  spacing: number;
  dabs: number;
  rate: number;
  vary: Vary[];
}

export interface ToolDef {
  type: string;
  label: string;
  hint: string;
  /** Its own settings beside the brush's. */
  controls: readonly Control[];
  start: Readonly<Record<string, number | string>>;
  /** It changes what is there, and does nothing where the layer has no paint. Left out: never. */
  onPaintOnly?: (settings: ToolContext['settings'], map: PlaneMap) => boolean;
  /** Id of the shipped brush (hand/rack/shipped.ts) that it begins with; left out: the brush in hand. */
  suitedBrush?: string;
  /** It takes from a place that has to be set first. */
  needsSource?: boolean;
  /** It takes from a place that can be set, as it is set up. Left out: where it needs one. */
  takesFromSource?: (settings: ToolContext['settings']) => boolean;
  /** It lays the active well down: that colour was used. */
  usesWell?: boolean;
  /** It goes along a path of dabs: areas are nothing for it. */
  needsPath?: boolean;
  /** The brush as this tool strokes with it. */
  prepare?: <B extends Strokable>(brush: B) => B;
  /** It writes these maps only; left out: all that the brush writes. */
  writes?: (map: PlaneMap) => boolean;
  /** On a mask it paints what hides instead. */
  hidesOnMasks?: boolean;
  begin(context: ToolContext): ToolStroke;
}
