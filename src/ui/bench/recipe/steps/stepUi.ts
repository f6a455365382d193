/** How a kind of step is added to a mask and set: a file beside its like, a line in `index.tsx`. */
import type { ReactNode } from 'react';
import type { Edit } from '@/core/document/edits';
import type { Layer, Mask, Sheet, Step } from '@/core/document/schema';
import { STEPS, type StepSource, type StepType } from '@/core/kinds/steps';
import type { Owned } from '../../handles/owned';
import { useBench } from '../../store';

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
  /** What stands above the controls that the kind's definition names; left out: nothing. */
  Above?: (props: StepEditorProps<S>) => ReactNode;
  /** Whether those controls mean anything on this sheet; left out: always. */
  settable?: (sheet: Sheet) => boolean;
  /** None where it cannot be. */
  entries: (adding: Adding) => Entry[];
  /** Handles in the view; left out, or null: none. */
  handles?: (source: S, put: (next: S) => Edit) => Owned | null;
}

/** An entry for each preset of a kind; none on a canvas where it needs a model. */
export const presetEntries =
  (type: StepType, group: Entry['group'] = 'shape') =>
  ({ add, onModel }: Adding): Entry[] => {
    const { presets = [], needsModel } = STEPS[type];
    if (needsModel && !onModel) return [];
    return presets.map(({ label, hint, settings, added }) => ({ label, hint, group, onSelect: () => add(settings, added) }));
  };

/** The step that was just added takes the next click. */
export const pickNext = (): void => useBench.setState({ picking: useBench.getState().openStep });
