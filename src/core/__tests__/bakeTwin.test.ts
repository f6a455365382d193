import '../compute';
import { POINT_NUMBERS } from '../../kernels/rays';
import type { Model } from '../mesh/model';
import { baked, ballModel, together } from '../testing/baked';
import { againstReference } from '../testing/tangents';
import type { Reach } from '../bake/project';
import { Share } from '../bake/share';
import { boxModel, cubeModel, quadModel, seededRandom, smoothed } from '../testing/models';

/** A field of bumps over a square of 1, 64 × 64 quads; its normals as they are by the formula. */
const bump = (x: number, z: number) => 0.03 * Math.sin(9 * x) * Math.cos(7 * z);
function bumps(cells = 160): Model {
  const positions: number[] = [];
  const normals: number[] = [];
  const indices: number[] = [];
  for (let i = 0; i <= cells; i++)
    for (let j = 0; j <= cells; j++) {
      const [x, z] = [j / cells - 0.5, i / cells - 0.5];
      positions.push(x, bump(x, z), z);
      normals.push(...bumpNormal(x, z));
    }
  for (let i = 0; i < cells; i++)
    for (let j = 0; j < cells; j++) {
      const a = i * (cells + 1) + j;
      indices.push(a, a + cells + 1, a + 1, a + 1, a + cells + 1, a + cells + 2);
    }
  return {
    ...cubeModel(),
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: [],
    indices: Uint32Array.from(indices),
    facePart: new Uint16Array(indices.length / 3),
    faceMaterial: new Uint16Array(indices.length / 3),
  };
}
function bumpNormal(x: number, z: number): number[] {
  const dx = 0.27 * Math.cos(9 * x) * Math.cos(7 * z);
  const dz = -0.21 * Math.sin(9 * x) * Math.sin(7 * z);
  const l = Math.hypot(dx, 1, dz);
  return [-dx / l, 1 / l, -dz / l];
}

/** A square of 1 that faces up. Its UVs run to the right and to the front; mirrored: to the left. */
const square = (mirrored = false): Model =>
  quadModel([
    {
      corners: [
        [-0.5, 0, 0.5],
        [0.5, 0, 0.5],
        [0.5, 0, -0.5],
        [-0.5, 0, -0.5],
      ],
      uv: mirrored ? [0.95, 0.05, 0.05, 0.95] : [0.05, 0.05, 0.95, 0.95],
    },
  ]);

/** By the place on the sheet of a square's or a cube's point. */
const at =
  (by: (place: { u: number }) => { reach: number; split: number }): Reach['at'] =>
  (points, n) => {
    const { data } = points;
    return by({ u: 0.05 + 0.9 * (data[n * POINT_NUMBERS] + 0.5) });
  };

/** UVs of a model by a formula of its places, mirrored on one side. */
function mirroredUvs(model: Model): Model {
  const uv = new Float32Array((model.positions.length / 3) * 2);
  for (let v = 0; v < uv.length / 2; v++) {
    const [x, y, z] = model.positions.subarray(v * 3, v * 3 + 3);
    uv.set([Math.abs(x) * 0.4 + 0.1 * z, 0.5 - 0.3 * y + 0.1 * z], v * 2);
  }
  return { ...model, uvs: [uv] };
}

describe('Tangents', () => {
  const random = seededRandom(8);
  const scattered: Model = { ...ballModel(1, 9, 14) };
  scattered.uvs = [scattered.uvs[0].map((v) => v + (random() - 0.5) * 0.03)];

  it.each([
    ['a cube', cubeModel()],
    ['a cube that is shaded smoothly', smoothed(cubeModel())],
    ['a ball with a seam', ballModel(1, 12, 20)],
    ['UVs all over the place', scattered],
    ['mirrored UVs', mirroredUvs(ballModel(1, 12, 20))],
  ])('are those of the reference at every corner of %s', (_, model) => {
    const { worst, turned } = againstReference(model);
    expect(worst).toBeLessThan(2e-3);
    expect(turned).toBe(0);
  });
});

