/** Decals: a picture once on a surface, with everything else that its layer lays down. */
import '../colour/blend';
import { newCoatLayer } from '../document/factory';
import { planeKey } from '../document/planes';
import { placementSchema, type Placement } from '../kinds/placement';
import { evaluateWhole16, valueAt } from '../strata/evaluate';
import { PieceSurfaces } from '../strata/pieceSurfaces';
import { giveSurfaces } from '../strata/surfaceUnder';
import { modelEasel } from '../testing/hand';
import { quadModel } from '../testing/models';
import { tilesFromPicture } from '../tile/tiles';

const SIDE = 512;
const square = (z: number): [number, number, number][] => [
  [-0.5, -0.5, z],
  [0.5, -0.5, z],
  [0.5, 0.5, z],
  [-0.5, 0.5, z],
];
/** Three squares of a metre: one in front, one 30 cm behind it, and the back of the first. UV rectangles beside each other. */
const FRONT = [0.05, 0.05, 0.45, 0.45] as const;
const BEHIND = [0.55, 0.05, 0.95, 0.45] as const;
const BACK = [0.05, 0.55, 0.45, 0.95] as const;
const MODEL = quadModel([
  { corners: square(0), uv: [...FRONT] },
  { corners: square(-0.3), uv: [...BEHIND] },
  { corners: square(0).toReversed(), uv: [...BACK] },
]);

/** A picture of 60 × 30: red grows to the right, green downwards; its right third is not there. */
function decalOn(over: Partial<Placement>, model = MODEL) {
  const [w, h] = [60, 30];
  const pixels = new Uint16Array(w * h * 4);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      pixels.set([(65535 * (x + 0.5)) / w, (65535 * (y + 0.5)) / h, 0, x < 40 ? 65535 : 0].map(Math.round), (y * w + x) * 4);
  const easel = modelEasel(model, SIDE);
  const surfaces = new PieceSurfaces(model, 0);
  giveSurfaces(easel.store, (sheet) => surfaces.dataFor(sheet));
  for (const [tile, data] of tilesFromPicture(pixels, w, h, 4))
    easel.store.set(planeKey('pic', 'picture'), tile, { data, hash: null });
  const below = newCoatLayer('below', 'Below', { 'base-colour': [0, 0, 1], roughness: [0.2] });
  const decal = newCoatLayer('decal', 'Decal', { 'base-colour': [0, 0, 0], roughness: [0.9] });
  decal.cells['base-colour'] = { ...decal.cells['base-colour']!, placed: { picture: 'pic', take: 'luminance', neutral: 0 } };
  decal.placement = placementSchema.parse({
    by: 'decal',
    centre: [0, 0, 0],
    axis: [0, 0, 1],
    size: 0.4,
    aspect: 2,
    depth: 0.1,
    ...over,
  });
  easel.sheet = {
    ...easel.sheet,
    layers: [below, decal],
    pictures: [{ id: 'pic', name: 'Sign', width: w, height: h, encoding: 'srgb' }],
  };
  return easel;
}

/** Texel of a place on one of the squares, metres from its middle, up positive. */
const texelOf = (uv: readonly number[], x: number, y: number): [number, number] => [
  Math.floor((uv[0] + (x + 0.5) * (uv[2] - uv[0])) * SIDE),
  Math.floor((uv[3] - (y + 0.5) * (uv[3] - uv[1])) * SIDE),
];
const at = (easel: ReturnType<typeof decalOn>, uv: readonly number[], x: number, y: number) => {
  const [tx, ty] = texelOf(uv, x, y);
  return { colour: valueAt(easel, 'base-colour', tx, ty), rough: valueAt(easel, 'roughness', tx, ty)[0] };
};
const plain = { colour: [0, 0, 1], rough: 0.2 };
const expectPlain = ({ colour, rough }: ReturnType<typeof at>) => {
  colour.slice(0, 3).forEach((v, k) => expect(v).toBeCloseTo(plain.colour[k], 3));
  expect(rough).toBeCloseTo(plain.rough, 3);
};

