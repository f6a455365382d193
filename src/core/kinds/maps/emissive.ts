import type { MapDef } from './map';
import { encoded, tint } from './material';

export const emissive: MapDef = {
  label: 'Emissive',
  short: 'Em',
  kind: 'colour',
  ground: [0, 0, 0],
  start: [1, 0.8, 0.5],
  display: 'colour',
  hint: 'Light that the surface gives off by itself.',
  shown: { plane: 'emissive', channel: 0 },
  fileWords: /^(emissive|emission|emit|glow)$/,
  // By itself, without a picture.
  coat: (material) =>
    material && !material.emissivePicture && material.emissiveLinear.some((v) => v > 0) ? encoded(material.emissiveLinear) : null,
  pictureIn: {
    of: (material) => material.emissivePicture,
    called: 'emissive',
    means: 'colour',
    texel: (material, { rgba, o }, to, at) => {
      tint(rgba, o, material.emissiveLinear, to, at);
      to[at + 3] = rgba[o + 3];
    },
  },
  pictureOut: { texture: 'emissive' },
};
