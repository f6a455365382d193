/** What has handles in the view. */
import type { Edit } from '@/core/document/edits';
import type { Placement } from '@/core/kinds/placement';
import type { Made } from '@/core/kinds/sources';
import type { SourceHandle } from '@/core/kinds/sources/source';

/** One point: of a source's own, or `centre`, `axis`, `size` of a placement. */
export type Handle = SourceHandle;

export interface Owned {
  /** The handles that mean something here; left out: all. The first is where lines begin, all the same. */
  only?: readonly Handle['id'][];
  /** Its middle lies on the surface, and turns with it. */
  sticks?: boolean;
  made: Made | null;
  placement: Placement | null;
  change: (next: { made?: Made; placement?: Placement }) => Edit;
}

/** Of a record that lies by a placement: what is not changed stays. */
export const placed = (
  made: Made | null,
  { placement: now }: { placement: Placement | null },
  change: (next: { made?: Made; placement: Placement | null }) => Edit,
): Owned => ({
  made,
  placement: now,
  sticks: now?.by === 'decal',
  change: ({ made: next, placement = now ?? undefined }) => change({ made: next, placement: placement ?? null }),
});
