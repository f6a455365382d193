/** The stroke that is under the pen, and strokes that are done over from their recordings. */
import { LAYERS } from '../core/kinds/layers';
import type { PlaneMap } from '../core/kinds/maps';
import { Stroke } from '../core/hand/stroke';
import type { Sample } from '../core/hand/sample';
import { planeKey } from '../core/document/planes';
import { findLayer, maskOfStep, pictureOf, type Piece } from '../core/document/schema';
import type { StrokeRecord } from '../core/keeping/operation';
import type { PieceSurfaces } from '../core/strata/pieceSurfaces';
import type { TileChange, TileStore } from '../core/tile/tiles';
import type { Drawing } from './drawing';
import type { Request } from './protocol';
import type { Tips } from './tips';

/** The engine, as strokes need it. */
export interface Painted {
  readonly piece: Piece;
  readonly store: TileStore;
  readonly surfaces: PieceSurfaces | null;
  readonly drawing: Drawing;
  readonly tips: Tips;
  /** A stroke is finished; without changes it came to nothing. */
  strokeDone(id: string, record: StrokeRecord, changes: TileChange[]): void;
  /** What limits the stroke left nothing of it. */
  fencedOut(record: StrokeRecord): void;
  /** What was meant could not be shown. */
  unreached(record: StrokeRecord, where: NonNullable<Stroke['unreached']>): void;
}

interface Running {
  run: Stroke;
  id: string;
  record: StrokeRecord;
  keys: string[];
  at: number;
  dirty: boolean;
}

export class Strokes {
  private running: Running | null = null;

  constructor(private engine: Painted) {}

  /** The stroke that is under the pen, as it is recorded. */
  get now(): { id: string; record: StrokeRecord } | null {
    return this.running;
  }

  /** false: what it would paint on is not there, or not to be painted on. */
  begin({ id, sheetId, layerId, brush, seed, samples, at }: Extract<Request, { type: 'stroke-begin' }>): boolean {
    const run = this.strokeOn(sheetId, layerId, brush, seed);
    if (!run) return false;
    const maps = (Object.keys(brush.writes) as PlaneMap[]).filter((m) => brush.writes[m]!.on);
    const keys = maps.map((m) => planeKey(layerId, m));
    this.running = { run, id, record: this.recordOf(sheetId, layerId, seed, brush, []), keys, at, dirty: false };
    this.add(samples, at);
    return true;
  }

  private recordOf(sheet: string, layer: string, seed: number, brush: StrokeRecord['brush'], samples: Sample[]): StrokeRecord {
    const { hiddenParts: hidden, hiddenFaces } = this.engine.piece;
    return { sheet, layer, seed, hidden, hiddenFaces, brush, samples };
  }

  private strokeOn(sheetId: string, layerId: string, brush: StrokeRecord['brush'], seed: number): Stroke | null {
    const { piece, store, surfaces, tips } = this.engine;
    const sheet = piece.sheets.find((s) => s.id === sheetId);
    if (!sheet) return null;
    const layer = findLayer(sheet, layerId);
    if (layer ? !LAYERS[layer.kind].byHand || layer.lock !== 'none' : !maskOfStep(sheet, layerId)) return null;
    return new Stroke(
      {
        ...{ sheet, layerId, store, surface: surfaces?.forSheet(sheet) ?? null, seed },
        pictures: tips.pictures,
        picture: (id) => pictureOf(piece, id),
      },
      brush,
    );
  }

  add(samples: Sample[], at: number): void {
    const { running } = this;
    if (!running) return;
    running.run.add(samples);
    running.record.samples.push(...samples);
    running.at = at;
    running.dirty = true;
    this.engine.drawing.pump();
  }

  /** Lays what the dabs have reached onto the tiles and marks it for drawing. Says whether a stroke is under the pen. */
  flush(): boolean {
    const { running } = this;
    if (!running?.dirty) return running !== null;
    running.dirty = false;
    this.engine.drawing.painted(running.record.sheet, running.keys, running.run.flush(), running.at);
    return true;
  }

  /** Says whether it left anything. */
  finish(): boolean {
    const { running } = this;
    if (!running) return false;
    running.run.end();
    running.dirty = true;
    this.flush();
    this.running = null;
    this.engine.drawing.pump();
    if (running.run.fencedOut) this.engine.fencedOut(running.record);
    const { unreached } = running.run;
    if (unreached) this.engine.unreached(running.record, unreached);
    const changes = running.run.changes();
    this.engine.strokeDone(running.id, running.record, changes);
    return changes.length > 0;
  }

  /** false: there was none. */
  cancel(): boolean {
    const { running } = this;
    if (!running) return false;
    const changes = running.run.changes();
    running.run.cancel();
    this.running = null;
    this.engine.drawing.changed(changes);
    return true;
  }

  /** From a recording, all at once. Says why it cannot be. */
  again(
    id: string,
    of: { sheetId: string; layerId: string; brush: StrokeRecord['brush']; seed: number },
    samples: Sample[],
  ): string | null {
    const run = this.strokeOn(of.sheetId, of.layerId, of.brush, of.seed);
    if (!run) return 'The layer that it was painted on is not there any more, or is locked.';
    run.add(samples);
    run.end();
    run.flush();
    const changes = run.changes();
    this.engine.drawing.changed(changes);
    this.engine.strokeDone(id, this.recordOf(of.sheetId, of.layerId, of.seed, of.brush, samples), changes);
    return null;
  }
}
