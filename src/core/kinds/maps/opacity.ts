import { stored16, type MapDef } from './map';
import { BASE_PICTURE } from './material';

export const opacity: MapDef = {
  label: 'Opacity',
  short: 'Op',
  kind: 'value',
  ground: [1],
  start: [1],
  display: 'percent',
  hint: '0 is a hole, 100 is solid.',
  shown: { plane: 'colour', channel: 3 },
  fileWords: /^(opacity|alpha|transparency)$/,
  pictureIn: {
    ...BASE_PICTURE,
    worth: (material, rgba) => material.alphaMode !== 'OPAQUE' && hasHoles(rgba),
    texel: ({ alphaMode, alphaCutoff }, { rgba, o }, to, at) => {
      const there = rgba[o + 3] >= alphaCutoff * 65535;
      to[at] = stored16(alphaMode === 'MASK' ? Number(there) : rgba[o + 3] / 65535);
      to[at + 1] = 65535;
    },
  },
  pictureOut: { alphaOf: 'baseColour' },
};

function hasHoles(rgba: Uint16Array): boolean {
  for (let i = 3; i < rgba.length; i += 4) if (rgba[i] < 65535) return true;
  return false;
}
