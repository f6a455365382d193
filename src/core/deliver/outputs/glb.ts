/** The model with its pictures of 8 bits in one GLB; a canvas lies on a plane. */
import type { PieceOutput } from './output';

export const GLB = 'glb';

export const glb: PieceOutput = {
  type: 'glb',
  label: 'A GLB with its textures',
  ending: 'glb',
  per: 'piece',
  offers: (piece) => [
    {
      id: GLB,
      label: 'A GLB with its textures',
      hint: 'glTF 2.0, 8 bit, occlusion, roughness and metallic packed as the standard has it',
      atStart: piece.kind === 'model',
    },
  ],
  knows: (id) => id === GLB,
  file: async (context, options) => (await import('../renderGlb')).renderGlb(context, options),
};
