/** The stroke that is under the pen, and strokes that are painted again from their recordings. */
import { planeKey } from '../../core/document/planes';
import { findLayer, maskOfStep, pictureOf } from '../../core/document/schema';
import type { Sample } from '../../core/hand/sample';
import { Stroke } from '../../core/hand/stroke';
import type { StrokeRecord } from '../../core/keeping/operation';
import { LAYERS } from '../../core/kinds/layers';
import type { PlaneMap } from '../../core/kinds/maps';
import type { TileChange } from '../../core/tile/tiles';
import type { Request } from '../protocol';
import type { Pen, Reached } from '../show/show';
import type { OpenPiece } from '../state';
import type { Tips } from './tips';

/** Where a stroke is painted, and with what; the rest of its recording is its samples. */
export type StrokePlan = Omit<StrokeRecord, 'samples' | 'hidden' | 'hiddenFaces'>;

interface Running {
  id: string;
  stroke: Stroke;
  record: StrokeRecord;
  /** Keys of the planes that it writes. */
  planes: string[];
  /** Time stamp of the newest pointer event. */
  at: number;
  dirty: boolean;
}

export interface Ended {
  id: string;
  record: StrokeRecord;
  changes: TileChange[];
  /** What the last samples have reached. */
  reached: Reached | null;
  stroke: Pick<Stroke, 'fencedOut' | 'unreached'>;
}

export class Strokes implements Pen {
  private running: Running | null = null;

  constructor(
    private open: OpenPiece,
    private tips: Tips,
  ) {}

  get isDown(): boolean {
    return this.running !== null;
  }

  /** The stroke under the pen, as it is recorded. */
  get now(): { id: string; record: StrokeRecord } | null {
    return this.running;
  }

  /** false: what it would paint on is not there, or is not to be painted on. */
  begin({ id, sheetId, layerId, brush, seed, samples, at }: Extract<Request, { type: 'stroke-begin' }>): boolean {
    const plan = { sheet: sheetId, layer: layerId, brush, seed };
    const stroke = this.strokeOn(plan);
    if (!stroke) return false;
    const maps = (Object.keys(brush.writes) as PlaneMap[]).filter((m) => brush.writes[m]!.on);
    const planes = maps.map((m) => planeKey(layerId, m));
    this.running = { id, stroke, record: this.recordOf(plan, []), planes, at, dirty: false };
    this.add(samples, at);
    return true;
  }

  private recordOf(plan: StrokePlan, samples: Sample[]): StrokeRecord {
    const { hiddenParts: hidden, hiddenFaces } = this.open.piece;
    return { ...plan, hidden, hiddenFaces, samples };
  }

  private strokeOn({ sheet: sheetId, layer: layerId, brush, seed }: StrokePlan): Stroke | null {
    const { piece, store, surfaces } = this.open;
    const sheet = piece.sheets.find((s) => s.id === sheetId);
    if (!sheet) return null;
    const layer = findLayer(sheet, layerId);
    if (layer ? !LAYERS[layer.kind].byHand || layer.lock !== 'none' : !maskOfStep(sheet, layerId)) return null;
    return new Stroke(
      {
        ...{ sheet, layerId, store, surface: surfaces?.forSheet(sheet) ?? null, seed },
        pictures: this.tips.pictures,
        picture: (id) => pictureOf(piece, id),
      },
      brush,
    );
  }

  add(samples: readonly Sample[], at: number): void {
    const { running } = this;
    if (!running) return;
    running.stroke.add(samples);
    running.record.samples.push(...samples);
    running.at = at;
    running.dirty = true;
  }

  flush(): Reached | null {
    const { running } = this;
    if (!running?.dirty) return null;
    running.dirty = false;
    return { sheetId: running.record.sheet, planes: running.planes, rects: running.stroke.flush(), at: running.at };
  }

  /** null: there was none. */
  end(): Ended | null {
    const { running } = this;
    if (!running) return null;
    const { id, record, stroke } = running;
    stroke.end();
    running.dirty = true;
    const reached = this.flush();
    this.running = null;
    return { id, record, reached, changes: stroke.changes(), stroke };
  }

  /** Takes back what the stroke has painted so far; returns what it had changed. null: there was none. */
  cancel(): TileChange[] | null {
    const { running } = this;
    if (!running) return null;
    const changes = running.stroke.changes();
    running.stroke.cancel();
    this.running = null;
    return changes;
  }

  /** Paints a recording, all at once. null: what it was painted on is not there any more, or is locked. */
  again(plan: StrokePlan, samples: Sample[]): { record: StrokeRecord; changes: TileChange[] } | null {
    const stroke = this.strokeOn(plan);
    if (!stroke) return null;
    stroke.add(samples);
    stroke.end();
    stroke.flush();
    return { record: this.recordOf(plan, samples), changes: stroke.changes() };
  }
}
