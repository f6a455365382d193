/** What steps share that a noise breaks up. */
import { z } from 'zod';
import { number, percent, type Control } from '../control';
import { unit } from '../fields';
import type { Breakup, Build } from './step';

export const EVEN: Breakup = { contrast: 0.5, breakup: 0.5, grain: 0.03, seed: 1 };

/** How much of the noise, how large its grain is (a share of the model's size), which noise. */
export const brokenFields = {
  contrast: unit.default(EVEN.contrast),
  breakup: unit.default(EVEN.breakup),
  grain: z.number().min(0.001).max(1).default(EVEN.grain),
  seed: z.number().int().min(0).max(9999).default(EVEN.seed),
};

export const BROKEN_CONTROLS: readonly Control[] = [
  percent('contrast', 'Contrast'),
  percent('breakup', 'Breakup'),
  { ...percent('grain', 'Grain', 0.001, 0.5), digits: 1, fine: true },
  number('seed', 'Seed', 0, 9999),
];

export const broken = <Node, Scope>(p: Breakup, build: Build<Node, Scope>, node: Node): Node =>
  build.broken(node, { contrast: p.contrast, breakup: p.breakup, grain: p.grain, seed: p.seed });
