/** All readers of files from outside. */
import { DOCUMENTS } from './documents';
import { MODELS } from './models';
import { PICTURES } from './pictures';
import type { Target } from './target';

export const TARGETS: readonly Target[] = [...MODELS, ...PICTURES, ...DOCUMENTS];
