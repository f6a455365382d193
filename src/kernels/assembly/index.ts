export { blendColour, blendFloat, blendValue, interleave16, lerpPlanes, maskValues, toUint16 } from './blend';
export { blur } from './blur';
