/** Masks are filled and cleared; pictures come to a sheet. */
import { STEPS } from '../../kinds/steps';
import type { Bitmap } from '../../tile/bitmap';
import { fitPicture } from '../../tile/fit';
import { tilesFromPicture, type TileChange, type TileStore } from '../../tile/tiles';
import { batch, setMaskEdit, setSheetEdit, type Edit } from '../edits';
import { planeKey } from '../planes';
import { LIMITS, paintedStep, paintStep, type Mask, type Picture, type Sheet } from '../schema';
import { WorkError, type Work } from './work';

/** Makes a mask even and only painted: its steps and its paint go, its ground is set. */
export function fillMask(sheet: Sheet, store: TileStore, mask: Mask, value: number): Work {
  const kept = paintedStep(mask)?.id ?? mask.id;
  const gone = mask.steps.filter((s) => STEPS[s.source.type].painted).map((s) => planeKey(s.id, 'mask'));
  return {
    edit: setMaskEdit(sheet, mask, { ground: value, invert: false, steps: [paintStep(kept)] }),
    label: `${value >= 0.5 ? 'Fill' : 'Clear'} ${mask.name}`,
    changes: gone.flatMap((plane) => [...store.tilesOf(plane)].map(([tile, before]) => ({ plane, tile, before, after: null }))),
  };
}

/** A picture on its way to a sheet, under the id that it will go by. */
export interface NewPicture {
  id: string;
  name: string;
  encoding: Picture['encoding'];
  picture: Bitmap;
  /** What it is a bake of, where it was baked elsewhere. */
  bake?: Picture['bake'];
}

/** Takes pictures up into a sheet, made smaller where they are too large, together with an edit that uses them. */
export function addPictures(sheet: Sheet, pictures: readonly NewPicture[], then: Edit, label: string, select?: string[]): Work {
  if (sheet.pictures.length + pictures.length > LIMITS.maxPictures)
    throw new WorkError(`A sheet holds up to ${LIMITS.maxPictures} pictures, and this would be more: delete some first`);
  const changes: TileChange[] = [];
  const added = pictures.map(({ id, name, encoding, picture, bake }): Picture => {
    const shrink = Math.min(1, LIMITS.maxPictureSide / Math.max(picture.width, picture.height));
    const width = Math.max(1, Math.round(picture.width * shrink));
    const height = Math.max(1, Math.round(picture.height * shrink));
    const pixels = fitPicture(picture, width, height, 4, encoding === 'srgb' ? 'colour' : 'values');
    for (const [tile, data] of tilesFromPicture(pixels, width, height, 4))
      changes.push({ plane: planeKey(id, 'picture'), tile, before: null, after: { data, hash: null } });
    return { id, name, width, height, encoding, ...(bake ? { bake } : {}) };
  });
  return {
    edit: batch([setSheetEdit(sheet, { pictures: [...sheet.pictures, ...added] }), then]),
    label,
    changes,
    select,
  };
}
