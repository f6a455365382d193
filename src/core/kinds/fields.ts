/** Fields that records of many kinds share: ids, shares, names of maps. */
import { z } from 'zod';
import { greySchema } from './grey';
import { isMapId, type MapId } from './maps';

export const unit = z.number().min(0).max(1);
export const id = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/, 'ids are 1 to 40 letters, digits, - or _');
export const mapId = z.custom<MapId>((v) => typeof v === 'string' && isMapId(v), 'an unknown map');

/** One of several records, told apart by their `type`. Each is a plain Zod object. */
export const oneOfTypes = <T extends { type: string }>(schemas: readonly z.ZodType<T>[]): z.ZodType<T> =>
  z.discriminatedUnion('type', schemas as unknown as [z.ZodObject<{ type: z.ZodLiteral<string> }>]) as unknown as z.ZodType<T>;

/** How a picture of the sheet is used: which one, which number of it where one is needed, how far it is made neutral grey. */
export const pictureUseSchema = z.object({
  picture: id,
  take: greySchema.default('luminance'),
  neutral: unit.default(0),
});
export type PictureUse = z.infer<typeof pictureUseSchema>;
