/** ./brindle bake and unwrap as a terminal runs them. */
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodePng, encodePng } from '../../src/core/codec/png';
import { readModel } from '../../src/core/mesh/readModel';
import { buildIslands, buildTopology } from '../../src/core/mesh/topology';
import { reportUvs } from '../../src/core/mesh/uvReport';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { ballModel } from '../../src/core/testing/baked';
import { boxModel, cubeModel } from '../../src/core/testing/models';
import { commandsIn } from '../testing/commandProcess';

const folder = mkdtempSync(join(tmpdir(), 'brindle-bake-'));
const commands = commandsIn(folder);
const brindle = commands.run;
afterAll(commands.end);

beforeAll(async () => {
  writeFileSync(join(folder, 'cube.glb'), await writeGlb(cubeModel()));
  writeFileSync(join(folder, 'dense.glb'), await writeGlb({ ...boxModel(1.02, 1.02, 1.02), parts: ['Cube_high'] }));
  const { uvs: _, ...bare } = cubeModel();
  writeFileSync(join(folder, 'bare.glb'), await writeGlb({ ...bare, uvs: [] }));
});

test('bake writes the maps that were asked for, 16 bit, from the model and from a dense one', async () => {
  const run = await brindle(
    ...[
      'bake',
      'cube.glb',
      '--dense',
      'dense.glb',
      '--maps',
      'position,height,normal',
      '--size',
      '64',
      '--match',
      'names',
      '--out',
      'maps',
    ],
  );
  expect(run).toMatchObject({ status: 0, stderr: '' });
  const at = (name: string, x: number, y: number) => {
    const { width, channels, bits, data } = decodePng(readFileSync(join(folder, 'maps', name)));
    expect([width, bits]).toEqual([64, 16]);
    return [...data.subarray((y * width + x) * channels, (y * width + x) * channels + channels)].map((v) => v / 65535);
  };
  // The side to the front: its middle lies half way up, 0.01 under the dense one of a span of 2 % to either side.
  expect(at('cube_position.png', 10, 10)[0]).toBeCloseTo(0.5, 1);
  expect(at('cube_height.png', 10, 10)[0]).toBeCloseTo(0.75, 1);
  const [x, y, z] = at('cube_normal.png', 10, 10);
  expect([x, y]).toEqual([expect.closeTo(0.5, 2), expect.closeTo(0.5, 2)]);
  expect(z).toBeGreaterThan(0.99);
});

test('a reach painted by a mask counts by its place on the sheet', async () => {
  const half = { width: 2, height: 1, channels: 1 as const, bits: 8 as const, data: Uint8Array.of(0, 255) };
  writeFileSync(join(folder, 'reach.png'), encodePng(half));
  const from = ['--dense', 'dense.glb', '--maps', 'height', '--size', '64', '--reach-mask', 'reach.png', '--out', 'painted'];
  const run = await brindle('bake', 'cube.glb', ...from);
  expect(run).toMatchObject({ status: 0, stderr: '' });
  expect(run.stdout).toMatch(/texels met nothing of the dense model/);
  const { width, data } = decodePng(readFileSync(join(folder, 'painted', 'cube_height.png')));
  // The dense one lies half of the reach away: it is met from the middle of the sheet on.
  const met = [...data.keys()].filter((i) => data[i] > 0).map((i) => i % width);
  expect(Math.min(...met)).toBeGreaterThanOrEqual(31);
  expect(Math.min(...met)).toBeLessThan(40);
  expect(met.length).toBeGreaterThan(300);
});

test.each([
  [['bake', 'cube.glb', '--maps', 'occlusion'], /Say where to write/],
  [['bake', 'cube.glb', '--maps', 'shine', '--out', 'x'], /no map "shine": there are occlusion/],
  [['bake', 'cube.glb', '--maps', 'normal', '--out', 'x'], /"normal" is baked from a dense model: name it with --dense/],
  [['bake', 'bare.glb', '--maps', 'occlusion', '--out', 'x'], /has no UVs to bake into/],
  [['bake', 'cube.glb', '--size', '9', '--out', 'x'], /whole number from 16 to 4096/],
  [
    ['bake', 'cube.glb', '--dense', 'dense.glb', '--maps', 'normal', '--outward', '0', '--inward', '0', '--out', 'x'],
    /neither outwards nor inwards/,
  ],
  [['bake', 'cube.glb', '--reach-mask', 'dense.glb', '--out', 'x'], /is for a dense model: name it with --dense/],
  [['bake', 'cube.glb', '--dense', 'dense.glb', '--reach-mask', 'cube.glb', '--out', 'x'], /cube.glb is not a PNG/],
  [['bake', 'none.glb', '--out', 'x'], /no file none.glb/],
  [['unwrap', 'cube.glb'], /Say where to write/],
  [['unwrap', 'cube.glb', '--out', 'y.glb', '--size', 'big'], /whole number from 16 to 8192/],
])('%j is refused with a sentence', async (args, message) => {
  const run = await brindle(...args);
  expect(run.status).toBe(2);
  expect(run.stderr).toMatch(message);
  expect(run.stderr.split('\n').length).toBe(1);
});

test('unwrap gives a model without UVs some that are sound, and leaves its triangles as they are', async () => {
  writeFileSync(join(folder, 'ball.glb'), await writeGlb({ ...ballModel(1, 10, 16), materials: cubeModel().materials, uvs: [] }));
  for (const name of ['bare', 'ball']) {
    expect(await brindle('unwrap', `${name}.glb`, '--out', `${name}-uv.glb`, '--size', '256')).toMatchObject({ status: 0 });
    expect(existsSync(join(folder, `${name}-uv.glb`))).toBe(true);
    const read = (file: string) => readModel(new Map([[file, new Uint8Array(readFileSync(join(folder, file)))]]));
    const [before, after] = [await read(`${name}.glb`), await read(`${name}-uv.glb`)];
    const topology = buildTopology(after);
    const report = reportUvs(after, topology, buildIslands(after, topology, after.uvs[0]), 0);
    expect(report.problems.filter((p) => p.weight === 'stop').map((p) => p.code)).toEqual([]);
    for (const code of ['overlapping', 'mirrored']) expect(report.problems.map((p) => p.code)).not.toContain(code);
    expect(after.indices.length).toBe(before.indices.length);
    const corner = (m: typeof before, c: number) => [...m.positions.subarray(m.indices[c] * 3, m.indices[c] * 3 + 3)];
    for (let c = 0; c < before.indices.length; c += 7) expect(corner(after, c)).toEqual(corner(before, c));
  }
});
