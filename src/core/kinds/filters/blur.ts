/**
 * Gaussian blur, two passes of a sampled Gaussian cut at 4σ and made to sum to 1; wide ones on fewer samples (gaussian.ts). Colour is averaged in linear
 * light and weighted by its alpha, values by their coverage, so that what is empty does not bleed in.
 */
import { z } from 'zod';
import { fastLinear, fastSrgb } from '../../colour/transfer';
import { kernels } from '../../kernels';
import { texels } from '../control';
import type { FilterDef, MapKind, Pass } from './filter';
import { gaussianSide, widePlan } from './gaussian';

const schema = z.object({
  type: z.literal('blur'),
  /** Standard deviation in texels. */
  sigma: z.number().min(0).max(256),
});

/** Straight and encoded → linear and weighted by alpha. */
function weigh(from: Float32Array, texels: number, kind: MapKind, to: Float32Array): void {
  const alpha = (kind === 'value' ? 1 : 3) * texels;
  for (let c = 0; c < alpha; c += texels)
    if (kind === 'colour') for (let i = 0; i < texels; i++) to[c + i] = fastLinear(from[c + i]) * from[alpha + i];
    else for (let i = 0; i < texels; i++) to[c + i] = from[c + i] * from[alpha + i];
  to.set(from.subarray(alpha, alpha + texels), alpha);
}

/** And back, in place. Where alpha is 1 all over there is nothing to divide by. */
export function unweigh(data: Float32Array, texels: number, kind: MapKind, opaque = false): void {
  const alpha = (kind === 'value' ? 1 : 3) * texels;
  if (opaque) {
    if (kind === 'colour') for (let i = 0; i < alpha; i++) data[i] = fastSrgb(data[i]);
    return;
  }
  for (let c = 0; c < alpha; c += texels)
    for (let i = 0; i < texels; i++) {
      const a = data[alpha + i];
      const v = a > 0 ? data[c + i] / a : 0;
      data[c + i] = kind === 'colour' ? fastSrgb(Math.min(1, v)) : v;
    }
  for (let i = alpha; i < alpha + texels; i++) data[i] = Math.min(1, data[i]);
}

export const evenly =
  (change: (data: Float32Array) => void) =>
  (values: readonly number[]): number[] => {
    const one = Float32Array.from(values);
    change(one);
    return [...one];
  };

/** Into linear light, weighted by alpha: once a texel, not once for every window that it is in. */
export const weighed: Pass = {
  rx: 0,
  ry: 0,
  skip: (kind, opaque) => opaque && kind !== 'colour',
  run: (window, width, height, kind, out) => weigh(window, width * height, kind, out),
  even: (values, kind) => evenly((one) => weigh(one.slice(), 1, kind, one))(values),
};

/** What becomes of an even area on the way back. */
export const backAgain = (values: readonly number[], kind: MapKind): number[] => evenly((one) => unweigh(one, 1, kind))(values);

function pass(sigma: number, axis: 'x' | 'y'): Pass {
  const wide = widePlan(sigma);
  const side = gaussianSide(sigma);
  const radius = wide?.radius ?? side.length - 1;
  const rx = axis === 'x' ? radius : 0;
  const ry = axis === 'y' ? radius : 0;
  const last = axis === 'y';
  return {
    rx,
    ry,
    run: (window, width, height, kind, out, opaque) => {
      const from = (width + 2 * rx) * (height + 2 * ry);
      const to = width * height;
      const alpha = kind === 'value' ? 1 : 3;
      for (let p = 0; p < (opaque ? alpha : alpha + 1); p++) {
        const [source, target] = [window.subarray(p * from, (p + 1) * from), out.subarray(p * to, (p + 1) * to)];
        if (wide) kernels().blurWide(source, width, height, wide, axis, target);
        else kernels().blur(source, width, height, side, axis, target);
      }
      if (opaque) out.fill(1, alpha * to);
      if (last) unweigh(out, to, kind, opaque);
    },
    even: last ? backAgain : undefined,
  };
}

const passes = new Map<number, Pass[]>();

/** The passes of a Gaussian; none where it is narrower than anyone sees. */
export function softening(sigma: number): Pass[] {
  if (sigma < 0.05) return [];
  let found = passes.get(sigma);
  if (!found) {
    if (passes.size >= 32) passes.clear();
    passes.set(sigma, (found = [weighed, pass(sigma, 'x'), pass(sigma, 'y')]));
  }
  return found;
}

export const blur: FilterDef<z.infer<typeof schema>> = {
  type: 'blur',
  label: 'Blur',
  hint: 'Gaussian blur, in linear light.',
  schema,
  start: { type: 'blur', sigma: 4 },
  controls: [texels('sigma', 'Width σ', 0, 256)],
  fits: () => true,
  passes: ({ sigma }) => softening(sigma),
};
