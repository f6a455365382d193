export { blendColour, blendFloat, blendValue, interleave16, lerpPlanes, maskValues, toUint16 } from './blend';
export { blur } from './blur';
export { boxPlaces } from './box';
export { distanceRow, liftRow } from './distance';
export { enlargeRow } from './enlarge';
export { noiseCells, noiseFractal, noiseHash } from './noise';
export { reliefNormals } from './relief';
export { affine, throughTable } from './table';
export { decimateX, decimateY, refineX, refineY } from './wide';
