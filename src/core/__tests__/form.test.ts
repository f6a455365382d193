/** How a model's shape shades it: against closed forms, and on shapes of which one knows what is hollow. */
import { cutsFor, finer, type Surface } from '../mesh/finer';
import { formOf, occlusion } from '../mesh/form';
import { RayQuery, type RayModel } from '../mesh/surfaceQuery';
import { cubeModel } from '../testing/models';

/** Quads by their corners, each with vertices of its own. */
function quads(...all: [number, number, number][][]): RayModel {
  const positions = Float32Array.from(all.flat(2));
  const indices = Uint32Array.from(all.flatMap((_, n) => [0, 1, 2, 0, 2, 3].map((k) => n * 4 + k)));
  return {
    positions,
    normals: new Float32Array(positions.length),
    indices,
    facePart: new Uint16Array(indices.length / 3),
    parts: ['p'],
  };
}

function run(model: RayModel): Float32Array {
  const work = formOf(model, new RayQuery(model));
  let [step, before] = [work.next(), -1];
  while (!step.done) {
    expect(step.value).toBeGreaterThan(before);
    before = step.value as number;
    step = work.next();
  }
  return step.value;
}

test('in the middle of a groove whose sides rise at 45°, a third of the sky is closed: 1 − sin 45°', () => {
  const far = 1000;
  const groove = quads(
    [
      [0, 0, -far],
      [-far, far, -far],
      [-far, far, far],
      [0, 0, far],
    ],
    [
      [0, 0, -far],
      [0, 0, far],
      [far, far, far],
      [far, far, -far],
    ],
  );
  const query = new RayQuery(groove);
  // So far a reach that nearness counts in full.
  expect(occlusion(query, [0, 1e-3, 0], [0, 1, 0], 1e9, 4096)).toBeCloseTo(1 - Math.SQRT1_2, 2);
  expect(occlusion(query, [0, 1e-3, 0], [0, -1, 0], 1e9, 256)).toBeGreaterThan(0.9);
});

test('nothing over a plane; what is further than the reach does not count; nearness counts by distance', () => {
  const lid = quads([
    [-100, 1, -100],
    [100, 1, -100],
    [100, 1, 100],
    [-100, 1, 100],
  ]);
  const query = new RayQuery(lid);
  expect(occlusion(query, [0, 0, 0], [0, -1, 0], 10)).toBe(0);
  expect(occlusion(query, [0, 0, 0], [0, 1, 0], 0.9)).toBe(0);
  // The mean of 1 − (1 / cosine) / reach under the cosine: 1 − 2 / reach, but for rays longer than the reach.
  expect(occlusion(query, [0, 0, 0], [0, 1, 0], 40, 4096)).toBeCloseTo(1 - 2 / 40, 1);
});

test('a box only stands out; a hollow in a box is dark', () => {
  const box = run(cubeModel());
  for (const v of box) {
    expect(v).toBeLessThan(0);
    expect(v).toBeGreaterThanOrEqual(-0.16);
  }
  // A floor with a wall: dark along the foot, not at its far rim.
  const corner = run(
    quads(
      [
        [0, 0, 0],
        [0, 0, 1],
        [4, 0, 1],
        [4, 0, 0],
      ],
      [
        [0, 0, 0],
        [0, 4, 0],
        [0, 4, 1],
        [0, 0, 1],
      ],
    ),
  );
  expect(corner[0]).toBeGreaterThan(0.1);
  expect(corner[2]).toBeLessThan(0.03);
  // Where vertices lie at one place they are shaded alike.
  expect(corner[4]).toBe(corner[0]);
});

test('the same model comes out the same', () => {
  expect(run(cubeModel())).toEqual(run(cubeModel()));
});

describe('a finer mesh', () => {
  const cube = cubeModel();
  const surface: Surface = { ...cube, uv: cube.uvs[0] };
  const areaOf = ({ positions: p, indices }: Surface, from = 0, to = indices.length) => {
    let area = 0;
    for (let i = from; i < to; i += 3) {
      const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3];
      const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
      const v = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
      area += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
    }
    return area;
  };

  test.each([1, 2, 3, 6])('of %i cuts has the same surface, face by face, seen from the same side', (cuts) => {
    const fine = finer(surface, cuts);
    const each = cuts * cuts * 3;
    expect(fine.indices.length).toBe(surface.indices.length * cuts * cuts);
    for (let f = 0; f < surface.indices.length / 3; f++) {
      expect(areaOf(fine, f * each, (f + 1) * each)).toBeCloseTo(areaOf(surface, f * 3, f * 3 + 3), 6);
      // Normals of the plane and of its pieces are the same.
      const across = ({ positions: p, indices }: Surface, i: number) => {
        const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3];
        const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
        const v = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
        return [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
      };
      const own = across(surface, f * 3);
      for (let i = f * each; i < (f + 1) * each; i += 3)
        across(fine, i).forEach((v, k) => expect(v * cuts * cuts).toBeCloseTo(own[k], 5));
    }
  });

  test('texture places lie where those of the plane do', () => {
    const fine = finer(surface, 4);
    const uvs = new Set(
      Array.from({ length: fine.uv.length / 2 }, (_, n) => `${fine.uv[n * 2].toFixed(5)} ${fine.uv[n * 2 + 1].toFixed(5)}`),
    );
    for (let v = 0; v < surface.uv.length / 2; v++)
      expect(uvs).toContain(`${surface.uv[v * 2].toFixed(5)} ${surface.uv[v * 2 + 1].toFixed(5)}`);
  });

  test('is made of what is coarse, not of what is fine, and not without end', () => {
    expect(cutsFor(surface, Math.sqrt(3))).toBe(6);
    expect(cutsFor(finer(surface, 6), 100)).toBe(1);
    const many = { positions: surface.positions, indices: new Uint32Array(3 * 50_000).map((_, i) => surface.indices[i % 36]) };
    expect(cutsFor(many, Math.sqrt(3))).toBe(1);
  });
});
