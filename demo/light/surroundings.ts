/** The pieces of the sphere that the pixels of a cube's faces cover. */
import type { Surrounding } from '../../src/core/light/shading';

/** From a place on a face, −1 … 1, to the direction: OpenGL 4.6 core specification, table 8.19. Order: +X −X +Y −Y +Z −Z. */
const DIRECTIONS: readonly ((s: number, t: number) => [number, number, number])[] = [
  (s, t) => [1, -t, -s],
  (s, t) => [-1, -t, s],
  (s, t) => [s, 1, t],
  (s, t) => [s, -1, -t],
  (s, t) => [s, -t, 1],
  (s, t) => [-s, -t, -1],
];

/** `faces`: six of size × size RGBA pixels, linear light, row by row. */
export function* surroundingsOf(faces: readonly ArrayLike<number>[], size: number): Generator<Surrounding> {
  for (let face = 0; face < 6; face++)
    for (let i = 0; i < size * size; i++) {
      const place = (n: number) => ((n + 0.5) / size) * 2 - 1;
      const direction = DIRECTIONS[face](place(i % size), place(Math.floor(i / size)));
      const length = Math.hypot(...direction);
      yield {
        direction: [direction[0] / length, direction[1] / length, direction[2] / length],
        solidAngle: 4 / (size * size * length ** 3),
        radiance: [faces[face][i * 4], faces[face][i * 4 + 1], faces[face][i * 4 + 2]],
      };
    }
}
