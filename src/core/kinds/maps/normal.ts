import type { MapDef } from './map';

export const normal: MapDef = {
  label: 'Normal',
  short: 'No',
  kind: 'normal',
  ground: [0.5, 0.5, 1],
  start: [0.5, 0.5, 1],
  display: 'colour',
  hint: 'Fine relief as directions, Y up. It is laid over the normal that height makes.',
  shown: { plane: 'normal', channel: 0 },
  joins: { layer: 'reorient', adjust: 'normal' },
  fileWords: /^(normal|normals|nrm|nor|norm|nml)$/,
  pictureIn: {
    of: (material) => material.normalPicture,
    called: 'normal',
    means: 'directions',
    texel: ({ normalScale: s }, { rgba, o }, to, at) => {
      const [x, y, z] = [(rgba[o] / 32767.5 - 1) * s, (rgba[o + 1] / 32767.5 - 1) * s, rgba[o + 2] / 32767.5 - 1];
      const l = Math.hypot(x, y, z) || 1;
      [x, y, z].forEach((v, c) => (to[at + c] = ((v / l) * 0.5 + 0.5) * 65535 + 0.5));
      to[at + 3] = rgba[o + 3];
    },
  },
  pictureOut: { texture: 'normal', always: true },
};
