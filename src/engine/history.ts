/**
 * The trail in memory. Steps from before a reload are known by label only and fetched when they are needed;
 * pixels of old states are dropped when they pass the budget, since the server has them by hash.
 */
import { editSchema, type Edit } from '../core/document/edits';
import type { TileChange, TileStore, TileVersion } from '../core/raster/tiles';
import type { Remote } from './remote';
import { decodeTile } from './tileCodec';
import type { TrailState } from './protocol';

interface Step {
  label: string;
  /** null: still on the server only. */
  body: { edit: Edit; changes: TileChange[] } | null;
}

/** Pixels kept for undo beside those on show: some 2,000 tiles of base colour. */
export const HISTORY_BUDGET_BYTES = 384 * 1024 * 1024;

export class History {
  private steps: Step[];
  private position: number;
  private versions = new Map<string, TileVersion>();

  constructor(
    private pieceId: string,
    labels: readonly string[],
    position: number,
    private remote: Remote,
    private store: TileStore,
    private budgetBytes = HISTORY_BUDGET_BYTES,
  ) {
    this.steps = labels.map((label) => ({ label, body: null }));
    this.position = position;
  }

  get state(): TrailState {
    return { labels: this.steps.map((s) => s.label), position: this.position };
  }

  push(label: string, edit: Edit, changes: TileChange[]): void {
    this.steps.length = this.position;
    this.steps.push({ label, body: { edit, changes } });
    this.position++;
    this.trim();
  }

  canUndo(): boolean {
    return this.position > 0;
  }

  canRedo(): boolean {
    return this.position < this.steps.length;
  }

  /** The step to undo or redo, with all its pixels in memory. Moves nothing yet. */
  async load(direction: 'undo' | 'redo'): Promise<{ edit: Edit; changes: TileChange[] }> {
    const index = direction === 'undo' ? this.position - 1 : this.position;
    const step = this.steps[index];
    if (!step.body) {
      const { edit, tiles } = await this.remote.trailEntry(this.pieceId, index + 1);
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
    await this.fetchPixels(step.body.changes.map((c) => (direction === 'undo' ? c.before : c.after)));
    return step.body;
  }

  moved(direction: 'undo' | 'redo'): void {
    this.position += direction === 'undo' ? -1 : 1;
  }

  private version(hash: string | null): TileVersion | null {
    if (hash === null) return null;
    let version = this.versions.get(hash);
    if (!version) this.versions.set(hash, (version = { data: null, hash }));
    return version;
  }

  private async fetchPixels(versions: (TileVersion | null)[]): Promise<void> {
    const missing = versions.filter((v): v is TileVersion => v !== null && v.data === null);
    const found = await this.remote.blobs([...new Set(missing.map((v) => v.hash!))]);
    for (const version of missing) {
      const blob = found.get(version.hash!);
      if (!blob) throw new Error('Some tiles of that step are not in the house any more');
      version.data ??= await decodeTile(blob);
    }
  }

  /** Drops pixels of the oldest states beyond the budget. A state without a hash is not kept yet: it stays. */
  private trim(): void {
    let bytes = 0;
    // A duplicated layer shares its states with the original: what is on show anywhere stays.
    let current: Set<TileVersion> | null = null;
    for (let i = this.steps.length - 1; i >= 0; i--) {
      for (const c of this.steps[i].body?.changes ?? []) {
        for (const v of [c.before, c.after]) {
          if (!v?.data || v === this.store.get(c.plane, c.tile)) continue;
          bytes += v.data.byteLength;
          if (bytes <= this.budgetBytes || !v.hash) continue;
          current ??= new Set(this.store.planeKeys().flatMap((plane) => [...this.store.tilesOf(plane).values()]));
          if (!current.has(v)) v.data = null;
        }
      }
    }
  }
}
