import '../compute';
import { distanceToFaces, squareToTriangle } from '../rays/distance';
import { idColour } from '../kinds/bakes/ids';
import { baked, ballModel, together } from '../testing/baked';
import { boxModel, cubeModel, quadModel, seededRandom, smoothed } from '../testing/models';

describe('Curvature', () => {
  it.each([0.5, 2])('of a ball of radius %d is one over it, within 2 %', (r) => {
    // The value is 0.5 + curvature × radius / 2, and the size of a ball is its width.
    const radius = 0.05;
    const out = baked(ballModel(r), { type: 'curvature', radius });
    const expected = (1 / r) * (radius * 2 * r);
    let n = 0;
    out.each(([v], [, y]) => {
      // At the poles the UVs come together in slivers.
      if (Math.abs(y) > 0.9 * r) return;
      n++;
      expect(Math.abs((v - 0.5) * 2 - expected)).toBeLessThan(expected * 0.02);
    });
    expect(n).toBeGreaterThan(500);
  });

  it('of a hollow ball is the same below level', () => {
    const out = baked(ballModel(1, 48, 96, { hollow: true }), { type: 'curvature', radius: 0.05 });
    out.each(([v], [, y]) => Math.abs(y) < 0.9 && expect(Math.abs((v - 0.5) * 2 + 0.1)).toBeLessThan(0.003));
  });

  it('of a ring bulges outside, and has the right sign inside where the tube outweighs the ring', () => {
    // Mean curvature of a torus: (R + 2 r cos a) / (2 r (R + r cos a)), a from the outside in.
    const [R, r] = [1, 0.7];
    const out = baked(ballModel(r, 96, 192, { torus: R }), { type: 'curvature', radius: 0.03, strength: 4 });
    const size = 2 * (R + r);
    let below = 0;
    out.each(([v], [x, , z]) => {
      const cos = (Math.hypot(x, z) - R) / r;
      const H = (R + 2 * r * cos) / (2 * r * (R + r * cos));
      const value = (v - 0.5) / (0.03 * size * 0.5 * 4);
      if (H < -0.1) below++;
      if (Math.abs(H) > 0.15) expect(Math.sign(value)).toBe(Math.sign(H));
      if (cos > 0) expect(Math.abs(value - H)).toBeLessThan(0.04 * H);
    });
    expect(below).toBeGreaterThan(50);
  });

  it('is level on flat faces, light along edges that stand out, dark along those that go in', () => {
    const out = baked(together(cubeModel()), { type: 'curvature', radius: 0.05 }, { size: 128 });
    out.each(([v], place) => {
      const edge = place.map((c) => 0.5 - Math.abs(c)).sort((a, b) => a - b)[1];
      if (edge > 0.051) expect(v).toBeCloseTo(0.5, 4);
      else if (edge < 0.02) expect(v).toBeGreaterThan(0.6);
    });
    const corner = quadModel([
      {
        corners: [
          [0, 0, 1],
          [1, 0, 1],
          [1, 0, 0],
          [0, 0, 0],
        ],
        uv: [0.05, 0.05, 0.45, 0.45],
      },
      {
        corners: [
          [0, 0, 0],
          [1, 0, 0],
          [1, 1, 0],
          [0, 1, 0],
        ],
        uv: [0.55, 0.55, 0.95, 0.95],
      },
    ]);
    const inner = baked(corner, { type: 'curvature', radius: 0.05 });
    inner.each(([v], [, y, z]) => {
      if (Math.max(y, z) < 0.02) expect(v).toBeLessThan(0.4);
    });
    const cavity = baked(corner, { type: 'cavity', radius: 0.05 });
    cavity.each(([v], [, y, z]) => Math.max(y, z) < 0.02 && expect(v).toBeGreaterThan(0.3));
    let open = 0;
    cavity.each(([v], [, y, z]) => Math.max(y, z) > 0.06 && (open = Math.max(open, v)));
    expect(open).toBe(0);
  });

  it('is the same on both sides of a seam to 1/65535', () => {
    // Two squares that share an edge, their texels so laid out that places on both sides fall together.
    const bent = (gap: number) =>
      quadModel([
        {
          corners: [
            [-1, 0, 0.5],
            [0, 0, 0.5],
            [0, 0, -0.5],
            [-1, 0, -0.5],
          ],
          uv: [0, 0, 0.5, 0.5],
        },
        {
          corners: [
            [0, 0, 0.5],
            [1, gap, 0.5],
            [1, gap, -0.5],
            [0, 0, -0.5],
          ],
          uv: [0.5, 0.5, 1, 1],
        },
      ]);
    for (const model of [bent(-0.4), smoothed(bent(-0.4))]) {
      const out = baked(model, { type: 'curvature', radius: 0.1 });
      // Gutter texels of either island lie on the seam itself.
      const ones = Array.from({ length: 28 }, (_, i) => out.at(33, 2 + i)).filter((v) => v);
      const others = Array.from({ length: 28 }, (_, i) => out.at(30, 34 + i)).filter((v) => v);
      expect(ones.length).toBeGreaterThan(20);
      ones.slice(2, 20).forEach((v, i) => expect(Math.abs(v![0] - others[i + 2]![0]) * 65535).toBeLessThanOrEqual(1));
    }
  });
});

