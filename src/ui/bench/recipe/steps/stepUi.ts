/** How a kind of step is added to a mask and set: a file beside its like, a line in `index.tsx`. */
import type { ReactNode } from 'react';
import type { Layer, Mask, Sheet, Step } from '@/core/document/schema';
import type { StepSource } from '@/core/kinds/steps';

export interface StepEditorProps<S extends StepSource = StepSource> {
  sheet: Sheet;
  mask: Mask;
  step: Step;
  source: S;
  /** Follows a drag. */
  show: (next: S) => void;
  set: (next: S, label: string) => void;
}

/** What the menu that adds steps knows. */
export interface Adding {
  sheet: Sheet;
  mask: Mask;
  layer: Layer | null;
  onModel: boolean;
  /** Adds it, with what the trail says. */
  add: (source: StepSource, label: string) => void;
  /** Lets the artist choose a rule first. */
  chooseRule: () => void;
}

export const GROUPS = { plain: '', shape: 'By the model’s shape', model: 'Of the model', strata: 'From the strata' } as const;

export interface Entry {
  label: string;
  hint?: string;
  group: keyof typeof GROUPS;
  /** In a menu of its own, by this name. */
  sub?: string;
  onSelect: () => void;
}

export interface StepUi<S extends StepSource = StepSource> {
  /** null: nothing to set. */
  Editor: ((props: StepEditorProps<S>) => ReactNode) | null;
  /** Left out of the menu where it cannot be. */
  entries: (adding: Adding) => Entry[];
}
