/** A reader process, started by the server (server/readers/pool.ts): carries out one task after another. */
import { serveTasks } from '../src/server/readers/child';
import { TASKS } from '../src/server/readers/tasks';

serveTasks(TASKS);
