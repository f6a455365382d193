/** ./brindle dev: as start, rebuilt as the sources change. */
import { serve } from './start';

export const run = () => serve('dev');
