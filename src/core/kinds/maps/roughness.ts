import { stored16, type MapDef } from './map';
import { PACKED_PICTURE } from './material';

const GROUND = 0.6;

export const roughness: MapDef = {
  label: 'Roughness',
  short: 'Ro',
  kind: 'value',
  ground: [GROUND],
  start: [0.5],
  display: 'percent',
  atStart: true,
  hint: '0 mirrors, 100 is chalk.',
  shown: { plane: 'surface', channel: 1 },
  packed: 1,
  tab: 'Rough',
  fileWords: /^(roughness|rough|rgh)$/,
  brush: { on: false, value: 0.4 },
  coat: (material) => [material?.roughness ?? GROUND],
  pictureIn: {
    ...PACKED_PICTURE,
    texel: (material, { rgba, o }, to, at) => {
      to[at] = stored16((rgba[o + 1] / 65535) * material.roughness);
      to[at + 1] = rgba[o + 3];
    },
  },
};
