'use client';
/** The settings of a source, from what its definition says of them; some have an editor of their own. */
import { SOURCES } from '@/core/kinds/sources';
import { Controls } from '../Controls';
import type { SourceEditorProps } from './editorProps';
import { SOURCE_EDITORS } from './editors';

export function SourceEditor(props: SourceEditorProps) {
  const { made, onPreview, onCommit } = props;
  const Own = SOURCE_EDITORS[made.type];
  if (Own) return <Own {...props} />;
  const def = SOURCES[made.type];
  return (
    <Controls
      controls={def.controls}
      settings={made}
      start={def.start}
      onPreview={onPreview}
      onCommit={(next, control) => onCommit(next, `${def.label}: ${control.label.toLowerCase()}`)}
    />
  );
}
