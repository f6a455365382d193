/** The shading of matte surfaces against integrals that are known in closed form. */
import { shadeAt, shadingOf, SHADING_TERMS, type Surrounding } from '../shading';

/** The sphere in rings of equal area, every ring in equal steps. */
function sphere(radiance: (direction: readonly [number, number, number]) => number, rings = 100, steps = 200): Surrounding[] {
  const out: Surrounding[] = [];
  for (let r = 0; r < rings; r++)
    for (let s = 0; s < steps; s++) {
      const y = 1 - (2 * (r + 0.5)) / rings;
      const turn = (2 * Math.PI * (s + 0.5)) / steps;
      const across = Math.sqrt(1 - y * y);
      const direction = [across * Math.cos(turn), y, across * Math.sin(turn)] as const;
      out.push({ direction, solidAngle: (4 * Math.PI) / (rings * steps), radiance: [radiance(direction)] });
    }
  return out;
}
const NORMALS = [
  [0, 1, 0],
  [0, -1, 0],
  [1, 0, 0],
  [0.6, 0.8, 0],
  [-0.48, 0.6, 0.64],
  [2 / 3, -1 / 3, -2 / 3],
] as const;
const shading = (radiance: Parameters<typeof sphere>[0]) => shadingOf(sphere(radiance), 1);

test('a white surface in white surroundings is white', () => {
  const white = shading(() => 1);
  for (const normal of NORMALS) expect(shadeAt(white, 0, normal)).toBeCloseTo(1, 3);
});

test('a sky that brightens with height: 2/3 of its slope', () => {
  // ∫ max(0, n·ω) ω_y dω = (2π/3) n_y.
  const slope = shading(([, y]) => y);
  for (const normal of NORMALS) expect(shadeAt(slope, 0, normal)).toBeCloseTo((2 / 3) * normal[1], 3);
});

test('light squared with the height: 1/4 + n_y²/4', () => {
  // ω_y² = 1/3 + 2/3 P₂(ω_y), and the bands of degree 0 and 2 are weighed by 1 and 1/4.
  const squared = shading(([, y]) => y * y);
  for (const normal of NORMALS) expect(shadeAt(squared, 0, normal)).toBeCloseTo(1 / 3 + (3 * normal[1] ** 2 - 1) / 12, 3);
});

test('a white half of the sky: (1 + cos of the angle to its middle) / 2', () => {
  const half = shading(([, y]) => (y > 0 ? 1 : 0));
  for (const normal of NORMALS) expect(shadeAt(half, 0, normal)).toBeCloseTo((1 + normal[1]) / 2, 2);
});

test('turning the surroundings turns the shading', () => {
  const spot = ([x, y, z]: readonly [number, number, number]) => Math.exp(8 * (x * 0.6 + y * 0.48 + z * 0.64 - 1));
  const turned = ([x, y, z]: readonly [number, number, number]) => spot([y, z, x]);
  const [a, b] = [shading(spot), shading(turned)];
  for (const [x, y, z] of NORMALS) expect(shadeAt(b, 0, [x, y, z])).toBeCloseTo(shadeAt(a, 0, [y, z, x]), 3);
});

test('channels do not mix', () => {
  const pieces = sphere(() => 1).map((piece, n) => ({ ...piece, radiance: [n % 3, 1, 5] }));
  const count = SHADING_TERMS.length;
  expect(shadingOf(pieces).slice(count, 2 * count)).toEqual(shading(() => 1));
});
