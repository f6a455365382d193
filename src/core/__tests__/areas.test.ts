/** Shapes, gradients, fills and frames: what they cover, on canvases and on models, with wrap and mirrors. */
import { AREAS, areaSchema, type Area } from '../hand/areas';
import { ellipse, frameOfCorners, inside, line, outlineOf, polygon, rectangle } from '../hand/areas/figure';
import { texelGraphOf } from '../mesh/texels';
import type { Sample } from '../hand/sample';
import { brushFor, canvasEasel, fillWith, flatSample, modelEasel, strokeOn, texel, texelsOf, type Easel } from '../testing/hand';
import { cubeModel, seededRandom, smoothed } from '../testing/models';
import { pixelOf, sampleAt, viewAround, viewOf } from '../testing/views';

const RED = { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 } };

function lay(easel: Easel, area: object, samples: Sample[], over: object = {}) {
  return strokeOn(easel, brushFor({ writes: RED, area, ...over }), samples);
}

/** Alpha of each texel of base colour, 0 … 1. */
const alphas = (easel: Easel) => texelsOf(easel, 'base-colour').filter((_, i) => i % 4 === 3);
const count = (easel: Easel, least = 65000) => alphas(easel).reduce((n, a) => n + (a >= least ? 1 : 0), 0);

describe('figures', () => {
  test('distances of a rectangle and of an ellipse are those of their edges, turned too', () => {
    const frame = frameOfCorners({ x: 10, y: 10 }, { x: 30, y: 20 }, 0);
    const box = rectangle(frame);
    expect([box.distance(20, 15), box.distance(35, 15), box.distance(33, 24)]).toEqual([-5, 5, 5]);
    const round = ellipse(frame);
    expect(round.distance(20, 10)).toBeCloseTo(0, 9);
    expect(round.distance(30, 15)).toBeCloseTo(0, 9);
    expect(round.distance(31, 15)).toBeCloseTo(1, 0);
    const turned = rectangle(frameOfCorners({ x: 0, y: 0 }, { x: Math.SQRT1_2 * 10, y: Math.SQRT1_2 * 10 }, Math.PI / 4));
    expect(turned.distance(3, 3)).toBeCloseTo(0, 9);
  });

  test('a polygon that crosses itself is filled wherever it is wound around', () => {
    const star = [0, 2, 4, 1, 3].map((k) => ({
      x: 50 + 40 * Math.sin((k * 2 * Math.PI) / 5),
      y: 50 - 40 * Math.cos((k * 2 * Math.PI) / 5),
    }));
    const figure = polygon(star, 4);
    expect(figure.distance(50, 50)).toBeLessThan(0);
    expect(figure.distance(50, 12)).toBeLessThan(0);
    expect(figure.distance(20, 20)).toBeGreaterThan(0);
  });

  test('a polygon says of each place what a plain loop over its edges says', () => {
    const random = seededRandom(3);
    const points = Array.from({ length: 60 }, () => ({ x: random() * 100, y: random() * 100 }));
    const figure = polygon(points, 8);
    for (let n = 0; n < 500; n++) {
      const [x, y] = [random() * 120 - 10, random() * 120 - 10];
      let [winding, d] = [0, Infinity];
      points.forEach((a, k) => {
        const b = points[(k + 1) % points.length];
        const t = Math.min(
          1,
          Math.max(0, ((x - a.x) * (b.x - a.x) + (y - a.y) * (b.y - a.y)) / ((b.x - a.x) ** 2 + (b.y - a.y) ** 2)),
        );
        d = Math.min(d, Math.hypot(a.x + (b.x - a.x) * t - x, a.y + (b.y - a.y) * t - y));
        const side = (b.x - a.x) * (y - a.y) - (b.y - a.y) * (x - a.x);
        if (a.y <= y && b.y > y && side > 0) winding++;
        if (a.y > y && b.y <= y && side < 0) winding--;
      });
      const got = figure.distance(x, y);
      expect(got < 0).toBe(winding !== 0);
      if (d < 8) expect(Math.abs(got)).toBeCloseTo(d, 9);
      else expect(Math.abs(got)).toBeGreaterThanOrEqual(8);
    }
  });

  test('lines are as wide as they are set, outlines lie half outside, soft edges rise over their width', () => {
    const thick = line(
      [
        { x: 0, y: 0 },
        { x: 10, y: 0 },
      ],
      4,
      2,
    );
    expect([thick.distance(5, 2), thick.distance(12, 0), thick.distance(5, 0)]).toEqual([0, 0, -2]);
    const rim = outlineOf(rectangle(frameOfCorners({ x: 0, y: 0 }, { x: 10, y: 10 }, 0)), 2);
    expect([rim.distance(-1, 5), rim.distance(1, 5), rim.distance(5, 5)]).toEqual([0, 0, 4]);
    expect([-2, -1, 0, 1, 2].map((d) => inside(d, 4))).toEqual([1, 0.75, 0.5, 0.25, 0]);
  });
});

