/** The colour of the surface; with its alpha it may have holes (opacity.ts). */
import type { MapDef } from './map';
import { BASE_PICTURE, encoded, tint } from './material';

const GROUND = [0.5, 0.5, 0.5];

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
  coat: (material) => (!material || material.baseColourPicture ? GROUND : encoded(material.baseColourLinear)),
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
