'use client';
/** The registry of editors: one line an adjustment. `onPreview` follows a drag, `onCommit` comes at its end. */
import type { ComponentType } from 'react';
import type { MapId } from '@/core/document/maps';
import type { Filter, FilterType } from '@/core/strata/filters';
import { CurveEditor } from './CurveEditor';
import { LevelsEditor } from './LevelsEditor';
import { GreyEditor, RimEditor, SlopeEditor } from './choices';
import { BlurEditor, ColouriseEditor, ContrastEditor, DesaturateEditor, HueEditor, NumberEditor } from './numbers';
import { RampEditor } from './RampEditor';

export interface EditorProps<F extends Filter = Filter> {
  filter: F;
  onPreview: (filter: Filter) => void;
  onCommit: (filter: Filter) => void;
  /** Where the figures come from: an adjust layer and the map that is looked at; none for an echo's steps. */
  histogram?: { layerId: string; map: MapId };
}

const EDITORS: { [K in FilterType]: ComponentType<EditorProps<never>> | null } = {
  levels: LevelsEditor,
  curve: CurveEditor,
  contrast: ContrastEditor,
  hue: HueEditor,
  colourise: ColouriseEditor,
  desaturate: DesaturateEditor,
  ramp: RampEditor,
  invert: null,
  blur: BlurEditor,
  grey: GreyEditor,
  rim: RimEditor,
  slope: SlopeEditor,
  posterise: NumberEditor,
  threshold: NumberEditor,
  band: NumberEditor,
  albedo: NumberEditor,
  smear: NumberEditor,
  sharpen: NumberEditor,
  median: NumberEditor,
  warp: NumberEditor,
  grow: NumberEditor,
  shift: NumberEditor,
};

export function FilterEditor(props: EditorProps) {
  const Editor = EDITORS[props.filter.type] as ComponentType<EditorProps> | null;
  return Editor ? <Editor {...props} /> : null;
}
