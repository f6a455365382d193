/**
 * Colours of a file that says by itself how they are meant (PNG's gAMA and cHRM), brought to sRGB. Primaries as in "Derivation of
 * basic television color equations" (SMPTE RP 177-1993), white points adapted after Bradford (ICC.1:2022, annex E).
 */
import type { PngTags } from './pngRows';
import { linearToSrgb, srgbToLinear } from '../colour/transfer';

type Matrix = readonly (readonly number[])[];

/** x, y of white, red, green, blue (IEC 61966-2-1). */
const SRGB = [0.3127, 0.329, 0.64, 0.33, 0.3, 0.6, 0.15, 0.06];
const USUAL_GAMMA = 1 / 2.2;
/** Less than this apart is the same: files round to five places, some to three. */
const SAME = 0.004;

const times = (a: Matrix, b: Matrix): Matrix => a.map((row) => b[0].map((_, c) => row.reduce((s, v, k) => s + v * b[k][c], 0)));
const through = (m: Matrix, v: readonly number[]): number[] => m.map((row) => row.reduce((s, w, k) => s + w * v[k], 0));

function inverse(m: Matrix): Matrix {
  const [[a, b, c], [d, e, f], [g, h, i]] = m;
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  return [
    [e * i - f * h, c * h - b * i, b * f - c * e],
    [f * g - d * i, a * i - c * g, c * d - a * f],
    [d * h - e * g, b * g - a * h, a * e - b * d],
  ].map((row) => row.map((v) => v / det));
}

const xyz = (x: number, y: number): number[] => [x / y, 1, (1 - x - y) / y];
const diagonal = (v: readonly number[]): Matrix => v.map((x, r) => v.map((_, c) => (r === c ? x : 0)));

/** RGB in linear light → XYZ. */
function toXyz([wx, wy, ...primaries]: readonly number[]): Matrix {
  const columns = [0, 1, 2].map((k) => xyz(primaries[k * 2], primaries[k * 2 + 1]));
  const m = [0, 1, 2].map((r) => columns.map((c) => c[r]));
  return times(m, diagonal(through(inverse(m), xyz(wx, wy))));
}

const BRADFORD: Matrix = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
];

function adapted(from: readonly number[], to: readonly number[]): Matrix {
  const [a, b] = [from, to].map((w) => through(BRADFORD, xyz(w[0], w[1])));
  return times(inverse(BRADFORD), times(diagonal(b.map((v, k) => v / a[k])), BRADFORD));
}

/** Changes the colours of `data` (16 bit, interleaved, 3 or 4 channels; alpha stays) in place. False: they are sRGB as they stand. */
export function toSrgb(data: Uint16Array, channels: number, { gamma, chromaticities, srgb, profile }: PngTags): boolean {
  if (srgb || profile || channels < 3) return false;
  const other = chromaticities?.some((v, k) => Math.abs(v - SRGB[k]) > SAME) && isSound(chromaticities) ? chromaticities : null;
  const curve = gamma !== null && Math.abs(gamma - USUAL_GAMMA) > SAME ? 1 / gamma : null;
  if (!other && curve === null) return false;
  const matrix = other && times(inverse(toXyz(SRGB)), times(adapted(other, SRGB), toXyz(other)));
  const linear = Float32Array.from({ length: 65536 }, (_, i) =>
    curve === null ? srgbToLinear(i / 65535) : (i / 65535) ** curve,
  );
  const c = [0, 0, 0];
  for (let i = 0; i < data.length; i += channels) {
    for (let k = 0; k < 3; k++) c[k] = linear[data[i + k]];
    const to = matrix ? through(matrix, c) : c;
    for (let k = 0; k < 3; k++) data[i + k] = linearToSrgb(Math.min(1, Math.max(0, to[k]))) * 65535 + 0.5;
  }
  return true;
}

/** Primaries that span a triangle. */
function isSound(c: readonly number[]): boolean {
  if (c.some((v, k) => k % 2 === 1 && !(v > 0))) return false;
  const det = (c[4] - c[2]) * (c[7] - c[3]) - (c[6] - c[2]) * (c[5] - c[3]);
  return Math.abs(det) > 1e-4;
}
