/** Colours turned in OKLab, in float64 (assembly/oklab.ts; matrices of CSS Color 4). */
import type { OklabChange, TransferTables } from './kernels';

const clamp01 = (v: number) => (v < 0 ? 0 : v > 1 ? 1 : v);

const LMS = [
  [0.4122214708, 0.5363325363, 0.0514459929],
  [0.2119034982, 0.6806995451, 0.1073969566],
  [0.0883024619, 0.2817188376, 0.6299787005],
];
const LAB = [
  [0.2104542553, 0.793617785, -0.0040720468],
  [1.9779984951, -2.428592205, 0.4505937099],
  [0.0259040371, 0.7827717662, -0.808675766],
];
const FROM_LAB = [
  [1, 0.3963377774, 0.2158037573],
  [1, -0.1055613458, -0.0638541728],
  [1, -0.0894841775, -1.291485548],
];
const FROM_LMS = [
  [4.0767416621, -3.3077115913, 0.2309699292],
  [-1.2684380046, 2.6097574011, -0.3413193965],
  [-0.0041960863, -0.7034186147, 1.707614701],
];

const through = (matrix: number[][], v: number[]): number[] => matrix.map((row) => row[0] * v[0] + row[1] * v[1] + row[2] * v[2]);

function curve(table: Float32Array, v: number): number {
  const at = clamp01(v) * (table.length - 2);
  const i = Math.floor(at);
  return table[i] + (table[i + 1] - table[i]) * (at - i);
}

export function turnInOklab(data: Float32Array, texels: number, change: OklabChange, { toLinear, toSrgb }: TransferTables): void {
  const { lift, turn, tint, roomy } = change;
  for (let i = 0; i < texels; i++) {
    const linear = [0, 1, 2].map((c) => curve(toLinear, data[c * texels + i]));
    const [l, a, b] = through(LAB, through(LMS, linear).map(Math.cbrt));
    const room = roomy ? Math.min(1, 4 * l * (1 - l) + 0.15) : 1;
    const now = [clamp01(l + lift), ...turn.map((row, k) => row[0] * a + row[1] * b + tint[k] * room)];
    const rgb = through(
      FROM_LMS,
      through(FROM_LAB, now).map((v) => v ** 3),
    );
    for (let c = 0; c < 3; c++) data[c * texels + i] = curve(toSrgb, rgb[c]);
  }
}
