/** Entry point of the child process that runs readers on damaged files. */
import { serveBatches } from './reader';
import { TARGETS } from './targets';

serveBatches(TARGETS);
