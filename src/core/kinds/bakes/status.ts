/** How far a bake is on the server, and who bakes there: what the server tells its pages. */
export type BakeState = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';

export interface BakeStatus {
  key: string;
  label: string;
  pieceId: string;
  state: BakeState;
  done: number;
  tiles: number;
  message: string | null;
  /** Seconds that it has been under way; null: not yet. */
  seconds: number | null;
}

export interface WorkerCard {
  id: string;
  host: string;
  cores: number;
  alive: boolean;
}

/** Seconds until one that runs is done, by how it went until now; null: it cannot be told yet. */
export const secondsLeft = ({ state, done, tiles, seconds }: BakeStatus): number | null =>
  state === 'running' && done > 1 && seconds !== null ? Math.ceil((seconds / done) * (tiles - done)) : null;
