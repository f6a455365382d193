/** The bench's state in the page. The engine has the truth; this mirrors it. */
import { create } from 'zustand';
import { brushSchema, type Brush } from '@/core/hand/brush';
import type { Source } from '@/core/hand/sample';
import { NO_MIRROR, type Mirror } from '@/core/hand/mirror';
import type { ToolType } from '@/core/hand/tools';
import { mapInfo, MAP_ROWS, type MapId } from '@/core/kinds/maps';
import type { Picture, Piece } from '@/core/document/schema';
import { TONE_START, type ToneOptions } from '@/core/colour/tones';
import type { Geometry, KeptState, PixelPatch, TrailState } from '@/engine/protocol';
import { Signal } from '@/engine/signal';
import type { MaskMode, View } from '@/viewport/materials';
import { NO_GUIDES, type Guides } from '../panes/guides';
import { areaStart, type AreaSettings } from '@/core/hand/areas';
import { STROKES, type Laying } from '../areas/laying';
import type { HandleOwner } from '../top/openThings';
import type { PictureSet } from '../top/openThings';
import { PLAIN_PEN, type PenSettings } from '../pointer/pen';
import type { HandTool } from '../keys/tools';

export interface Job {
  id: number;
  done: number;
  total: number;
  what: string;
  startedAt: number;
}

export type ToolSettings = Brush['settings'];

/** A brush, and the brush of the rack that it was; null: none. */
export interface OwnBrush {
  brush: Brush;
  brushId: string | null;
}
export type ToolBrushes = Partial<Record<ToolType, OwnBrush>>;

/** What a stroke does to a map. Colours take the active well, other maps their own value. */
export interface MapWrite {
  on: boolean;
  value: number;
  amount: number;
}
export type Writes = Partial<Record<MapId, MapWrite>>;

export interface BenchState {
  /** `elsewhere`: another tab has the piece; `busy`: it has it and does not answer. */
  phase: 'opening' | 'open' | 'failed' | 'elsewhere' | 'busy';
  opening: { what: string; done: number; total: number };
  failure: string;
  /** Of a piece that could not be opened: it was deleted and can be brought back; how many changes wait for it here. */
  failed: { deleted: boolean; waiting: number };
  document: Piece | null;
  /** All of the piece is at hand: before, what is asked for waits. */
  ready: boolean;
  geometry: Geometry | null;
  trail: TrailState;
  kept: KeptState & { at: number };
  /** This browser's own journal: what is not on its disk yet, and why writing fails. */
  journal: { pending: number; asked: number; failing: string | null };
  sheetId: string;
  /** Selected layer of each sheet: the one at work. */
  selected: Record<string, string>;
  /** All that are chosen on the sheet, the selected one among them. */
  chosen: string[];
  /** Strokes go onto the layer, or onto its mask. */
  target: 'layer' | 'mask';
  /** What a stroke paints into a mask: 0 hides, 1 shows. */
  maskValue: number;
  maskMode: MaskMode | null;
  /** The bake that is looked at, by its id, or a first try of one; null: none. */
  bakeLook: string | Picture | null;
  /** Where the card of bakes floats, and which of them is open. */
  bakes: { open: boolean; x: number; y: number; chosen: string | null };
  /** The step of the mask that is open. */
  openStep: string | null;
  /** What the handles in the view belong to. */
  handles: HandleOwner | null;
  /** A click in a pane gives a face to this step instead of painting; a box or a lasso, many. */
  picking: string | null;
  pickBy: 'click' | 'box' | 'lasso';
  /** What picking takes: what is seen, or what the layer at work has there; of the map that is looked at, or of all. */
  picks: { of: 'seen' | 'layer'; all: boolean };
  /** Where the pinboard floats. */
  pins: { open: boolean; x: number; y: number; width: number; height: number };
  /** The stencil in hand; null: none. */
  stencil: { id: string; on: boolean } | null;
  /** How paint is laid: by strokes, or as an area. */
  laying: Laying;
  areas: AreaSettings;
  /** Counts what passes by: small pictures follow. */
  previews: number;
  /** Pictures that wait for the artist's yes. */
  pictureSet: PictureSet | null;
  squint: boolean;
  guides: Guides;
  /** A map seen alone is shaded by the model's shape. */
  form: boolean;
  /** Marks where base colour is no plausible albedo. */
  albedoMarks: boolean;
  solo: string[];
  collapsed: string[];
  hiddenColumns: MapId[];
  /** Planes that have lost tiles. */
  missing: string[];
  view: View;
  tool: HandTool;
  /** What each tool is set to, beside the brush; where it says nothing, as the tool starts. */
  toolSettings: Partial<Record<ToolType, ToolSettings>>;
  brush: Brush;
  /** The brush of the rack that it was; null: none. */
  brushId: string | null;
  /** The tool that the brush in hand belongs to, and the brushes of the others. */
  brushTool: ToolType;
  toolBrushes: ToolBrushes;
  /** Where tools that take from elsewhere take from, by sheet. */
  source: { sheetId: string; source: Source; point: number[] | null } | null;
  handFolded: boolean;
  pen: PenSettings;
  /** The rack and the brush's parts are open. */
  brushPanel: boolean;
  /** Where the ring of the last brushes is, in the window. */
  brushRing: { x: number; y: number } | null;
  /** A sheet that lies over the bench. */
  sheet: 'keys' | 'pen' | null;
  /** How strokes are mirrored, while that is on. */
  mirror: Mirror;
  mirrored: boolean;
  /** Its planes are drawn, with handles. */
  mirrorShown: boolean;
  writes: Writes;
  wells: [string, string];
  recent: string[];
  /** How tone steps turn and how far they go. */
  tones: ToneOptions;
  light: number;
  wireOpacity: number;
  /** How often a sheet that wraps is seen in the flat pane, across and down; odd. */
  flatRepeats: [number, number];
  filled: 'both' | 'model' | 'flat';
  job: Job | null;
  notice: { id: number; message: string } | null;
}

