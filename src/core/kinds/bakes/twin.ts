/** What only a dense twin knows: the relief that the model itself does not have. */
import { z } from 'zod';
import { percent } from '../control';
import type { BakeDef } from './bake';

const normalSchema = z.object({ type: z.literal('normal') });
export type Normal = z.infer<typeof normalSchema>;
export const normal: BakeDef<Normal> = {
  type: 'normal',
  label: 'Normal',
  hint: 'The dense model’s normals in the tangent space of the model, as glTF has it (Y up).',
  values: 'direction',
  from: { model: false, twin: true },
  schema: normalSchema,
  start: { type: 'normal' },
  controls: [],
  fileWords: /^(normals?|nor|nrm|norm|tangent ?(space ?)?normals?)$/,
};

const heightSchema = z.object({
  type: z.literal('height'),
  span: z.number().min(0.0001, 'a height has a span above zero').max(1).default(0.02),
});
export type Height = z.infer<typeof heightSchema>;
export const height: BakeDef<Height> = {
  type: 'height',
  label: 'Height',
  hint: 'How far the dense model lies above the model (lighter) or under it (darker): middle grey is level, white is the span.',
  values: 'value',
  from: { model: false, twin: true },
  schema: heightSchema,
  start: { type: 'height', span: 0.02 },
  controls: [{ ...percent('span', 'Span', 0.0001, 0.2), digits: 2, fine: true }],
  fileWords: /^(height|displacement|disp|bump)$/,
};

const colourSchema = z.object({ type: z.literal('vertex-colour') });
export type VertexColour = z.infer<typeof colourSchema>;
export const vertexColour: BakeDef<VertexColour> = {
  type: 'vertex-colour',
  label: 'Vertex colour',
  hint: 'The colours of the dense model’s vertices.',
  values: 'colour',
  from: { model: false, twin: true },
  schema: colourSchema,
  start: { type: 'vertex-colour' },
  controls: [],
  fileWords: /^(vertex ?colou?rs?|vc)$/,
};
