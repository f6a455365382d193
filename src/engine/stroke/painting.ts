/** Painting by hand: what strokes lead to, and what is said where they lead to nothing. */
import { BLEND_LABELS } from '../../core/colour/blend';
import { reachOfBlend } from '../../core/colour/unblend';
import { describeEdit, type Edit } from '../../core/document/edits';
import { pictureOf } from '../../core/document/schema';
import { RECORDING_LIMITS, type Brush } from '../../core/hand/brush';
import type { Sample } from '../../core/hand/sample';
import type { Stroke } from '../../core/hand/stroke';
import type { ChangeRecord, Intent } from '../../core/keeping/entry';
import type { StrokeRecord } from '../../core/keeping/operation';
import { mapInfo } from '../../core/kinds/maps';
import type { TileChange } from '../../core/tile/tiles';
import type { Changes } from '../changes/changes';
import type { Event, Request } from '../protocol';
import type { Show } from '../show/show';
import type { OpenPiece } from '../state';
import type { Strokes } from './strokes';
import type { Tips } from './tips';

/** What becomes of strokes that lead to nothing. */
export interface StrokeKeeping {
  /** It was asked for and changed nothing. */
  nothing(id: string): void;
  setAside(change: ChangeRecord, why: string): Promise<void>;
}

export class Painting {
  constructor(
    private open: OpenPiece,
    private strokes: Strokes,
    private tips: Tips,
    private changes: Changes,
    private show: Show,
    private keeping: StrokeKeeping,
    private post: (event: Event) => void,
  ) {}

  async begin(request: Extract<Request, { type: 'stroke-begin' }>): Promise<void> {
    this.finish();
    await this.fetchTips(request.brush);
    if (this.strokes.begin(request)) this.show.schedule();
    else this.keeping.nothing(request.id);
  }

  add(samples: readonly Sample[], at: number): void {
    this.strokes.add(samples, at);
    this.show.schedule();
  }

  /** Fetches the pictures of a brush's tip, before it paints. */
  private async fetchTips(brush: Brush): Promise<void> {
    const missing = this.tips.missing(brush);
    if (missing.length > 0 && !(await this.tips.fetch(missing)))
      this.say('The picture of this brush’s tip is lost on the server: it is painted with a round one.');
  }

  /** Ends the stroke under the pen, if there is one. */
  finish(): void {
    const ended = this.strokes.end();
    if (!ended) return;
    if (ended.reached) this.show.painted(ended.reached);
    this.show.schedule();
    const { id, record, changes, stroke } = ended;
    if (stroke.fencedOut) this.say(this.whyNothing(record));
    if (stroke.unreached) this.say(this.whyNotReached(record, stroke.unreached));
    this.done(id, record, changes);
    if (changes.length > 0) this.post({ type: 'trail', trail: this.open.history.state });
  }

  cancel(): void {
    const changes = this.strokes.cancel();
    if (!changes) return;
    this.show.changed(changes);
    this.changes.redraw();
  }

  /** The engine failed over the stroke under the pen: it is set aside. false: there is none. */
  failed(why: string): boolean {
    const { now } = this.strokes;
    if (!now) return false;
    this.cancel();
    void this.keeping.setAside(this.changeOf(now.id, now.record, 'A stroke'), why);
    return true;
  }

  /** Paints a recorded stroke upon what is there now. Returns why that cannot be; null: done. */
  async again({ id, samples }: ChangeRecord, intent: Extract<Intent, { type: 'stroke' }>): Promise<string | null> {
    const { sheetId: sheet, layerId: layer, brush, seed } = intent;
    await this.fetchTips(brush);
    const painted = this.strokes.again({ sheet, layer, brush, seed }, samples);
    if (!painted) return 'The layer that it was painted on is not there any more, or is locked.';
    this.show.changed(painted.changes);
    this.done(id, painted.record, painted.changes);
    return null;
  }

  private done(id: string, record: StrokeRecord, changes: TileChange[]): void {
    if (changes.length === 0) return this.keeping.nothing(id);
    const edit: Edit = { type: 'paint', sheetId: record.sheet, layerId: record.layer };
    const recorded = record.samples.length > 0 && record.samples.length <= RECORDING_LIMITS.maxSamples;
    const change = this.changeOf(id, record, describeEdit(edit, this.open.piece));
    this.changes.commitStroke(change, edit, changes, recorded ? record : null);
  }

  private changeOf(id: string, { sheet: sheetId, layer: layerId, brush, seed, samples }: StrokeRecord, label: string) {
    return this.changes.record(id, { type: 'stroke', sheetId, layerId, brush, seed }, label, samples);
  }

  private say(message: string): void {
    this.post({ type: 'notice', message });
  }

  /** What limits the stroke left nothing of it. */
  private whyNothing({ brush: { fence, stencil } }: StrokeRecord): string {
    if (stencil && typeof stencil.of === 'string' && !pictureOf(this.open.piece, stencil.of))
      return 'The stencil’s picture is gone: choose another stencil, or switch it off.';
    if (stencil) return 'The stencil lets nothing through there: move it, or switch it off.';
    if (fence) return 'The fence lets nothing through there: paint where there is no hatch, or switch the fence off.';
    return 'What lies there is hidden: show it to paint on it.';
  }

  /** What was meant cannot be shown through the layer. */
  private whyNotReached({ sheet, layer }: StrokeRecord, { map, blend }: NonNullable<Stroke['unreached']>): string {
    const found = this.open.piece.sheets.find((s) => s.id === sheet)?.layers.find((l) => l.id === layer);
    const name = found?.name ?? 'The layer';
    const { label } = mapInfo(map);
    if (blend === 'normal' || blend === 'through')
      return `“${name}” is too faint for this on ${label}: raise its opacity, or paint on another layer.`;
    return `“${name}” joins by ${BLEND_LABELS[blend]} on ${label}, which ${reachOfBlend(blend)}: it is as near as that gets. A layer in Normal does all of it.`;
  }
}
