/** What new sources and placements begin with on the piece that is open. */
import { boundsOf } from '@/core/mesh/model';
import { placementFor, type Placement, type PlacementKind } from '@/core/kinds/placement';
import { findPicture } from '@/core/document/schema';
import { SOURCES, type MadeOf } from '@/core/kinds/sources';
import { currentSheet, useBench } from '../store';
import { holder } from '../viewportHolder';

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

/** A gradient in space from the model's foot (1) to its head (0); null on a canvas. */
export function footToHead(): MadeOf<'gradient'> | null {
  const box = modelBox();
  if (!box) return null;
  const middle = box.min.map((v, k) => (v + box.max[k]) / 2);
  return {
    ...(SOURCES.gradient.start as MadeOf<'gradient'>),
    space: 'model',
    from: [middle[0], box.min[1], middle[2]],
    to: [middle[0], box.max[1], middle[2]],
  };
}

/** On a model noise lies in space, so that it has no seams; patterns and pictures from three sides. On a canvas: over it. */
export function startPlacement(group: 'noise' | 'pattern' | 'gradient' | 'picture'): Placement | null {
  if (!modelBox() || group === 'gradient') return null;
  if (group === 'noise') return newPlacement('solid');
  const box = modelBox()!;
  const side = Math.max(...box.min.map((v, k) => box.max[k] - v));
  return newPlacement('box', { size: side / 2 });
}

/** Width by height of a picture of the sheet. */
export function aspectOf(id: string): number {
  const picture = findPicture(currentSheet(), id);
  return picture ? picture.width / picture.height : 1;
}

/** A decal of such a width by height on the surface in the middle of the view, a quarter as large as the model, seen upright. */
export function decalPlacement(aspect: number): Placement {
  const box = modelBox()!;
  const size = Math.max(...box.min.map((v, k) => box.max[k] - v)) / 4 / Math.max(1, aspect);
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
