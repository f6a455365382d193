import type { Made } from '@/core/kinds/sources';
import type { HandleOwner } from '../top/openThings';

export interface SourceEditorProps<M extends Made = Made> {
  made: M;
  owner: HandleOwner;
  onPreview: (made: Made) => void;
  onCommit: (made: Made, label: string) => void;
}
