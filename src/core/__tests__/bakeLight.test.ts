import '../compute';
import { baked, ballModel, together } from '../testing/baked';
import { boxModel, quadModel } from '../testing/models';
import type { Model } from '../mesh/model';

/** A square around the origin that faces up, over nearly all of the sheet. */
const floor = (half: number, y = 0): Model =>
  quadModel([
    {
      corners: [
        [-half, y, half],
        [half, y, half],
        [half, y, -half],
        [-half, y, -half],
      ],
      uv: [0.05, 0.05, 0.95, 0.95],
    },
  ]);

/** A disc that faces down, of thin triangles. */
function disc(radius: number, y: number): Model {
  const wedges = 256;
  const ring = Array.from({ length: wedges + 1 }, (_, i) => (i / wedges) * 2 * Math.PI);
  return {
    ...floor(1),
    positions: Float32Array.from([0, y, 0, ...ring.flatMap((a) => [radius * Math.cos(a), y, radius * Math.sin(a)])]),
    normals: Float32Array.from(Array.from({ length: wedges + 2 }, () => [0, -1, 0]).flat()),
    uvs: [new Float32Array((wedges + 2) * 2)],
    indices: Uint32Array.from(Array.from({ length: wedges }, (_, i) => [0, i + 1, i + 2]).flat()),
    facePart: new Uint16Array(wedges),
    faceMaterial: new Uint16Array(wedges),
  };
}

const SAMPLES = 256;
/** 99 % of independent samples lie within so much of a share; ours lie closer. */
const within = (share: number, samples = SAMPLES) => 2.576 * Math.sqrt((share * (1 - share)) / samples) + 0.004;

