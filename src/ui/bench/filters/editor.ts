import type { MapId } from '@/core/kinds/maps';
import type { Filter } from '@/core/kinds/filters';

/** What every editor of an adjustment is given. `onPreview` follows a drag, `onCommit` comes at its end. */
export interface EditorProps<F extends Filter = Filter> {
  filter: F;
  onPreview: (filter: Filter) => void;
  onCommit: (filter: Filter) => void;
  /** Where the figures come from: an adjust layer and the map that is looked at; none for an echo's steps. */
  histogram?: { layerId: string; map: MapId };
}
