/** What new sources and placements begin with on the piece that is open. */
import { boundsOf, sizeOf } from '@/core/mesh/model';
import { placementFor, type Placement, type PlacementKind } from '@/core/kinds/placement';
import { findPicture } from '@/core/document/schema';
import { SOURCES, type Made, type SourceType } from '@/core/kinds/sources';
import { SOURCE_GROUPS } from '@/core/kinds/sources/source';
import { currentSheet, useBench } from '../store';
import { holder } from '../panes/viewportHolder';

const boxes = new WeakMap<object, { min: number[]; max: number[] }>();

/** The box of the model; null on a canvas. */
export function modelBox(): { min: number[]; max: number[] } | null {
  const { geometry } = useBench.getState();
  if (!geometry) return null;
  let box = boxes.get(geometry);
  if (!box) boxes.set(geometry, (box = boundsOf(geometry.positions)));
  return box;
}

export function newPlacement(by: PlacementKind, over: Partial<Placement> = {}): Placement {
  return placementFor(by, modelBox(), over);
}

/** What a rule begins with on the piece that is open. */
export function startOf(type: SourceType): Made {
  const { start, startOn } = SOURCES[type];
  const box = modelBox();
  return (box && startOn?.(box)) ?? start;
}

/** How a new rule, or a picture, lies on the model: noise in space, so that it has no seams, the others from three sides. null: over the sheet. */
export function startPlacement(of: SourceType | 'picture'): Placement | null {
  const box = modelBox();
  const by = of === 'picture' ? 'box' : SOURCE_GROUPS[SOURCES[of].group].onModel;
  if (!box || by === null) return null;
  return newPlacement(by, by === 'box' ? { size: sizeOf(box) / 2 } : {});
}

/** Width by height of a picture of the sheet. */
export function aspectOf(id: string): number {
  const picture = findPicture(currentSheet(), id);
  return picture ? picture.width / picture.height : 1;
}

/** A decal of such a width by height on the surface in the middle of the view, a quarter as large as the model, seen upright. */
export function decalPlacement(aspect: number): Placement {
  const box = modelBox()!;
  const size = sizeOf(box) / 4 / Math.max(1, aspect);
  const hit = holder.viewport?.middleHit();
  const lies = hit && { centre: [...hit.point] as Placement['centre'], axis: [...hit.normal] as Placement['axis'] };
  return newPlacement('decal', { size, depth: size / 4, aspect, ...lies });
}

/** Model units that one repeat over the sheet spans; null on a canvas. */
export function repeatSize(repeats: number): number | null {
  const sheet = currentSheet();
  const perMetre = useBench.getState().geometry?.texelsPerMetre[sheet.id];
  return perMetre ? sheet.width / perMetre / repeats : null;
}
