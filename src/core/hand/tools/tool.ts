/**
 * What a stroke does to the texels that it reaches. Each tool is a file beside this one with a line in `index.ts`, and
 * a line in ui/bench/tools.ts, where it gets its picture and key.
 */
import type { Control } from '../../kinds/control';
import type { MapId, PlaneMap } from '../../kinds/maps';
import type { TileValue } from '../../strata/tileCache';
import type { TileIndex } from '../../tile/tiles';

/** What of a map is seen: of the layer alone, of all below it, or of everything. */
export type Visible = 'layer' | 'below' | 'all';

/** What a tool finds around it, from pen down to pen up. */
export interface ToolContext {
  /** Its own settings, by the keys of its controls. */
  readonly settings: Readonly<Record<string, number | string>>;
  /** An evaluated tile of a map as it was when the stroke began: planes of the map's stored encoding, then alpha. */
  visible(of: Visible, map: MapId, tile: TileIndex): TileValue;
}

/** A dab as it was laid. */
export interface Dab {
  pane: 'model' | 'flat';
  /** Metres in the model pane, texels in the flat one. */
  centre: readonly number[];
  radius: number;
  pressure: number;
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
  /** Where dabs have colours of their own, those instead: RGB, 3 × float32 a texel. */
  colours: Float32Array | null;
  amount: number;
}

/** One stroke of a tool. */
export interface ToolStroke {
  /** Before the dab's coverage is there. */
  dab?(dab: Dab): void;
  /** Lays down what has changed. */
  flush(patch: Patch): void;
  end?(): void;
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
  /** On a mask it paints what hides instead. */
  hidesOnMasks?: boolean;
  begin(context: ToolContext): ToolStroke;
}
