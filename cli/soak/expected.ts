/**
 * What must be there after a kill, worked out from what was done alone: the steps of the history and where it stands. Nothing of it is
 * read from the journal or the database.
 */

/** An action that makes a step. */
export interface Step {
  kind: 'stroke' | 'area' | 'edit';
  /** As the history calls it; null: nobody looked. */
  label: string | null;
  /** How many layers more there are by it. */
  layers: number;
  /** Of a stroke: the length of its way across, in screen pixels, and the share of it that must be there. */
  way?: number;
  atLeast?: number;
}

/** What an action does to the history. */
export type Action = { type: 'step'; step: Step } | { type: 'undo' } | { type: 'redo' };

/** A history: steps, and how many of them are applied. */
export interface History {
  steps: readonly Step[];
  position: number;
}

export const NOTHING: History = { steps: [], position: 0 };

export function after({ steps, position }: History, action: Action): History {
  if (action.type === 'undo') return { steps, position: Math.max(0, position - 1) };
  if (action.type === 'redo') return { steps, position: Math.min(steps.length, position + 1) };
  return { steps: [...steps.slice(0, position), action.step], position: position + 1 };
}

/** What the database has. */
export interface Found {
  /** Of all steps, applied or not. */
  labels: readonly string[];
  position: number;
  layers: number;
  /** Horizontal extent of each applied stroke in screen pixels, in history order. */
  ways: readonly number[];
}

export type Difference = 'lost' | 'doubled' | 'other' | 'cut short';

/** Screen pixels by which a way may be shorter: places are read where the pointer was last. */
const SLACK = 3;

/** null: it is as it must be. `layers`: how many there were at first. */
export function difference(expected: History, found: Found, layers: number): Difference | null {
  const applied = expected.steps.slice(0, expected.position);
  if (found.labels.length < expected.steps.length || found.position < expected.position) return 'lost';
  if (found.labels.length > expected.steps.length || found.position > expected.position) return 'doubled';
  if (expected.steps.some(({ label }, n) => label !== null && label !== found.labels[n])) return 'other';
  if (found.layers !== layers + applied.reduce((sum, step) => sum + step.layers, 0)) return 'other';
  // Areas are recorded as strokes are.
  const strokes = applied.filter(({ kind }) => kind !== 'edit');
  if (found.ways.length < strokes.length) return 'lost';
  if (found.ways.length > strokes.length) return 'doubled';
  const short = strokes.some(({ way = 0, atLeast = 1 }, n) => found.ways[n] < way * atLeast - SLACK);
  return short ? 'cut short' : null;
}

/** null: one of the histories is found as it must be. Otherwise how the first one differs. */
export function differenceOfAny(expected: readonly History[], found: Found, layers: number): Difference | null {
  const differences = expected.map((history) => difference(history, found, layers));
  return differences.includes(null) ? null : differences[0];
}
