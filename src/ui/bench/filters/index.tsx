'use client';
/** The editor of an adjustment: what its definition says of its settings, or one of its own, a line each. */
import type { ComponentType } from 'react';
import { FILTERS, type FilterType } from '@/core/kinds/filters';
import { Controls } from '../Controls';
import { CurveEditor } from './CurveEditor';
import type { EditorProps } from './editor';
import { LevelsEditor } from './LevelsEditor';
import { RampEditor } from './RampEditor';

const EDITORS: { [K in FilterType]?: ComponentType<EditorProps<never>> } = {
  levels: LevelsEditor,
  curve: CurveEditor,
  ramp: RampEditor,
};

export function FilterEditor(props: EditorProps) {
  const { filter, onPreview, onCommit } = props;
  const Own = EDITORS[filter.type] as ComponentType<EditorProps> | undefined;
  if (Own) return <Own {...props} />;
  const { controls, start } = FILTERS[filter.type];
  return <Controls controls={controls} settings={filter} start={start} onPreview={onPreview} onCommit={onCommit} />;
}
