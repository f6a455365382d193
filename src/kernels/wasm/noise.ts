/** Noise (assembly/noise.ts). */
import type { Arena } from '../arena';
import { MOST_OCTAVES, type NoiseKernels, type Octave } from '../kernels';

export interface NoiseExports {
  noiseFractal(out: number, x: number, y: number, z: number, n: number, octaves: number, count: number, mode: number): void;
  noiseHash(out: number, x: number, y: number, z: number, n: number, octave: number): void;
  noiseCells(
    near: number,
    edge: number,
    id: number,
    x: number,
    y: number,
    z: number,
    n: number,
    octave: number,
    jitter: number,
    flat: number,
  ): void;
}

const FRACTAL_MODES = ['plain', 'ridges', 'billows'];
/** Numbers of an octave's record, as the assembly reads it. */
const RECORD = 8;

export function noise(k: NoiseExports, arena: Arena): NoiseKernels {
  /** Address of octaves as records. */
  const octavesAt = (octaves: readonly Octave[]): number => {
    if (octaves.length > MOST_OCTAVES) throw new Error(`${octaves.length} octaves are more than ${MOST_OCTAVES}`);
    octaves.forEach((o, n) => {
      const at = (arena.weights >> 2) + n * RECORD;
      arena.f32.set([o.fx, o.fy, o.fz], at);
      arena.i32.set([o.px, o.py, o.pz], at + 3);
      arena.f32[at + 6] = o.amplitude;
      arena.i32[at + 7] = o.seed;
    });
    return arena.weights;
  };
  const at = (a: Float32Array) => arena.address(a);
  return {
    noiseFractal: (out, x, y, z, octaves, mode) =>
      arena.within(out, (to) =>
        k.noiseFractal(
          ...([to, at(x), at(y), z ? at(z) : 0, out.length] as const),
          ...([octavesAt(octaves), octaves.length, FRACTAL_MODES.indexOf(mode)] as const),
        ),
      ),
    noiseHash: (out, x, y, z, octave) =>
      arena.within(out, (to) => k.noiseHash(to, at(x), at(y), at(z), out.length, octavesAt([octave]))),
    noiseCells: (near, edge, id, x, y, z, octave, jitter, flat) =>
      arena.withAll(edge ? [near, id, edge] : [near, id], ([a, c, b]) =>
        k.noiseCells(a, b ?? 0, c, at(x), at(y), at(z), near.length, octavesAt([octave]), jitter, flat ? 1 : 0),
      ),
  };
}
