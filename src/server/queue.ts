/** The queue of jobs on PostgreSQL (graphile-worker). */
import { Logger } from 'graphile-worker';

/** It tells of every job; what matters is said elsewhere. */
export const SILENT = new Logger(() => () => undefined);
