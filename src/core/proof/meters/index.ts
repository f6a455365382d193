/** The registry of meters: one line each, in the order in which they are reported. */
import { emptyTexels } from './emptyTexels';
import type { Meter } from './meter';

export const METERS: readonly Meter[] = [emptyTexels];
