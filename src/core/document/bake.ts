/** Bakes of a sheet: pictures that know how they came about. */
import { BAKES, type BakeType } from '../kinds/bakes';
import { BAKE_VERSION, bakeSpecSchema, specText, type BakeSpec } from '../kinds/bakes/spec';
import type { Picture, Piece, Sheet } from './schema';

/** What a bake of a sheet hangs on now; null on a canvas, and where it was baked elsewhere. */
export function specOf(piece: Pick<Piece, 'model'>, sheet: Pick<Sheet, 'materialIndex'>, picture: Picture): BakeSpec | null {
  const { bake } = picture;
  if (!bake || !piece.model || sheet.materialIndex === null || bake.made === 'file') return null;
  const { from } = BAKES[bake.settings.type];
  const parsed = bakeSpecSchema.safeParse({
    version: BAKE_VERSION,
    model: piece.model.blob,
    uvSet: piece.model.uvSet,
    material: sheet.materialIndex,
    width: picture.width,
    height: picture.height,
    supersample: bake.supersample,
    settings: bake.settings,
    twin: from.twin ? bake.twin : null,
  });
  return parsed.success && (from.model || parsed.data.twin) ? parsed.data : null;
}

/** `none`: there are no pixels yet. `stale`: the model, or how it is to be baked, has changed since. */
export function bakeState(
  piece: Pick<Piece, 'model'>,
  sheet: Pick<Sheet, 'materialIndex'>,
  picture: Picture,
): 'none' | 'stale' | 'baked' | 'file' {
  const { made = '' } = picture.bake ?? {};
  if (made === 'file') return 'file';
  if (made === '') return 'none';
  const spec = specOf(piece, sheet, picture);
  return spec && specText(spec) === made ? 'baked' : 'stale';
}

/** The bake of a kind on a sheet: one with pixels before one without. */
export function bakeOf(sheet: Pick<Sheet, 'pictures'>, type: BakeType): Picture | undefined {
  const all = sheet.pictures.filter((p) => p.bake?.settings.type === type);
  return all.find((p) => p.bake!.made !== '') ?? all[0];
}

/** A first try of a bake goes by this name, beside the pictures of the document. */
export const TRIED_ID = 'tried-bake';
