/** Where rendered tiles come from. Which sources serve when, and in which order, says phase.ts. */
import type { PixelPatch } from '../../protocol';
import type { Phase } from '../phase';

/** A slice of work between two messages. */
export interface Slice {
  /** The time of the slice is up. */
  until: () => boolean;
  phase: Phase;
  /** A stroke is being painted. */
  stroking: boolean;
}

export interface Source {
  /** Takes jobs that it can serve off the queue until the slice is over; returns what there is to show. */
  work(slice: Slice): PixelPatch[];
}