describe('in the sheet', () => {
  test('a rectangle covers whole texels to the texel; within the opacity', () => {
    const easel = canvasEasel(256);
    lay(easel, { type: 'shape', figure: 'rectangle' }, [flatSample(10, 20), flatSample(140, 60)], { opacity: 0.5 });
    expect(count(easel, 30000)).toBe(130 * 40);
    expect(texel(easel, 'base-colour', 10, 20)[3]).toBeCloseTo(0.5, 3);
    expect(texel(easel, 'base-colour', 9, 20)[3]).toBe(0);
  });

  test('an ellipse has the area that it should; an outline its own', () => {
    const easel = canvasEasel(256);
    lay(easel, { type: 'shape', figure: 'ellipse' }, [flatSample(28, 48), flatSample(228, 208)]);
    const area = alphas(easel).reduce((sum, a) => sum + a / 65535, 0);
    expect(area / (Math.PI * 100 * 80)).toBeCloseTo(1, 3);
    const other = canvasEasel(256);
    lay(other, { type: 'shape', figure: 'ellipse', width: 6 }, [flatSample(28, 28), flatSample(228, 228)]);
    expect(alphas(other).reduce((sum, a) => sum + a / 65535, 0) / (Math.PI * (103 ** 2 - 97 ** 2))).toBeCloseTo(1, 2);
  });

  test('what cannot be filled changes nothing: a lasso of two points, one without an area, one point', () => {
    const easel = canvasEasel(128);
    for (const [figure, points] of [
      [
        'polygon',
        [
          [5, 5],
          [50, 50],
        ],
      ],
      [
        'rectangle',
        [
          [5, 5],
          [5, 60],
        ],
      ],
      ['ellipse', [[5, 5]]],
    ] as const)
      lay(
        easel,
        { type: 'shape', figure },
        points.map(([x, y]) => flatSample(x, y)),
      );
    expect(count(easel, 1)).toBe(0);
  });

  test('shapes go on over a border that wraps, and are cut off at one that does not', () => {
    const wrapped = canvasEasel(128, true);
    lay(wrapped, { type: 'shape', figure: 'rectangle' }, [flatSample(120, 40), flatSample(140, 60)]);
    expect(count(wrapped)).toBe(20 * 20);
    expect(texel(wrapped, 'base-colour', 5, 50)[3]).toBe(1);
    const cut = canvasEasel(128);
    lay(cut, { type: 'shape', figure: 'rectangle' }, [flatSample(120, 40), flatSample(140, 60)]);
    expect(count(cut)).toBe(8 * 20);
  });

  test('a wrapped shape moved around the border is the same, moved', () => {
    const [a, b] = [canvasEasel(128, true), canvasEasel(128, true)];
    const lasso = [
      [20, 20],
      [70, 30],
      [50, 80],
      [30, 50],
    ];
    lay(
      a,
      { type: 'shape', figure: 'polygon' },
      lasso.map(([x, y]) => flatSample(x, y)),
    );
    lay(
      b,
      { type: 'shape', figure: 'polygon' },
      lasso.map(([x, y]) => flatSample(x + 90, y + 64)),
    );
    const [p, q] = [alphas(a), alphas(b)];
    for (let y = 0; y < 128; y++)
      for (let x = 0; x < 128; x++) expect(q[((y + 64) % 128) * 128 + ((x + 90) % 128)]).toBe(p[y * 128 + x]);
  });

  test('a mirror has its images, turned sides too', () => {
    const easel = canvasEasel(128);
    lay(easel, { type: 'shape', figure: 'rectangle', angle: 30 }, [flatSample(20, 20), flatSample(50, 50)], {
      mirror: { axes: ['x'] },
    });
    const p = alphas(easel);
    expect(count(easel)).toBeGreaterThan(500);
    for (let y = 0; y < 128; y++) for (let x = 0; x < 64; x++) expect(p[y * 128 + 127 - x]).toBe(p[y * 128 + x]);
  });

  test('a gradient goes from well to well, and stays there beyond its ends', () => {
    const easel = canvasEasel(128);
    lay(easel, { type: 'gradient', form: 'linear' }, [flatSample(32, 0), flatSample(96, 0)], { second: [0, 0, 1] });
    expect(texel(easel, 'base-colour', 5, 100)).toEqual([1, 0, 0, 1]);
    expect(texel(easel, 'base-colour', 120, 9)).toEqual([0, 0, 1, 1]);
    const reds = Array.from({ length: 64 }, (_, n) => texel(easel, 'base-colour', 32 + n, 64)[0]);
    expect(reds.every((r, n) => n === 0 || r <= reds[n - 1])).toBe(true);
    const fading = canvasEasel(128);
    lay(fading, { type: 'gradient', form: 'radial', ends: 'fade' }, [flatSample(64, 64), flatSample(104, 64)]);
    expect(texel(fading, 'base-colour', 84, 64)[3]).toBeCloseTo(0.4875, 2);
    expect(texel(fading, 'base-colour', 64, 110)[3]).toBe(0);
  });

  test('colours that are alike hang together, around a border that wraps too', () => {
    const easel = canvasEasel(128, true);
    fillWith(easel, 'base-colour', (x, y) => (x < 10 || x >= 120 || y === 64 ? [0.2, 0.4, 0.6, 1] : [0.9, 0.9, 0.2, 1]));
    lay(easel, { type: 'same', map: 'base-colour' }, [flatSample(5, 5)]);
    expect(texel(easel, 'base-colour', 125, 30)).toEqual([1, 0, 0, 1]);
    expect(texel(easel, 'base-colour', 60, 64)).toEqual([1, 0, 0, 1]);
    expect(texel(easel, 'base-colour', 60, 65)[0]).toBeCloseTo(0.9, 3);
    const apart = canvasEasel(128);
    fillWith(apart, 'base-colour', (x) => (x < 10 || x >= 120 ? [0.2, 0.4, 0.6, 1] : [0.9, 0.9, 0.2, 1]));
    lay(apart, { type: 'same', map: 'base-colour' }, [flatSample(5, 5)]);
    expect(texel(apart, 'base-colour', 125, 30)[0]).toBeCloseTo(0.2, 3);
    lay(apart, { type: 'same', map: 'base-colour', contiguous: false }, [flatSample(125, 5)]);
    expect(texel(apart, 'base-colour', 125, 90)).toEqual([1, 0, 0, 1]);
  });

  test('a canvas is framed along the borders that do not wrap', () => {
    const easel = canvasEasel(64);
    lay(easel, { type: 'frame', width: 3 }, [flatSample(5, 5)]);
    expect(count(easel)).toBe(64 * 64 - 58 * 58);
    const wrapped = canvasEasel(64, true);
    lay(wrapped, { type: 'frame', width: 3 }, [flatSample(5, 5)]);
    expect(count(wrapped, 1)).toBe(0);
  });
});

