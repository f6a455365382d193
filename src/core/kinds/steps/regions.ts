/** Steps that choose of the model: parts by name, islands and faces by number. Those that are not there any more count as nothing. */
import { z } from 'zod';
import type { StepDef } from './step';

const partsSchema = z.object({ type: z.literal('parts'), names: z.array(z.string().max(200)).max(1000) });
export const parts: StepDef<z.infer<typeof partsSchema>> = {
  type: 'parts',
  schema: partsSchema,
  word: ({ names }) => (names.length === 0 ? 'no part yet' : names.length === 1 ? names[0] : `${names[0]} +${names.length - 1}`),
  onSurface: () => true,
  anywhere: true,
  compile: (p, build) => build.region(p),
};

const counted = (n: number, one: string, many: string) => (n === 1 ? `one ${one}` : `${n} ${many}`);

const islandsSchema = z.object({ type: z.literal('islands'), ids: z.array(z.number().int().min(0)).max(20_000) });
export const islands: StepDef<z.infer<typeof islandsSchema>> = {
  type: 'islands',
  schema: islandsSchema,
  word: ({ ids }) => counted(ids.length, 'island', 'islands'),
  onSurface: () => true,
  anywhere: false,
  compile: (p, build) => build.region(p),
};

const facesSchema = z.object({ type: z.literal('faces'), ids: z.array(z.number().int().min(0)).max(200_000) });
export const faces: StepDef<z.infer<typeof facesSchema>> = {
  type: 'faces',
  schema: facesSchema,
  word: ({ ids }) => counted(ids.length, 'face', 'faces'),
  onSurface: () => true,
  anywhere: false,
  compile: (p, build) => build.region(p),
};
