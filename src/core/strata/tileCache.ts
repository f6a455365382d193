/** Evaluated tiles by signature, the least recently used let go first. A signature never gets stale, so nothing is ever invalidated. */
import type { Signature } from './signature';

/**
 * One evaluated tile. `uniform`: the same for all texels, values then alpha. `data`: planes of 128 × 128 float32,
 * the map's values, then alpha, which is left out where it is 1 all over because the map has a ground.
 */
export type TileValue = { uniform: readonly number[]; data: null } | { uniform: null; data: Float32Array };

/** 160 MiB: six hundred colour tiles, the state under a layer of 2048²; or some five columns of a band with twenty layers. */
export const CACHE_BYTES = 160 * 1024 * 1024;
const UNIFORM_BYTES = 128;

export class TileCache {
  private entries = new Map<Signature, TileValue>();
  private held = 0;

  constructor(readonly budgetBytes = CACHE_BYTES) {}

  get bytes(): number {
    return this.held;
  }

  get(signature: Signature): TileValue | null {
    const value = this.entries.get(signature);
    if (!value) return null;
    this.entries.delete(signature);
    this.entries.set(signature, value);
    return value;
  }

  set(signature: Signature, value: TileValue): void {
    if (this.entries.has(signature)) return;
    this.entries.set(signature, value);
    this.held += sizeOf(value);
    for (const [key, old] of this.entries) {
      if (this.held <= this.budgetBytes || key === signature) break;
      this.entries.delete(key);
      this.held -= sizeOf(old);
    }
  }
}

const sizeOf = (value: TileValue) => value.data?.byteLength ?? UNIFORM_BYTES;