describe('decals', () => {
  test('every texel within its frame shows the picture there, every other one what lies below', () => {
    const easel = decalOn({});
    const colour = evaluateWhole16(easel, 'base-colour');
    const rough = evaluateWhole16(easel, 'roughness');
    let [inside, wrong] = [0, 0];
    for (let ty = 26; ty < 230; ty++)
      for (let tx = 26; tx < 230; tx++) {
        const x = ((tx + 0.5) / SIDE - FRONT[0]) / (FRONT[2] - FRONT[0]) - 0.5;
        const y = 0.5 - ((ty + 0.5) / SIDE - FRONT[1]) / (FRONT[3] - FRONT[1]);
        const [u, v] = [x / 0.8 + 0.5, 0.5 - y / 0.4];
        // Not on the outline, nor where the alpha changes: there it is between both.
        if (Math.min(Math.abs(u), Math.abs(u - 2 / 3), Math.abs(u - 1)) < 0.03 || Math.min(Math.abs(v), Math.abs(v - 1)) < 0.04)
          continue;
        const shows = u > 0 && u < 2 / 3 && v > 0 && v < 1;
        const i = ty * SIDE + tx;
        const off = (shows ? [u, v, 0] : plain.colour).map((want, k) => Math.abs(colour[i * 3 + k] / 65535 - want));
        if (Math.max(...off) > 0.02 || Math.abs(rough[i] / 65535 - (shows ? 0.9 : 0.2)) > 0.005) wrong++;
        if (shows) inside++;
      }
    expect(wrong).toBe(0);
    // Nor does its other end come in at the rim: right of the middle of what is not there all is as it was.
    for (let x = 0.28; x < 0.5; x += 0.004) expectPlain(at(easel, FRONT, x, 0.05));
    // 2/3 of 0.8 m by 0.4 m at 204.8 texels a metre, less the rims that were left out.
    expect(inside).toBeGreaterThan(6500);
  });

  test('it ends at its depth, and does not come out on the back', () => {
    const place: [number, number] = [-0.2, 0.1];
    expectPlain(at(decalOn({}), BEHIND, ...place));
    expectPlain(at(decalOn({ depth: 0.29 }), BEHIND, ...place));
    const deep = decalOn({ depth: 1 });
    expect(at(deep, BEHIND, ...place).rough).toBeCloseTo(0.9, 2);
    expect(at(deep, BEHIND, ...place).colour[0]).toBeCloseTo(0.25, 1);
    // The back's texels lie mirrored in space: both sides of the middle are looked at.
    for (const x of [-0.2, 0, 0.2]) expectPlain(at(deep, BACK, x, 0.1));
  });

  test('turned by a quarter its right end points up or down as its turn says, and it moves with its middle', () => {
    const turned = decalOn({ turn: 90 });
    const [up, down] = [at(turned, FRONT, 0, 0.3), at(turned, FRONT, 0, -0.3)];
    // One end is the picture's left (there), the other its right (its alpha is 0).
    const [left, right] = up.rough > 0.5 ? [up, down] : [down, up];
    expect(left.colour[0]).toBeCloseTo(0.125, 1);
    expectPlain(right);
    expectPlain(at(turned, FRONT, -0.3, 0));
    expect(up.rough).toBeGreaterThan(0.5);
    const moved = decalOn({ centre: [0.2, 0, 0] });
    expect(at(moved, FRONT, 0.2 - 0.2, 0).colour[0]).toBeCloseTo(0.25, 1);
    expectPlain(at(moved, FRONT, -0.3, 0));
  });

  test('switched off, its picture still gives the frame of what else its layer lays down', () => {
    const easel = decalOn({});
    const decal = easel.sheet.layers[1];
    decal.cells['base-colour'] = { ...decal.cells['base-colour']!, on: false };
    expect(at(easel, FRONT, -0.2, 0.1).rough).toBeCloseTo(0.9, 2);
    expect(at(easel, FRONT, -0.2, 0.1).colour[2]).toBeCloseTo(1, 3);
    expectPlain(at(easel, FRONT, 0.35, 0));
    expectPlain(at(easel, FRONT, -0.2, 0.3));
  });
});

describe('a decal that follows the surface', () => {
  /** A wall of a metre's height that turns away by 90° at x = 0. */
  const bent = quadModel([
    {
      corners: [
        [-1, -0.5, 0],
        [0, -0.5, 0],
        [0, 0.5, 0],
        [-1, 0.5, 0],
      ],
      uv: [0.02, 0.02, 0.48, 0.48],
    },
    {
      corners: [
        [0, -0.5, 0],
        [0, -0.5, -1],
        [0, 0.5, -1],
        [0, 0.5, 0],
      ],
      uv: [0.52, 0.02, 0.98, 0.48],
    },
  ]);
  const onBent = (follow: boolean) => decalOn({ centre: [-0.1, 0, 0], size: 0.4, aspect: 2, depth: 2, follow }, bent);
  const red = (easel: ReturnType<typeof decalOn>, side: 0 | 1, x: number) => {
    const tx = Math.floor(((side === 0 ? 0.48 : 0.52) + x * 0.46) * SIDE);
    return valueAt(easel, 'base-colour', tx, Math.floor(0.25 * SIDE));
  };

  test('goes on around the edge as far as it would have gone straight on', () => {
    const easel = onBent(true);
    // 80 cm wide, its middle 10 cm before the edge: the picture's red at a way w from the middle is w / 0.8 + 0.5.
    for (const x of [-0.4, -0.2, -0.02]) expect(red(easel, 0, x)[0]).toBeCloseTo((x + 0.1) / 0.8 + 0.5, 1);
    // From two thirds on it is clear: 3 cm beyond the edge.
    expect(red(easel, 1, 0.012)[0]).toBeCloseTo(0.5 + 0.112 / 0.8, 1);
    for (const x of [0.06, 0.2, 0.5]) expect(red(easel, 1, x)[2]).toBeCloseTo(1, 2);
  });

  test('seen along its direction it ends at the edge', () => {
    const easel = onBent(false);
    expect(red(easel, 0, -0.2)[0]).toBeCloseTo(0.375, 1);
    expect(red(easel, 1, 0.012)[2]).toBeCloseTo(1, 2);
  });
});