/** Resolves once the open piece has been drawn exactly for the first time, or after this long: something may draw without end. */
const EXACT_AT_LAST_MS = 15_000;
let exactly: { done: Promise<void>; tell: () => void } | null = null;

export function exactOnce(): Promise<void> {
  if (!exactly) {
    let tell = () => {};
    const done = new Promise<void>((resolve) => (tell = resolve));
    exactly = { done, tell };
    setTimeout(tell, EXACT_AT_LAST_MS);
  }
  return exactly.done;
}
/** Another piece is opened. */
export function notExactYet(): void {
  exactly?.tell();
  exactly = null;
}
export function drawnExactly(): void {
  void exactOnce();
  exactly!.tell();
}

/** Painted pixels do not go through React: the viewport listens here. */
export const pixels = new Signal<{ patches: PixelPatch[]; strokeAt: number | null; exact: boolean }>();

const startWrites: Writes = Object.fromEntries(
  MAP_ROWS.flatMap(({ id, brush }) => (brush ? [[id, { ...brush, amount: 1 }]] : [])),
);

export function writeOf(writes: Writes, map: MapId): MapWrite {
  return writes[map] ?? { on: false, value: mapInfo(map).start[0], amount: 1 };
}

export const fresh = (): BenchState => ({
  phase: 'opening',
  opening: { what: 'Opening', done: 0, total: 1 },
  failure: '',
  failed: { deleted: false, waiting: 0 },
  document: null,
  ready: false,
  geometry: null,
  trail: { labels: [], position: 0 },
  kept: { state: 'kept', waiting: 0, aside: [], reached: 0, at: Date.now() },
  journal: { pending: 0, asked: 0, failing: null },
  sheetId: '',
  selected: {},
  chosen: [],
  target: 'layer',
  maskValue: 0,
  maskMode: null,
  bakeLook: null,
  bakes: { open: false, x: 8, y: 300, chosen: null },
  openStep: null,
  handles: null,
  picking: null,
  pickBy: 'click',
  picks: { of: 'seen', all: false },
  pins: { open: false, x: 350, y: 90, width: 380, height: 340 },
  stencil: null,
  laying: STROKES,
  areas: areaStart(),
  previews: 0,
  pictureSet: null,
  squint: false,
  guides: NO_GUIDES,
  form: false,
  albedoMarks: false,
  solo: [],
  collapsed: [],
  hiddenColumns: [],
  missing: [],
  view: 'lit',
  tool: 'paint',
  toolSettings: {},
  brush: brushSchema.parse({}),
  brushId: null,
  brushTool: 'paint',
  toolBrushes: {},
  source: null,
  handFolded: false,
  pen: PLAIN_PEN,
  brushPanel: false,
  brushRing: null,
  sheet: null,
  mirror: { ...NO_MIRROR, axes: ['x'] },
  mirrored: false,
  mirrorShown: true,
  writes: startWrites,
  wells: ['#b5502f', '#e8d9b8'],
  recent: [],
  tones: TONE_START,
  light: 0,
  wireOpacity: 0.15,
  flatRepeats: [3, 3],
  filled: 'both',
  job: null,
  notice: null,
});

export const useBench = create<BenchState>(fresh);
export const set = useBench.setState;
export const get = useBench.getState;

let noticeId = 0;

export function say(message: string): void {
  set({ notice: { id: ++noticeId, message } });
}
