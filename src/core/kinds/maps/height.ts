import type { MapDef } from './map';

export const height: MapDef = {
  label: 'Height',
  short: 'He',
  kind: 'value',
  ground: [0.5],
  start: [0.5],
  display: 'offset',
  atStart: true,
  hint: 'Raised or sunk against the model. Layers add up; the normal that is shown is computed from it.',
  shown: { plane: 'surface', channel: 3 },
  relief: true,
  joins: { layer: 'offset', adjust: 'normal' },
  fileWords: /^(height|displacement|disp|bump|depth)$/,
  brush: { on: false, value: 0.62 },
};
