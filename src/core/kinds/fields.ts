/** Fields that records of many kinds share: ids, shares, names of maps. */
import { z } from 'zod';
import { greySchema } from './grey';
import { isMapId, type MapId } from './maps';

export const unit = z.number().min(0).max(1);
export const id = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/, 'ids are 1 to 40 letters, digits, - or _');
export const mapId = z.custom<MapId>((v) => typeof v === 'string' && isMapId(v), 'an unknown map');

/**
 * A record of one of the kinds in a registry, told apart by its `type`. The kind is looked up when a record is checked,
 * so that kinds which a test adds count too.
 */
export const oneOfKinds = <T extends { type: string }>(
  kinds: Readonly<Record<string, { schema: z.ZodType<unknown> }>>,
): z.ZodType<T> =>
  z.unknown().transform((value, context) => {
    const type = (value as { type?: unknown } | null)?.type;
    if (typeof type !== 'string' || !Object.hasOwn(kinds, type)) {
      const message = `the type is ${JSON.stringify(type)}, but has to be one of ${Object.keys(kinds).join(', ')}`;
      context.issues.push({ code: 'custom', message, input: value, path: ['type'] });
      return z.NEVER;
    }
    const checked = kinds[type].schema.safeParse(value);
    if (checked.success) return checked.data as T;
    for (const issue of checked.error.issues) context.issues.push({ ...issue, input: value } as never);
    return z.NEVER;
  }) as unknown as z.ZodType<T>;

/** How a picture of the sheet is used: which one, which number of it where one is needed, how far it is made neutral grey. */
export const pictureUseSchema = z.object({
  picture: id,
  take: greySchema.default('luminance'),
  neutral: unit.default(0),
});
export type PictureUse = z.infer<typeof pictureUseSchema>;