describe('Edges', () => {
  it('are white where two faces meet at an angle, and fade straight over the width', () => {
    const out = baked(cubeModel(), { type: 'edges', angle: 30, width: 0.1 }, { size: 128 });
    out.each(([v], place) => {
      // The nearest rim of the side that the place lies on.
      const edge = place.map((c) => 0.5 - Math.abs(c)).sort((a, b) => a - b)[1];
      expect(v).toBeCloseTo(Math.max(0, 1 - edge / 0.1), 4);
    });
  });

  it('leaves out what turns less than the angle, and what goes in', () => {
    const flat = baked(ballModel(1, 24, 48), { type: 'edges', angle: 30, width: 0.1 });
    flat.each(([v]) => expect(v).toBe(0));
    const hollow = baked(
      { ...cubeModel(), indices: cubeModel().indices.slice().reverse() },
      { type: 'edges', angle: 30, width: 0.1 },
    );
    hollow.each(([v]) => expect(v).toBe(0));
  });
});

describe('Places', () => {
  it('position, facing and world normal say what the model has there', () => {
    const model = boxModel(1, 2, 1);
    baked(model, { type: 'position', axis: 'y' }).each(([v], [, y]) => expect(v).toBeCloseTo(y / 2 + 0.5, 4));
    baked(model, { type: 'facing', towards: 'up' }).each(([v], _, face) =>
      expect(v).toBeCloseTo(face >> 1 === 4 ? 1 : face >> 1 === 5 ? 0 : 0.5, 4),
    );
    const ball = baked(ballModel(1), { type: 'world-normal' });
    ball.each((v, place) => {
      const l = Math.hypot(...place);
      place.forEach((p, k) => expect(Math.abs(v[k] * 2 - 1 - p / l)).toBeLessThan(0.003));
    });
  });

  it('ids are exact: one flat colour a part, none of them mixed', () => {
    const model = cubeModel();
    const parts = { ...model, facePart: model.facePart.map((_, f) => f >> 1), parts: ['a', 'b', 'c', 'd', 'e', 'f'] };
    baked(parts, { type: 'ids', of: 'part' }, { supersample: 4 }).each((v, _, face) => {
      const colour = idColour(face >> 1);
      colour.forEach((c, k) => expect(Math.round(v[k] * 65535)).toBe(Math.round(c * 65535)));
    });
    // As many as a model may have parts, and far more islands: all differ, in codes of 8 bits.
    const codes = new Set(
      Array.from({ length: 20_000 }, (_, n) =>
        idColour(n)
          .map((v) => v * 255)
          .join(),
      ),
    );
    expect(codes.size).toBe(20_000);
    for (const code of codes)
      for (const v of code.split(',')) expect(Math.abs(Number(v) - Math.round(Number(v)))).toBeLessThan(1e-9);
  });

  it('distances to a part are those of asking each of its triangles', () => {
    const random = seededRandom(4);
    const positions = Float32Array.from(
      { length: 300 * 9 },
      (_, i) => (random() - 0.5) * (i % 27 < 9 ? 2 : 0.4) + Math.floor(i / 9) / 300,
    );
    const indices = Uint32Array.from({ length: 900 }, (_, i) => i);
    const faces = Uint32Array.from({ length: 300 }, (_, i) => i);
    for (const reach of [0.05, 0.5, 10]) {
      const to = distanceToFaces({ positions, indices }, faces, reach);
      for (let n = 0; n < 300; n++) {
        const [x, y, z] = [0, 1, 2].map(() => random() * 4 - 1.5);
        let best = Infinity;
        for (const f of faces) best = Math.min(best, squareToTriangle(positions, indices, f, x, y, z));
        expect(to(x, y, z)).toBeCloseTo(Math.min(reach, Math.sqrt(best)), 9);
      }
    }
    const out = baked(together(cubeModel(), boxModel(1, 1, 1)), { type: 'distance', part: 'Part 1', reach: 0.2 });
    out.each(([v]) => expect(v).toBe(0));
  });
});
