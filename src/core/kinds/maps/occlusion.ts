import { stored16, type MapDef } from './map';

export const occlusion: MapDef = {
  label: 'Occlusion',
  short: 'Oc',
  kind: 'value',
  ground: [1],
  start: [1],
  display: 'percent',
  hint: 'How much of the surroundings’ light arrives: 0 is a deep corner.',
  shown: { plane: 'surface', channel: 0 },
  packed: 0,
  fileWords: /^(occlusion|ao|ambientocclusion)$/,
  pictureIn: {
    of: (material) => material.occlusionPicture,
    called: 'occlusion',
    means: 'values',
    texel: ({ occlusionStrength }, { rgba, o }, to, at) => {
      to[at] = stored16(1 + occlusionStrength * (rgba[o] / 65535 - 1));
      to[at + 1] = rgba[o + 3];
    },
  },
};
