import { stored16, type MapDef } from './map';
import { PACKED_PICTURE } from './material';

const GROUND = 0;

export const metallic: MapDef = {
  label: 'Metallic',
  short: 'Me',
  kind: 'value',
  ground: [GROUND],
  start: [1],
  // Bare metal or not: nothing between is worth beginning with.
  spread: 0,
  display: 'percent',
  atStart: true,
  hint: 'Bare metal or not: real surfaces are nearly always 0 or 100.',
  shown: { plane: 'surface', channel: 2 },
  packed: 2,
  tab: 'Metal',
  fileWords: /^(metallic|metalness|metal|mtl)$/,
  brush: { on: false, value: 0 },
  coat: (material) => [material?.metallic ?? GROUND],
  pictureIn: {
    ...PACKED_PICTURE,
    texel: (material, { rgba, o }, to, at) => {
      to[at] = stored16((rgba[o + 2] / 65535) * material.metallic);
      to[at + 1] = rgba[o + 3];
    },
  },
};
