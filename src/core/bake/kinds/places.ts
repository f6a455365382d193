/** Where each point lies, and which way it faces (kinds/bakes/places.ts). */
import { POINT_NUMBERS } from '../../../kernels/rays';
import { TOWARDS, type Distance, type Facing, type Position, type WorldNormal } from '../../kinds/bakes/places';
import { distanceToFaces } from '../distance';
import type { BakeKind } from './kind';

export const position: BakeKind<Position> = {
  prepare: ({ axis }, { on }) => {
    const k = ['x', 'y', 'z'].indexOf(axis);
    const [from, span] = [on.min[k], on.max[k] - on.min[k]];
    return ({ data }, first, count, out) => {
      for (let i = 0; i < count; i++)
        out[i] = span > 0 ? Math.min(1, Math.max(0, (data[(first + i) * POINT_NUMBERS + k] - from) / span)) : 0.5;
    };
  },
};

export const worldNormal: BakeKind<WorldNormal> = {
  prepare:
    () =>
    ({ data }, from, count, out) => {
      for (let i = 0; i < count; i++)
        for (let k = 0; k < 3; k++) out[i * 3 + k] = data[(from + i) * POINT_NUMBERS + 3 + k] * 0.5 + 0.5;
    },
};

export const facing: BakeKind<Facing> = {
  prepare: ({ towards }) => {
    const [x, y, z] = TOWARDS[towards];
    return ({ data }, from, count, out) => {
      for (let i = 0; i < count; i++) {
        const o = (from + i) * POINT_NUMBERS + 3;
        out[i] = (data[o] * x + data[o + 1] * y + data[o + 2] * z) * 0.5 + 0.5;
      }
    };
  },
};

export const distance: BakeKind<Distance> = {
  prepare: ({ part, reach }, { on }) => {
    const far = reach * on.size;
    const named = on.model.parts.indexOf(part);
    const to = distanceToFaces(on.model, on.facesOfPart(named < 0 ? 0 : named), far);
    return ({ data }, from, count, out) => {
      for (let i = 0; i < count; i++) {
        const o = (from + i) * POINT_NUMBERS;
        out[i] = to(data[o], data[o + 1], data[o + 2]) / far;
      }
    };
  },
};
