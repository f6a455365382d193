/**
 * How a matte surface is lit by everything around it, as one polynomial of the surface's direction: smooth over the whole
 * sphere, whatever the picture of the surroundings is stored in.
 *
 * The light that reaches a surface facing n is the integral of radiance L over the directions ω, weighed by
 * max(0, n·ω) / π. The weight is replaced by its Legendre series up to degree 6 (R. Ramamoorthi and P. Hanrahan, "An
 * efficient representation for irradiance environment maps", SIGGRAPH 2001; the coefficients of degree 3 and 5 are 0).
 * For unit vectors that is a polynomial of degree 6 in n: 28 even terms and 3 odd ones.
 */

/** Powers of x, y and z in each term: all of degree 6, then x, y and z themselves. */
export const SHADING_TERMS: readonly (readonly [x: number, y: number, z: number])[] = [
  ...Array.from({ length: 7 }, (_, x) => Array.from({ length: 7 - x }, (_, y) => [x, y, 6 - x - y] as const)).flat(),
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** The Legendre series of max(0, t): 1/4 + t/2 + 5/16 P₂ − 3/32 P₄ + 13/256 P₆, as coefficients of 1, t², t⁴ and t⁶. */
const EVEN = [
  1 / 4 - 5 / 32 - 9 / 256 - 65 / 4096,
  15 / 32 + 90 / 256 + 1365 / 4096,
  -105 / 256 - 4095 / 4096,
  3003 / 4096,
] as const;
const ODD = 1 / 2;

const FACTORIALS = [1, 1, 2, 6, 24, 120, 720];
const ways = ([x, y, z]: readonly [number, number, number]) =>
  FACTORIALS[x + y + z] / (FACTORIALS[x] * FACTORIALS[y] * FACTORIALS[z]);

/** How often each term of degree 6 occurs in (n·ω)^2k · (n·n)^(3−k), with the powers of ω that go with it. */
const PRODUCTS = SHADING_TERMS.slice(0, 28).map((term) =>
  EVEN.flatMap((share, k) =>
    Array.from({ length: 2 * k + 1 }, (_, x) => Array.from({ length: 2 * k + 1 - x }, (_, y) => [x, y, 2 * k - x - y] as const))
      .flat()
      .flatMap((powers) => {
        const rest = term.map((power, axis) => power - powers[axis]);
        // What is left over comes from (n·n)^(3−k), which has even powers only.
        if (rest.some((power) => power < 0 || power % 2 !== 0)) return [];
        const [x, y, z] = rest.map((power) => power / 2);
        return [{ powers, share: share * ways(powers) * ways([x, y, z]) }];
      }),
  ),
);

/** One piece of the surroundings. `radiance`: linear light, as many channels as wanted. */
export interface Surrounding {
  /** Of length 1. */
  direction: readonly [number, number, number];
  /** Steradians; all together 4π. */
  solidAngle: number;
  radiance: readonly number[];
}

/** Coefficients of SHADING_TERMS, channel by channel: number of channels × 31. */
export function shadingOf(surroundings: Iterable<Surrounding>, channels = 3): Float64Array {
  // Moments first: the integral of radiance times each product of powers that is needed.
  const needed = new Map<string, readonly number[]>();
  for (const { powers } of PRODUCTS.flat()) needed.set(powers.join(), powers);
  for (const term of SHADING_TERMS.slice(28)) needed.set(term.join(), term);
  const moments = [...needed.values()].map((powers) => ({ powers, sums: new Float64Array(channels) }));
  for (const { direction, solidAngle, radiance } of surroundings)
    for (const { powers, sums } of moments) {
      const weight = solidAngle * direction[0] ** powers[0] * direction[1] ** powers[1] * direction[2] ** powers[2];
      for (let c = 0; c < channels; c++) sums[c] += weight * radiance[c];
    }
  const sumsOf = new Map(moments.map(({ powers, sums }) => [powers.join(), sums]));
  const count = SHADING_TERMS.length;
  const out = new Float64Array(channels * count);
  for (let c = 0; c < channels; c++) {
    PRODUCTS.forEach((products, n) => {
      for (const { powers, share } of products) out[c * count + n] += (share * sumsOf.get(powers.join())![c]) / Math.PI;
    });
    SHADING_TERMS.slice(28).forEach((term, n) => {
      out[c * count + 28 + n] = (ODD * sumsOf.get(term.join())![c]) / Math.PI;
    });
  }
  return out;
}

/** What a matte white surface that faces `direction` (of length 1) shows: linear light, one channel. */
export function shadeAt(shading: ArrayLike<number>, channel: number, [x, y, z]: readonly [number, number, number]): number {
  const from = channel * SHADING_TERMS.length;
  return SHADING_TERMS.reduce((sum, term, n) => sum + shading[from + n] * x ** term[0] * y ** term[1] * z ** term[2], 0);
}

/**
 * GLSL: `vec3 shadeAt(vec3 n)`, with the coefficients in a uniform `vec3 shading[31]`. Powers are shared, so that a pixel
 * costs about as much as a read of a texture.
 */
export const SHADE_GLSL = (() => {
  const power = (axis: string, n: number) => (n === 0 ? [] : [n === 1 ? axis : `${axis}${n}`]);
  const sum = SHADING_TERMS.map(([x, y, z], n) =>
    [`shading[${n}]`, [...power('x', x), ...power('y', y), ...power('z', z)].join(' * ')].join(' * ('),
  )
    .map((product) => `${product})`)
    .join('\n      + ');
  const powers = ['x', 'y', 'z']
    .map(
      (a) =>
        `float ${a} = n.${a}, ${a}2 = ${a} * ${a}, ${a}3 = ${a}2 * ${a}, ${a}4 = ${a}2 * ${a}2, ${a}5 = ${a}4 * ${a}, ${a}6 = ${a}3 * ${a}3;`,
    )
    .join('\n    ');
  return `
  uniform vec3 shading[${SHADING_TERMS.length}];
  vec3 shadeAt(vec3 n) {
    ${powers}
    return max(vec3(0.0), ${sum});
  }`;
})();
