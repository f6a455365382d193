/**
 * The trail in memory. Steps from before a reload are known by label only and fetched when they are needed;
 * pixels of old states are dropped when they pass the budget, since the server has them by hash.
 */
import { editSchema, type Edit } from '../../core/document/edits';
import { KEEPING } from '../../core/keeping/protocol';
import type { TileChange, TileStore, TileVersion } from '../../core/tile/tiles';
import type { Remote } from '../remote';
import { decodeTile } from '../tiles/tileCodec';
import type { TrailState } from '../protocol';

interface TrailStep {
  /** What the server calls it. */
  name: string;
  /** Its place in the server's trail; null: not fetched from there. */
  seq: number | null;
  label: string;
  /** null: still on the server only. */
  body: { edit: Edit; changes: TileChange[] } | null;
}
export type Direction = 'undo' | 'redo';

/** Pixels kept for undo beside those on show: some 2,000 tiles of base colour. */
export const HISTORY_BUDGET_BYTES = 384 * 1024 * 1024;

export class History {
  private steps: TrailStep[];
  private position: number;
  private versions = new Map<string, TileVersion>();

  constructor(
    private pieceId: string,
    trail: readonly { seq: number; label: string; step: string }[],
    position: number,
    private remote: Remote,
    private store: TileStore,
    private budgetBytes = HISTORY_BUDGET_BYTES,
  ) {
    this.steps = trail.map(({ seq, label, step }) => ({ name: step, seq, label, body: null }));
    // The oldest steps may have been squashed: places in the server's trail start later then.
    this.position = trail.filter((t) => t.seq <= position).length;
  }

  get state(): TrailState {
    return { labels: this.steps.map((s) => s.label), position: this.position };
  }

  push(name: string, label: string, edit: Edit, changes: TileChange[]): void {
    this.steps.length = this.position;
    this.steps.push({ name, seq: null, label, body: { edit, changes } });
    if (this.steps.length > KEEPING.trailSteps) this.steps.shift();
    this.position = this.steps.length;
    this.trim();
  }

  /** Name of the step that would be undone or redone, or null. */
  next(direction: Direction): string | null {
    return this.at(direction)?.name ?? null;
  }

  /** The step with all its pixels, if they are in memory. */
  ready(direction: Direction): { edit: Edit; changes: TileChange[] } | null {
    const step = this.at(direction);
    if (!step?.body || this.wanted(step.body.changes, direction).some((v) => v.data === null)) return null;
    return step.body;
  }

  /** Brings the step and its pixels into memory. Moves nothing. */
  async fetch(direction: Direction): Promise<void> {
    const step = this.at(direction);
    if (!step) return;
    if (!step.body) {
      const { edit, tiles } = await this.remote.trailEntry(this.pieceId, step.seq!);
      step.body = {
        // An older version may have written it: new fields get their defaults.
        edit: editSchema.parse(edit) as Edit,
        changes: tiles.map(([plane, tile, before, after]) => ({
          plane,
          tile,
          before: this.version(before),
          after: this.version(after),
        })),
      };
    }
    await this.fetchPixels(this.wanted(step.body.changes, direction));
    this.trim(step);
  }

  moved(direction: Direction): void {
    this.position += direction === 'undo' ? -1 : 1;
  }

  /** All states that are held here, by hash: for those who look for pixels. */
  *held(): Generator<TileVersion> {
    for (const { body } of this.steps)
      for (const c of body?.changes ?? []) for (const v of [c.before, c.after]) if (v?.data && v.hash) yield v;
  }

  private at(direction: Direction): TrailStep | undefined {
    return this.steps[direction === 'undo' ? this.position - 1 : this.position];
  }

  private wanted(changes: readonly TileChange[], direction: Direction): TileVersion[] {
    return changes.flatMap((c) => (direction === 'undo' ? c.before : c.after) ?? []);
  }

  private version(hash: string | null): TileVersion | null {
    if (hash === null) return null;
    let version = this.versions.get(hash);
    if (!version) this.versions.set(hash, (version = { data: null, hash }));
    return version;
  }

  private async fetchPixels(versions: readonly TileVersion[]): Promise<void> {
    const missing = versions.filter((v) => v.data === null);
    const found = await this.remote.blobs([...new Set(missing.map((v) => v.hash!))]);
    for (const version of missing) {
      const blob = found.get(version.hash!);
      if (!blob) throw new Error('Some tiles of that step are not on the server any more');
      version.data ??= await decodeTile(blob);
    }
  }

  /** Drops pixels of the states farthest from now beyond the budget. A state without a hash is not kept yet: it stays. */
  private trim(spare?: TrailStep): void {
    let bytes = 0;
    // A duplicated layer shares its states with the original: what is on show anywhere stays.
    let current: Set<TileVersion> | null = null;
    const byDistance = this.steps
      .map((step, n) => ({ step, away: Math.abs(n - this.position + 0.5) }))
      .toSorted((a, b) => a.away - b.away);
    for (const { step } of byDistance) {
      for (const c of step.body?.changes ?? []) {
        for (const v of [c.before, c.after]) {
          if (!v?.data || v === this.store.get(c.plane, c.tile)) continue;
          bytes += v.data.byteLength;
          if (bytes <= this.budgetBytes || !v.hash || step === spare) continue;
          current ??= new Set(this.store.planeKeys().flatMap((plane) => [...this.store.tilesOf(plane).values()]));
          if (!current.has(v)) v.data = null;
        }
      }
    }
    // Names of states that no step holds any more are let go with them.
    if (this.versions.size > 50_000) this.versions.clear();
  }
}