describe('A twin', () => {
  it('that is the model itself gives a flat normal map', () => {
    for (const model of [cubeModel(), smoothed(cubeModel()), ballModel(0.5, 24, 48), mirroredUvs(boxModel(1, 2, 1))]) {
      const out = baked(model, { type: 'normal' }, { twin: model, reach: { split: 1 } });
      let n = 0;
      out.each(([x, y, z], place) => {
        // Away from edges, and from the poles of a ball, where triangles are slivers.
        if (model.positions.length < 300 && place.filter((c) => Math.abs(c) > 0.47).length > 1) return;
        if (model.positions.length >= 300 && Math.abs(place[1]) > 0.45) return;
        n++;
        for (const [v, expected] of [
          [x, 0.5],
          [y, 0.5],
          [z, 1],
        ])
          expect(Math.abs(v - expected)).toBeLessThan(1 / 255);
      });
      expect(n).toBeGreaterThan(100);
    }
  });

  it.each([false, true])('of bumps over a square gives their normals (UVs mirrored: %s)', (mirrored) => {
    const out = baked(square(mirrored), { type: 'normal' }, { twin: bumps(), size: 128 });
    let worst = 0;
    out.each((v, [x, , z]) => {
      if (Math.abs(x) > 0.49 || Math.abs(z) > 0.49) return;
      const [nx, ny, nz] = bumpNormal(x, z);
      // Along U, up the picture, out. The picture's own up is −Z.
      const expected = [mirrored ? -nx : nx, -nz, ny];
      expected.forEach((e, k) => (worst = Math.max(worst, Math.abs(v[k] * 2 - 1 - e))));
    });
    expect(worst).toBeLessThan(0.01);
  });

  it('gives its height over the model, and the mean of finer parts', () => {
    for (const supersample of [1, 4] as const) {
      const out = baked(square(), { type: 'height', span: 0.05 }, { twin: bumps(), supersample });
      out.each(([v], [x, , z]) => {
        if (Math.abs(x) < 0.48 && Math.abs(z) < 0.48) expect(Math.abs((v - 0.5) * 0.1 - bump(x, z))).toBeLessThan(1e-3);
      });
    }
  });

  it('is missed where it is not, or further off than the reach: nothing is there, and it is counted', () => {
    const half = quadModel([
      {
        corners: [
          [-0.5, 0.02, 0.5],
          [0, 0.02, 0.5],
          [0, 0.02, -0.5],
          [-0.5, 0.02, -0.5],
        ],
        uv: [0, 0, 0, 0],
      },
    ]);
    const out = baked(square(), { type: 'height' }, { twin: half });
    let right = 0;
    out.each((_, [x]) => {
      expect(x).toBeLessThan(0.01);
      right++;
    });
    // The island's texels are 58 × 58 of 64 × 64: from 3.5 to 60.5; the right half of them are 29 columns.
    expect([right, out.missed]).toEqual([29 * 58, 29 * 58]);
    const far = baked(square(), { type: 'height' }, { twin: half, reach: { outward: 0.01, inward: 0.01 } });
    far.each(() => {
      throw new Error('nothing is within reach');
    });
    expect(far.missed).toBe(58 * 58);
    const finer = baked(square(), { type: 'height' }, { twin: half, reach: { outward: 0.01, inward: 0.01 }, supersample: 4 });
    expect(finer.missed).toBe(58 * 58);
  });

  it('of which parts are matched does not bleed from one part onto its neighbour', () => {
    const near = (y: number): Model =>
      quadModel([
        {
          corners: [
            [-0.5, y, 0.5],
            [0.5, y, 0.5],
            [0.5, y, -0.5],
            [-0.5, y, -0.5],
          ],
          uv: [0, 0, 0, 0],
        },
      ]);
    const twin = together(near(0.01), near(0.03));
    const mean = (matching: (number[] | null)[] | null) => {
      let [sum, n] = [0, 0];
      baked(square(), { type: 'height', span: 0.1 }, { twin, matching }).each(([v]) => {
        sum += (v - 0.5) * 0.2;
        n++;
      });
      return sum / n;
    };
    // From outside in, the other part lies before it.
    expect(mean(null)).toBeCloseTo(0.03, 3);
    expect(mean([[0]])).toBeCloseTo(0.01, 3);
  });

  it('with hard edges: averaged directions leave no gap at the corners of a box, its own ones do', () => {
    const [box, larger] = [cubeModel(), boxModel(1.1, 1.1, 1.1)];
    const averaged = baked(box, { type: 'height' }, { twin: larger, reach: { outward: 0.2, inward: 0.2, split: 0 } });
    expect(averaged.missed).toBe(0);
    // Up its own normal each side meets the larger one at the same distance.
    const own = baked(box, { type: 'height', span: 0.1 }, { twin: larger, reach: { outward: 0.2, inward: 0.2, split: 1 } });
    own.each(([v]) => expect(v).toBeCloseTo(0.5 + 0.25, 3));
  });

  it('painted reaches count place by place: where they are black nothing is looked for', () => {
    const share = new Share({ width: 2, height: 1, channels: 1, bits: 8, data: Uint8Array.of(0, 255) });
    // The square's U runs from 0.05 to 0.95 along x; between the two texels' middles it fades.
    const reach = { outward: 0.1, inward: 0, at: at(({ u }) => ({ reach: share.at(u, 0.5), split: 0 })) };
    const twin = square();
    twin.positions = twin.positions.map((v, k) => (k % 3 === 1 ? 0.05 : v));
    const out = baked(square(), { type: 'height', span: 0.1 }, { twin, reach });
    let [near, there] = [-1, 0];
    out.each(([v], [x]) => {
      expect(v).toBeCloseTo(0.5 + 0.25, 3);
      near = Math.min(near < -0.5 ? 1 : near, x);
      there++;
    });
    // Half of the reach is enough for what lies half of it away: from the middle on.
    expect(Math.abs(near)).toBeLessThan(0.03);
    expect(there).toBeGreaterThan(1000);
    expect(out.missed).toBeGreaterThan(1000);
  });

  it('painted directions are hard where they are white, averaged where they are black', () => {
    const [box, larger] = [cubeModel(), boxModel(1.1, 1.1, 1.1)];
    const heights = (split: number, more?: Reach['at']) => {
      const found: number[] = [];
      const reach = { outward: 0.2, inward: 0.2, split, at: more };
      baked(box, { type: 'height', span: 0.1 }, { twin: larger, reach }).each(([v]) => found.push(v));
      return found;
    };
    const mixed = heights(
      0,
      at(({ u }) => ({ reach: 1, split: u < 0.5 ? 1 : 0 })),
    );
    const [hard, soft] = [heights(1), heights(0)];
    expect(hard.length).toBe(mixed.length);
    let [as, other] = [0, 0];
    mixed.forEach((v, i) => {
      expect(v === hard[i] || v === soft[i]).toBe(true);
      if (hard[i] === soft[i]) return;
      if (v === hard[i]) as++;
      else other++;
    });
    expect(Math.min(as, other)).toBeGreaterThan(100);
  });

  it('gives the colours of its vertices', () => {
    const twin = bumps(8);
    const colours = Float32Array.from({ length: twin.positions.length }, (_, i) =>
      i % 3 === 0 ? twin.positions[i] + 0.5 : 0.25,
    );
    baked(square(), { type: 'vertex-colour' }, { twin, colours }).each(([r, g], [x]) => {
      expect(r).toBeCloseTo(x + 0.5, 2);
      expect(g).toBeCloseTo(0.25, 4);
    });
  });

  it('of itself is what it is baked from: occlusion and curvature are those of the twin', () => {
    const occlusion = baked(square(), { type: 'occlusion', samples: 64 }, { twin: bumps() });
    let [low, high] = [1, 0];
    occlusion.each(([v], [x, , z]) => {
      if (Math.abs(x) > 0.4 || Math.abs(z) > 0.4) return;
      low = Math.min(low, v);
      high = Math.max(high, v);
    });
    expect(high).toBeGreaterThan(0.97);
    expect(low).toBeLessThan(0.95);
    // Mean curvature of a field of heights is about −(h_xx + h_zz) / 2.
    baked(square(), { type: 'curvature', radius: 0.03 }, { twin: bumps() }).each(([v], [x, , z]) => {
      if (Math.abs(x) > 0.4 || Math.abs(z) > 0.4) return;
      const h = ((81 + 49) / 2) * bump(x, z);
      if (Math.abs(h) > 0.8) expect(Math.sign(v - 0.5)).toBe(Math.sign(h));
    });
  });
});
