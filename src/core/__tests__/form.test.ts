/** How a model's shape shades it: against closed forms, and on shapes of which one knows what is hollow. */
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
