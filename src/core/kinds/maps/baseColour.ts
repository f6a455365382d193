/** The colour of the surface; with its alpha it may have holes (opacity.ts). */
import { encoded, tint } from './material';
import type { MapDef, PictureIn } from './map';

const GROUND = [0.5, 0.5, 0.5];

/** The picture of the base colour, whose alpha means nothing where the material is opaque. */
export const BASE_PICTURE = {
  of: (material) => material.baseColourPicture,
  called: 'base colour',
  means: 'colour',
  alpha: (material) => material.alphaMode !== 'OPAQUE',
} as const satisfies Partial<PictureIn>;

export const baseColour: MapDef = {
  label: 'Base colour',
  short: 'Co',
  kind: 'colour',
  ground: GROUND,
  start: [0.6, 0.5, 0.4],
  display: 'colour',
  atStart: true,
  hint: 'The colour of the surface without light.',
  shown: { plane: 'colour', channel: 0 },
  tab: 'Colour',
  fileWords: /^(base ?colou?r|albedo|diffuse|diff|colou?r|col|basecolou?r)$/,
  brush: { on: true, value: 0 },
  coat: (material) => (!material ? GROUND : material.baseColourPicture ? [0.5, 0.5, 0.5] : encoded(material.baseColourLinear)),
  pictureIn: {
    ...BASE_PICTURE,
    texel: (material, { rgba, o, plain }, to, at) => {
      tint(rgba, o, material.baseColourLinear, to, at);
      // Off the model there is nothing; on it alpha is no part of the colour.
      to[at + 3] = plain || rgba[o + 3] > 0 ? 65535 : 0;
    },
  },
  pictureOut: { texture: 'baseColour', always: true },
};
