/** In which order what is due is rendered: what a stroke has reached, what the flat pane shows, the sheet in focus, the rest. */
import type { Sheet } from '../../core/document/schema';
import type { PlaneId } from '../../core/kinds/shown';
import type { TileIndex } from '../../core/tile/tiles';
import { WHOLE, type Area, type PlaneDisplay, type WholeDue } from './plane';
import type { Planes } from './planes';
import { within } from './tilePictures';

/** A tile of a plane that is due. */
export interface Job {
  sheet: Sheet;
  id: PlaneId;
  plane: PlaneDisplay;
  tile: TileIndex;
  area: Readonly<Area>;
  why: 'stroke' | WholeDue;
}

/** Takes a job off the queue. */
export function taken({ plane, tile }: Job): void {
  plane.stroke.delete(tile);
  plane.whole.delete(tile);
}

/** What strokes have reached. */
export function* strokeJobs(planes: Planes): Generator<Job> {
  for (const sheet of planes.inOrder)
    for (const [id, plane] of planes.of(sheet.id)?.planes ?? [])
      for (const [tile, area] of plane.stroke) yield { sheet, id, plane, tile, area, why: 'stroke' };
}

/** Whole tiles, those that the flat pane shows first. */
export function* wholeJobs(planes: Planes): Generator<Job> {
  const near = planes.visible;
  const [first] = planes.inOrder;
  if (near && first?.id === planes.focus) for (const job of jobsOf(planes, first)) if (within(job.tile, near)) yield job;
  for (const sheet of planes.inOrder) yield* jobsOf(planes, sheet);
}

/** From the other end: two that render towards each other have few neighbours in common. */
export function* wholeJobsFromEnd(planes: Planes): Generator<Job> {
  for (const sheet of planes.inOrder) yield* [...jobsOf(planes, sheet)].reverse();
}

/** Tile by tile, all planes of one after another: sources and masks that several planes share are still at hand for the next. */
function* jobsOf(planes: Planes, sheet: Sheet): Generator<Job> {
  const all = [...(planes.of(sheet.id)?.planes ?? [])];
  for (const tile of new Set(all.flatMap(([, plane]) => [...plane.whole.keys()])))
    for (const [id, plane] of all) {
      const why = plane.whole.get(tile);
      if (why) yield { sheet, id, plane, tile, area: WHOLE, why };
    }
}

/** How many whole tiles are due. `seen`: only those that the flat pane shows. */
export function wholePending(planes: Planes, seen: boolean): number {
  let n = 0;
  for (const sheet of planes.inOrder)
    if (!seen || sheet.id === planes.focus)
      for (const { whole } of planes.of(sheet.id)?.planes.values() ?? [])
        for (const tile of whole.keys()) if (!seen || !planes.visible || within(tile, planes.visible)) n++;
  return n;
}
