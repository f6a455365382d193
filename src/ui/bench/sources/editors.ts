/** Sources whose editor is more than the controls of their definition: one line each. */
import type { ReactNode } from 'react';
import type { SourceType } from '@/core/kinds/sources';
import type { SourceEditorProps } from './editorProps';
import { GradientEditor } from './GradientEditor';

const editors = { gradient: GradientEditor };

export const SOURCE_EDITORS = editors as unknown as { [T in SourceType]?: (props: SourceEditorProps) => ReactNode };
