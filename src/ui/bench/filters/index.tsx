'use client';
/** The registry of editors: one line an adjustment. */
import type { ComponentType } from 'react';
import type { FilterType } from '@/core/kinds/filters';
import type { EditorProps } from './editor';
import { CurveEditor } from './CurveEditor';
import { LevelsEditor } from './LevelsEditor';
import { GreyEditor, RimEditor, SlopeEditor } from './choices';
import { BlurEditor, ColouriseEditor, ContrastEditor, DesaturateEditor, HueEditor, NumberEditor } from './numbers';
import { RampEditor } from './RampEditor';

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
