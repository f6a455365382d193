/** The process that reads spoilt files. */
import { serveBatches } from './reader';
import { TARGETS } from './targets';

serveBatches(TARGETS);
