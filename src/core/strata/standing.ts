/** How a layer stands in its stack: what lies below it in each scope that it is in, and how each joins on that. */
import type { BlendId } from '../colour/blend';
import type { MaskUse, Scope } from './scope';

export interface Standing {
  /** `through`: a group that passes through, whose result is mixed with what was there before it. */
  blend: BlendId | 'through';
  /** 0 … 1, without the mask. */
  opacity: number;
  mask: MaskUse | null;
  /** What lies below, in the scope that it joins on. Not held to 0 … 1. */
  below: Scope;
}
