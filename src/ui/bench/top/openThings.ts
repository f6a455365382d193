/** What may be open on the bench beside a layer. */
import type { Grey } from '@/core/kinds/grey';
import type { MapId } from '@/core/kinds/maps';

/** Whose placement is moved by the handles in the panes. */
export type HandleOwner = { kind: 'layer'; layerId: string } | { kind: 'step'; maskId: string; stepId: string };

export interface SetRow {
  file: File;
  /** null: left out. */
  map: MapId | null;
  take: Grey;
}

/** A choice of files that waits for the artist's yes. */
export interface PictureSet {
  /** The coat that takes them; null: a new one. */
  layerId: string | null;
  rows: SetRow[];
  /** Once, on the surface in the middle of the view; else all over. */
  decal: boolean;
}
