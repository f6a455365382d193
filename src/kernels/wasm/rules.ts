/** Loops of rules (assembly/rules.ts). */
import type { Arena } from '../arena';
import { MOST_PIECES, type RuleKernels } from '../rules';

type Numbers = (...args: number[]) => void;

export interface RuleExports {
  spaced: Numbers;
  pushed: Numbers;
  alongLine: Numbers;
  stretched: Numbers;
  powered: Numbers;
  alongRamp: Numbers;
}

export function rules(k: RuleExports, arena: Arena): RuleKernels {
  const at = (a: Float32Array) => arena.address(a);
  return {
    spaced: (position, there, [cx, cy, cz], size, x, y, z) =>
      arena.withAll([x, y, z], ([ax, ay, az]) => {
        const list = arena.take(there.byteLength);
        arena.i32.set(there, list >> 2);
        k.spaced(at(position), list, there.length, x.length, cx, cy, cz, size, ax, ay, az);
      }),
    pushed: (out, from, by, span) => arena.within(out, (to) => k.pushed(to, at(from), at(by), out.length, span)),
    alongLine: (out, { x, y, z }, { gx, gy, gz, start, low, high, smooth }) =>
      arena.within(out, (to) => k.alongLine(to, at(x), at(y), at(z), out.length, gx, gy, gz, start, low, high, smooth ? 1 : 0)),
    stretched: (data, black, white, low, span) =>
      arena.within(data, (to) => k.stretched(to, data.length, black, white, low, span)),
    powered: (data, black, white, low, span, powers) =>
      arena.within(data, (to) => k.powered(to, data.length, black, white, low, span, at(powers))),
    alongRamp: (out, values, pieces) => {
      if (pieces.length > MOST_PIECES) throw new Error(`${pieces.length} pieces of a ramp are more than ${MOST_PIECES}`);
      arena.within(out, (to) => {
        pieces
          .flatMap(({ high, colour, gain }) => [high, ...colour, ...gain])
          .forEach((v, i) => arena.put64(arena.weights + i * 8, v));
        k.alongRamp(to, at(values), values.length, arena.weights);
      });
    },
  };
}