describe('on a model', () => {
  const cube = cubeModel();
  const side = 256;
  const view = viewAround(cube, [0.3, 0.4, 1], 600, 600);
  /** Whether a texel lies on a face whose quad is this one, not in the gutter. */
  function quadOf(easel: Easel): Int32Array {
    const { map, query, islands } = easel.surface!;
    const graph = texelGraphOf(map, query, islands);
    return Int32Array.from(graph.faces, (f, t) => (graph.own[t] ? f >> 1 : -1));
  }
  const byQuad = (easel: Easel) => {
    const quads = quadOf(easel);
    const painted = alphas(easel);
    return Array.from({ length: 6 }, (_, q) => {
      let [all, hit] = [0, 0];
      quads.forEach((v, t) => {
        if (v !== q) return;
        all++;
        if (painted[t] > 65000) hit++;
      });
      return hit / all;
    });
  };

  test('a shape through the eye covers what faces it and is seen, and none of what turns away', () => {
    const easel = modelEasel(cube, side);
    lay(easel, { type: 'shape', figure: 'rectangle' }, [sampleAt(view, 1, 1), sampleAt(view, 599, 599)], { view });
    // Front, right and top; from the left, back and bottom nothing is seen.
    expect(byQuad(easel)).toEqual([1, 0, 1, 0, 1, 0]);
  });

  test('what lies behind is covered where all layers are asked for', () => {
    const two = smoothed(cube);
    const front = modelEasel(two, side);
    const all = modelEasel(two, side);
    // From within the cube's own shadow nothing differs: it is convex.
    for (const [easel, layers] of [
      [front, 'front'],
      [all, 'all'],
    ] as const)
      lay(easel, { type: 'shape', figure: 'ellipse', layers }, [sampleAt(view, 200, 200), sampleAt(view, 400, 400)], { view });
    expect(Buffer.from(alphas(all).buffer).equals(Buffer.from(alphas(front).buffer))).toBe(true);
    expect(count(front)).toBeGreaterThan(100);
  });

  test('a mirror covers what the mirrored eye sees', () => {
    const easel = modelEasel(cube, side);
    const near = viewAround(cube, [1, 0.0001, 0.0001], 600, 600);
    lay(easel, { type: 'shape', figure: 'rectangle' }, [sampleAt(near, 10, 10), sampleAt(near, 590, 590)], {
      view: near,
      mirror: { axes: ['x'] },
    });
    const [, , right, left] = byQuad(easel);
    expect([right, left]).toEqual([1, 1]);
  });

  test('a shape in the flat sheet has its mirror image on the model', () => {
    const easel = modelEasel(cube, side);
    const { map } = easel.surface!;
    // The middle of the front's island; the front is its own image across x.
    const [x0, x1] = [0.03 * side, 0.3 * side];
    lay(easel, { type: 'shape', figure: 'rectangle' }, [flatSample(x0 + 4, x0 + 10), flatSample(x0 + 20, x0 + 40)], {
      mirror: { axes: ['x'] },
    });
    expect(map.width).toBe(side);
    const p = alphas(easel);
    let same = 0;
    for (let y = Math.ceil(x0 + 12); y < x0 + 38; y++)
      for (let x = Math.ceil(x0 + 5); x < x0 + 19; x++) {
        const other = Math.round(x0 + x1 - x - 1);
        if (p[y * side + x] > 60000 && p[y * side + other] > 60000) same++;
      }
    expect(same).toBeGreaterThan(26 * 12);
  });

  test.each([
    ['sheet', 1],
    ['material', 1],
    ['part', 1],
    ['island', 1 / 6],
    ['face', 1 / 6],
  ] as const)('filling the %s fills what it says, with its gutter', (of, share) => {
    const easel = modelEasel(cube, side);
    lay(easel, { type: 'fill', of }, [sampleAt(view, ...pixelOf(view, [0, 0, 0.5]))]);
    const quads = byQuad(easel);
    expect(quads[0]).toBe(1);
    expect(quads.reduce((a, b) => a + b, 0) / 6).toBeCloseTo(share, 9);
    // Beyond the texels of islands lies their gutter; the sheet has all there is.
    const own = quadOf(easel).reduce((n, q) => n + (q >= 0 ? 1 : 0), 0);
    expect(count(easel)).toBeGreaterThan(own * share);
    if (of === 'sheet') expect(count(easel)).toBe(side * side);
  });

  test('filling from the flat sheet fills what lies there', () => {
    const easel = modelEasel(cube, side);
    lay(easel, { type: 'fill', of: 'island' }, [flatSample(0.5 * side, 0.2 * side)]);
    expect(byQuad(easel)).toEqual([0, 1, 0, 0, 0, 0]);
  });

  test('colours alike are followed over the seams: the same as going from texel to texel by hand', () => {
    const easel = modelEasel(cube, side);
    const { map, query, islands } = easel.surface!;
    // A slanted band around the cube, over its seams.
    const placeOf = (x: number, y: number) => {
      const tile =
        map.tiles.get((y >> 7) * 256 + (x >> 7)) ?? [...map.tiles.values()].find((t) => t.x === x >> 7 && t.y === y >> 7);
      const o = ((y & 127) * 128 + (x & 127)) * 3;
      return tile ? [tile.position[o], tile.position[o + 1], tile.position[o + 2]] : [9, 9, 9];
    };
    const banded = (x: number, y: number) => {
      const [px, py, pz] = placeOf(x, y);
      return Math.abs(py - 0.3 * px - 0.2 * pz) < 0.12;
    };
    fillWith(easel, 'base-colour', (x, y) => (banded(x, y) ? [0.2, 0.6, 0.3, 1] : [0.7, 0.6, 0.5, 1]));
    const graph = texelGraphOf(map, query, islands);
    const [seed] = [...graph.own.keys()].filter(
      (t) => graph.own[t] && graph.faces[t] >> 1 === 0 && banded(t % side, (t / side) | 0),
    );
    const reached = new Set([seed]);
    const open = [seed];
    while (open.length > 0) {
      const t = open.pop()!;
      for (let way = 0; way < 4; way++) {
        const n = graph.beside(t, way);
        if (n < 0 || reached.has(n) || !banded(n % side, (n / side) | 0)) continue;
        reached.add(n);
        open.push(n);
      }
    }
    lay(easel, { type: 'same', map: 'base-colour', tolerance: 0.02 }, [
      flatSample((seed % side) + 0.5, ((seed / side) | 0) + 0.5),
    ]);
    const painted = texelsOf(easel, 'base-colour');
    const quads = new Set<number>();
    let wrong = 0;
    graph.own.forEach((own, t) => {
      if (!own) return;
      const red = painted[t * 4] > 65000 && painted[t * 4 + 1] === 0;
      if (red !== reached.has(t)) wrong++;
      if (red) quads.add(graph.faces[t] >> 1);
    });
    expect(wrong).toBe(0);
    // It went around: front, back, left and right.
    expect([...quads].sort()).toEqual(expect.arrayContaining([0, 1, 2, 3]));
  });

  test('frames of islands are closed, as wide as they are set, and nothing lies beyond', () => {
    const easel = modelEasel(cube, side);
    lay(easel, { type: 'frame', width: 4 }, [flatSample(1, 1)]);
    const { map, query, islands } = easel.surface!;
    const graph = texelGraphOf(map, query, islands);
    const p = alphas(easel);
    const c = map.cornersTexels;
    let wrong = 0;
    graph.own.forEach((own, t) => {
      if (!own) return;
      const q = (graph.faces[t] >> 1) * 2;
      const xs = [0, 1, 2].flatMap((k) => [c[q * 6 + k * 2], c[(q + 1) * 6 + k * 2]]);
      const ys = [0, 1, 2].flatMap((k) => [c[q * 6 + k * 2 + 1], c[(q + 1) * 6 + k * 2 + 1]]);
      const [x, y] = [(t % side) + 0.5, Math.floor(t / side) + 0.5];
      const off = Math.min(x - Math.min(...xs), Math.max(...xs) - x, y - Math.min(...ys), Math.max(...ys) - y);
      if (Math.abs(p[t] - Math.min(1, Math.max(0, 4 - off + 0.5)) * 65535) > 5) wrong++;
    });
    expect(wrong).toBe(0);
  });

  test('outside frames have straight corners, stay off the islands, and are one band around the one that is pointed at', () => {
    const easel = modelEasel(cube, side);
    lay(easel, { type: 'frame', of: 'island', width: 5, side: 'outside' }, [flatSample(0.5 * side, 0.2 * side)]);
    const { map, query, islands } = easel.surface!;
    const graph = texelGraphOf(map, query, islands);
    const p = alphas(easel);
    let wrong = 0;
    const [x0, y0, x1, y1] = [(1 / 3 + 0.03) * side, 0.03 * side, (1 / 3 + 0.3) * side, 0.3 * side];
    for (let t = 0; t < p.length; t++) {
      const [x, y] = [(t % side) + 0.5, Math.floor(t / side) + 0.5];
      const off = Math.max(x0 - x, x - x1, y0 - y, y - y1);
      const wanted = graph.own[t] || off < 0 ? 0 : Math.min(1, Math.max(0, 5 - off + 0.5));
      if (Math.abs(p[t] / 65535 - wanted) > 0.02) wrong++;
    }
    expect(wrong).toBe(0);
  });

  test('a gradient over the model goes by place in space, over the seams', () => {
    const easel = modelEasel(cube, side);
    const low = sampleAt(view, ...pixelOf(view, [0, -0.45, 0.5]));
    const high = sampleAt(view, ...pixelOf(view, [0, 0.45, 0.5]));
    lay(easel, { type: 'gradient', ends: 'fade' }, [low, high]);
    const { map, query, islands } = easel.surface!;
    const graph = texelGraphOf(map, query, islands);
    const p = alphas(easel);
    let wrong = 0;
    for (const tile of map.tiles.values())
      for (let i = 0; i < tile.face.length; i++) {
        const t = (tile.y * 128 + (i >> 7)) * side + tile.x * 128 + (i & 127);
        if (tile.face[i] < 0 || !graph.own[t]) continue;
        const wanted = 1 - Math.min(1, Math.max(0, (tile.position[i * 3 + 1] + 0.45) / 0.9));
        if (Math.abs(p[t] / 65535 - wanted) > 0.01) wrong++;
      }
    expect(wrong).toBe(0);
  });

  test('the view brush covers what the eye sees under its outline, over the rim of the model as well', () => {
    const easel = modelEasel(cube, side);
    const eye = viewOf([0, 0, 4], [0, 0, 0], 600, 600);
    const brush = { writes: RED, view: eye, reach: 'seen', grazing: 0, size: 100, smoothing: 0 };
    // Beside the cube: the pen is off it, its ring is not.
    const [edge] = pixelOf(eye, [0.5, 0, 0.5]);
    strokeOn(easel, brushFor(brush), [sampleAt(eye, edge + 30, 300)]);
    const { map, query, islands } = easel.surface!;
    const graph = texelGraphOf(map, query, islands);
    const p = alphas(easel);
    let painted = 0;
    for (const tile of map.tiles.values())
      for (let i = 0; i < tile.face.length; i++) {
        const t = (tile.y * 128 + (i >> 7)) * side + tile.x * 128 + (i & 127);
        if (tile.face[i] < 0 || !graph.own[t]) continue;
        const [x, y] = pixelOf(
          eye,
          [0, 1, 2].map((k) => tile.position[i * 3 + k]),
        );
        const d = Math.hypot(x - edge - 30, y - 300);
        if (tile.face[i] >> 1 !== 0 || d > 54) expect(p[t]).toBe(0);
        else if (d < 44) {
          painted++;
          expect(p[t]).toBeGreaterThan(60000);
        }
      }
    expect(painted).toBeGreaterThan(20);
  });
});

test('the schemas of areas fill in what is left out, and refuse what is wrong', () => {
  expect(areaSchema.parse({ type: 'shape', figure: 'line' })).toMatchObject({ soft: 0, layers: 'front', width: null });
  expect(areaSchema.safeParse({ type: 'frame', width: 0 }).success).toBe(false);
  expect(areaSchema.safeParse({ type: 'fill', of: 'everything' }).success).toBe(false);
  expect(Object.keys(AREAS).sort()).toEqual(['fill', 'frame', 'gradient', 'same', 'shape'] satisfies Area['type'][]);
});
