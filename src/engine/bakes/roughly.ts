/** First tries of bakes are small and rough. A file of its own: the worker that makes them cannot import what begins it. */
import type { BakeSpec } from '../../core/kinds/bakes/spec';

/** Longest sides of a first try, one picture after the other, and its samples at most. */
export const TRY_SIDES = [128, 256] as const;
export const TRY_SAMPLES = 12;

/** The same bake, small and rough. Lengths in it are shares of the model: they stay. */
export function roughly(spec: BakeSpec, longest: number): BakeSpec {
  const scale = Math.min(1, longest / Math.max(spec.width, spec.height));
  const side = (n: number) => Math.max(16, Math.round(n * scale));
  const { settings } = spec;
  const samples = 'samples' in settings ? { samples: Math.min(settings.samples, TRY_SAMPLES) } : {};
  return { ...spec, width: side(spec.width), height: side(spec.height), supersample: 1, settings: { ...settings, ...samples } };
}
