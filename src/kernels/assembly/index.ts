export { blendColour, blendFloat, blendValue, lerpPlanes, maskValues, toUint16 } from './blend';
export { blurX, blurY } from './blur';