describe('Occlusion against what is known', () => {
  it('at the foot of a wall half of the sky is open; further off it follows the form factor', () => {
    // A floor with a wall of 1 at its far side, wide enough to count as endless.
    const wall = quadModel([
      {
        corners: [
          [-40, 0, 0],
          [40, 0, 0],
          [40, 1, 0],
          [-40, 1, 0],
        ],
        uv: [0, 0, 0, 0],
      },
    ]);
    const ground = quadModel([
      {
        corners: [
          [-0.2, 0, 1.6],
          [0.2, 0, 1.6],
          [0.2, 0, 0],
          [-0.2, 0, 0],
        ],
        uv: [0.05, 0.05, 0.95, 0.95],
      },
    ]);
    const out = baked(together(ground, wall), { type: 'occlusion', reach: 4, samples: SAMPLES });
    let wrong = 0;
    let all = 0;
    out.each(([v], [x, , z]) => {
      if (Math.abs(x) > 0.15) return;
      // A strip's share of the sky of a place at its foot: (1 − cos θ) / 2, θ up to its upper rim.
      const open = 1 - (1 - z / Math.hypot(1, z)) / 2;
      all++;
      if (Math.abs(v - open) > within(open)) wrong++;
    });
    expect(all).toBeGreaterThan(1000);
    expect(wrong / all).toBeLessThan(0.01);
  });

  it('under a disc its share of the sky is covered', () => {
    const out = baked(together(floor(0.02), disc(0.5, 0.5)), { type: 'occlusion', reach: 4, samples: SAMPLES });
    // A disc of radius r at height h over the middle covers r² / (r² + h²): half.
    out.each(([v]) => expect(Math.abs(v - 0.5)).toBeLessThan(within(0.5)));
  });

  it('inside a ball nothing is open, and between close plates nearly nothing', () => {
    const ball = baked(ballModel(1, 24, 48, { hollow: true }), { type: 'occlusion', reach: 4, samples: 32 });
    ball.each(([v]) => expect(v).toBe(0));
    const [a, h] = [1, 0.05];
    const plates = baked(together(floor(a), floor(a * 4, h)), { type: 'occlusion', reach: 4, samples: SAMPLES });
    plates.each(([v], [x, , z]) => {
      if (Math.hypot(x, z) < 0.5) expect(v).toBeLessThan(0.01);
    });
  });

  it('the reach ends what counts; fronts only lets through what is seen from behind; own part only leaves others out', () => {
    const both = together(floor(0.2), disc(2, 0.5));
    const mean = (settings: object) => {
      let [sum, n] = [0, 0];
      baked(both, { type: 'occlusion', samples: 64, reach: 4, ...settings }).each(([v]) => {
        sum += v;
        n++;
      });
      return sum / n;
    };
    expect(mean({})).toBeLessThan(0.1);
    // The size is 4: a reach of 0.1 is 0.4, less than the disc is away.
    expect(mean({ reach: 0.1 })).toBe(1);
    expect(mean({ among: 'own' })).toBe(1);
    // The disc faces down, so its front is in the way; turned round it is not there.
    expect(mean({ sides: 'front' })).toBeLessThan(0.1);
    both.indices.subarray(6).reverse();
    expect(mean({ sides: 'front' })).toBe(1);
    expect(mean({})).toBeLessThan(0.1);
  });

  it('noise falls at least as the root of the samples', () => {
    const model = together(floor(0.3), disc(0.5, 0.5));
    const spread = (samples: number) => {
      const out = baked(model, { type: 'occlusion', reach: 4, samples });
      const fine = baked(model, { type: 'occlusion', reach: 4, samples: 1024 });
      let [sum, n] = [0, 0];
      out.each(([v], _, __, x, y) => {
        sum += (v - fine.at(x, y)![0]) ** 2;
        n++;
      });
      return Math.sqrt(sum / n);
    };
    const [few, many] = [spread(16), spread(256)];
    expect(few).toBeGreaterThan(0.01);
    expect(many).toBeLessThan(few / 4);
  });

  it('a coarse ball that is shaded smoothly shows none of its facets', () => {
    const out = baked(ballModel(1, 8, 12), { type: 'occlusion', reach: 4, samples: 128 });
    let least = 1;
    out.each(([v]) => (least = Math.min(least, v)));
    expect(least).toBeGreaterThan(0.97);
  });

  it('has no rims: across the edge of an island it differs no more than within', () => {
    const model = together(boxModel(1, 1, 1), floor(3, -0.6));
    const out = baked(model, { type: 'occlusion', reach: 1, samples: 64, size: 128 }, { size: 128 });
    // Texels of the gutter beside the lower edge of a side against the last ones within it.
    let [across, inside, n] = [0, 0, 0];
    out.each(([v], place, face, x, y) => {
      if (face > 1 || place[1] > -0.47) return;
      const [below, above] = [out.at(x, y + 1), out.at(x, y - 1)];
      if (!below || !above) return;
      across += Math.abs(below[0] - v);
      inside += Math.abs(above[0] - v);
      n++;
    });
    expect(n).toBeGreaterThan(10);
    expect(across / n).toBeLessThanOrEqual(inside / n + 0.01);
  });

  it.each([1, 2] as const)('fills the whole gutter with what the island has at its edge (%d parts a side)', (supersample) => {
    const model = boxModel(1, 1, 1);
    const out = baked(model, { type: 'facing' }, { size: 256, supersample });
    let gutter = 0;
    for (const tile of out.map.tiles.values())
      for (let i = 0; i < tile.face.length; i++) {
        const f = tile.face[i];
        if (f < 0) continue;
        const [x, y] = [tile.x * 128 + (i % 128), tile.y * 128 + Math.floor(i / 128)];
        // Each side of a box faces one way: its gutter too, however far out.
        const own = model.normals[model.indices[f * 3] * 3 + 1] * 0.5 + 0.5;
        expect(out.at(x, y)?.[0]).toBeCloseTo(own, 3);
        gutter++;
      }
    let inside = 0;
    out.each(() => inside++);
    expect(gutter).toBeGreaterThan(inside * 1.1);
  });

  it('points into the open: the bent normal of a floor beside a wall leans away from it', () => {
    const wall = quadModel([
      {
        corners: [
          [-9, 0, 0],
          [9, 0, 0],
          [9, 5, 0],
          [-9, 5, 0],
        ],
        uv: [0, 0, 0, 0],
      },
    ]);
    const ground = quadModel([
      {
        corners: [
          [-0.1, 0, 0.3],
          [0.1, 0, 0.3],
          [0.1, 0, 0.1],
          [-0.1, 0, 0.1],
        ],
        uv: [0.05, 0.05, 0.95, 0.95],
      },
    ]);
    const out = baked(together(ground, wall), { type: 'bent-normal', reach: 4, samples: 256 });
    out.each(([x, y, z]) => {
      expect(Math.abs(x - 0.5)).toBeLessThan(0.08);
      expect(z).toBeGreaterThan(0.65);
      expect(Math.hypot(x * 2 - 1, y * 2 - 1, z * 2 - 1)).toBeCloseTo(1, 3);
    });
  });
});

describe('Thickness', () => {
  it('of a slab is the mean way of rays through it', () => {
    // Rays spread by the cosine go through a slab of d in d / cos: on the mean 2 d.
    const [d, reach] = [0.1, 0.5];
    const out = baked(boxModel(8, d, 8), { type: 'thickness', reach: reach / 8, samples: 256 });
    // Ways are cut at the reach: ∫ min(d / c, r) 2 c dc = 2 d − d² / r.
    const expected = (2 * d - (d * d) / reach) / reach;
    let n = 0;
    out.each(([v], [x, y, z]) => {
      if (Math.abs(y) < 0.049 || Math.abs(x) > 3 || Math.abs(z) > 3) return;
      n++;
      expect(Math.abs(v - expected)).toBeLessThan(0.03);
    });
    expect(n).toBeGreaterThan(100);
  });

  it('of a ball is two thirds of its width', () => {
    // A chord at an angle is 2 r cos: ∫ 2 r c · 2 c dc = 4 r / 3.
    const out = baked(ballModel(0.5), { type: 'thickness', reach: 1, samples: 128 });
    out.each(([v]) => expect(Math.abs(v - 2 / 3)).toBeLessThan(0.02));
  });
});
