/** The surface laid out flat: lengths on what can be unrolled, directions, and where it ends. */
import { buildTopology } from '../mesh/topology';
import { unfoldAround, type UnfoldMesh } from '../mesh/unfold';
import { cubeModel, quadModel } from '../testing/models';
import type { Model } from '../mesh/model';

const meshOf = (model: Model): UnfoldMesh => ({
  positions: model.positions,
  indices: model.indices,
  corner: buildTopology(model).corner,
});
const FRONT = { out: [0, 0, 1], right: [1, 0, 0] };

/** Every laid corner with its place in space. */
function* corners({ positions, indices }: UnfoldMesh, laid: Float32Array) {
  for (let i = 0; i < indices.length; i++)
    if (!Number.isNaN(laid[i * 2]))
      yield { at: [...positions.subarray(indices[i] * 3, indices[i] * 3 + 3)], x: laid[i * 2], y: laid[i * 2 + 1] };
}

/** A tube of so many sides around the upright axis, from −1 to 1, its radius 1; its seam at the back. */
function tube(sides: number, rows: number): Model {
  const at = (n: number, y: number): [number, number, number] => {
    const a = (n / sides) * 2 * Math.PI + Math.PI;
    return [Math.sin(a), y, Math.cos(a)];
  };
  return quadModel(
    Array.from({ length: sides * rows }, (_, k) => {
      const [n, r] = [k % sides, Math.floor(k / sides)];
      const [low, high] = [-1 + (2 * r) / rows, -1 + (2 * (r + 1)) / rows];
      return {
        corners: [at(n, low), at(n + 1, low), at(n + 1, high), at(n, high)],
        uv: [0, 0, 1, 1] as [number, number, number, number],
      };
    }),
  );
}

/** Cells of a ball of radius 1, fine enough. */
function ball(columns: number, rows: number): Model {
  const at = (n: number, r: number): [number, number, number] => {
    const [a, b] = [(n / columns) * 2 * Math.PI + Math.PI, (r / rows - 0.5) * Math.PI];
    return [Math.cos(b) * Math.sin(a), Math.sin(b), Math.cos(b) * Math.cos(a)];
  };
  const cells = Array.from({ length: columns * (rows - 2) }, (_, k) => [k % columns, 1 + Math.floor(k / columns)]);
  return quadModel(
    cells.map(([n, r]) => ({
      corners: [at(n, r), at(n + 1, r), at(n + 1, r + 1), at(n, r + 1)],
      uv: [0, 0, 1, 1] as [number, number, number, number],
    })),
  );
}

test('a box opens as a box does: around two edges lengths go on, straight', () => {
  const mesh = meshOf(cubeModel());
  const laid = unfoldAround(mesh, [0.1, 0.05, 0.5], FRONT, 0.9);
  let around = 0;
  for (const { at, x, y } of corners(mesh, laid)) {
    // The front itself.
    if (at[2] > 0.49) {
      expect(x).toBeCloseTo(at[0] - 0.1, 5);
      expect(y).toBeCloseTo(at[1] - 0.05, 5);
    } else if (at[0] > 0.49 && Math.abs(y) < 0.6 && x > 0) {
      around++;
    }
  }
  expect(around).toBeGreaterThan(0);
  // The far corner of the right side lies a metre on from the edge.
  const far = [...corners(mesh, laid)].filter(({ at, x, y }) => at[0] > 0.49 && at[1] > 0.49 && at[2] < -0.49 && x > Math.abs(y));
  for (const { x, y } of far) {
    expect(x).toBeCloseTo(1.4, 4);
    expect(y).toBeCloseTo(0.45, 4);
  }
});

test.each([8, 24])('around a tube of %i sides it goes by the length of the way, without a stretch', (sides) => {
  const mesh = meshOf(tube(sides, 6));
  const side = 2 * Math.sin(Math.PI / sides);
  // In the middle of a side.
  const half = Math.PI / sides;
  const middle = [Math.sin(half) * Math.cos(half), 0.1, Math.cos(half) * Math.cos(half)];
  const out = [Math.sin(half), 0, Math.cos(half)];
  const right = [Math.cos(half), 0, -Math.sin(half)];
  const laid = unfoldAround(mesh, middle, { out, right }, 1.4);
  let count = 0;
  for (const { at, x, y } of corners(mesh, laid)) {
    expect(y).toBeCloseTo(at[1] - 0.1, 4);
    // Corners stand at whole turns of 2π / sides; the middle lies half a side on from the one in front.
    const turn = Math.atan2(at[0], at[2]) / (2 * half);
    const way = (turn - 0.5) * side;
    if (Math.abs(way) > 1.4) continue;
    expect(x).toBeCloseTo(way, 4);
    count++;
  }
  expect(count).toBeGreaterThan(20);
});

test('on a ball it goes by the great circle: lengths and directions from the middle to a few hundredths', () => {
  const mesh = meshOf(ball(48, 24));
  const laid = unfoldAround(mesh, [0, 0, 1], FRONT, 1);
  let count = 0;
  for (const { at, x, y } of corners(mesh, laid)) {
    const way = Math.acos(Math.min(1, at[2]));
    if (way > 0.9 || way < 0.2) continue;
    expect(Math.abs(Math.hypot(x, y) / way - 1)).toBeLessThan(0.04);
    const off = Math.atan2(y, x) - Math.atan2(at[1], at[0]);
    expect(Math.abs(Math.atan2(Math.sin(off), Math.cos(off)))).toBeLessThan(0.06);
    count++;
  }
  expect(count).toBeGreaterThan(100);
});

test('what is not joined stays out, and so does what lies on the back of where it begins', () => {
  const square = (z: number): [number, number, number][] => [
    [-0.5, -0.5, z],
    [0.5, -0.5, z],
    [0.5, 0.5, z],
    [-0.5, 0.5, z],
  ];
  const mesh = meshOf(
    quadModel([
      { corners: square(0), uv: [0, 0, 1, 1] },
      { corners: square(-0.01), uv: [0, 0, 1, 1] },
    ]),
  );
  const laid = unfoldAround(mesh, [0, 0, -0.004], FRONT, 5);
  expect([...laid.subarray(0, 12)].every(Number.isFinite)).toBe(true);
  expect([...laid.subarray(12)].every(Number.isNaN)).toBe(true);
  // Nothing is turned that way.
  expect([...unfoldAround(mesh, [0, 0, 0], { out: [0, 0, -1], right: [1, 0, 0] }, 5)].every(Number.isNaN)).toBe(true);
});
