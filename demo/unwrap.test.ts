/** Automatic unwraps of real models: every face shows its front, whatever UVs and size the model came with. */
import * as watlas from 'watlas';
import { ballModel } from '../src/core/testing/baked';
import type { Model } from '../src/core/mesh/model';
import { buildIslands, buildTopology } from '../src/core/mesh/topology';
import { unwrap, type AtlasMaker } from '../src/core/mesh/unwrap';
import { reportUvs } from '../src/core/mesh/uvReport';
import { cubeModel } from '../src/core/testing/models';
import { lanternModel } from './lanternModel';
import { tortoiseModel } from './tortoiseModel';

beforeAll(() => watlas.Initialize());

const mirrored = (model: Model): Model => ({ ...model, uvs: [model.uvs[0].map((v, i) => (i % 2 ? v : 1 - v))] });
/** Twice the area of a triangle. */
function area3d({ positions: p, indices }: Model, i: number): number {
  const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3];
  const [u, v] = [b, c].map((to) => [0, 1, 2].map((k) => p[to + k] - p[a + k]));
  return Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]);
}

const bare = (model: Model): Model => ({ ...model, uvs: [] });
const sized = (model: Model, by: number): Model => ({ ...model, positions: model.positions.map((p) => p * by) });
const ball = { ...ballModel(1, 24, 32), materials: cubeModel().materials, uvs: [] };

test.each<[string, Model]>([
  ['the lantern', lanternModel()],
  ['the lantern, mirrored', mirrored(lanternModel())],
  ['the lantern without UVs', bare(lanternModel())],
  ['the tortoise', tortoiseModel()],
  ['the tortoise without UVs', bare(tortoiseModel())],
  ['a cube, mirrored', mirrored(cubeModel())],
  ['a ball of a millimetre', sized(ball, 0.0005)],
  ['a ball of a hundred metres', sized(ball, 50)],
])('%s', (_, model) => {
  const out = unwrap(model, watlas.Atlas as unknown as AtlasMaker, { size: 1024 }).model;
  const [uv] = out.uvs;
  let surface = 0;
  let flat = 0;
  for (let i = 0; i < out.indices.length; i += 3) {
    const [a, b, c] = out.indices.subarray(i, i + 3);
    // V points down: seen from the front, corners run anticlockwise, which is a negative area here.
    const area =
      (uv[b * 2] - uv[a * 2]) * (uv[c * 2 + 1] - uv[a * 2 + 1]) - (uv[c * 2] - uv[a * 2]) * (uv[b * 2 + 1] - uv[a * 2 + 1]);
    expect(area).toBeLessThanOrEqual(1e-9);
    surface += area3d(out, i);
    if (area > -1e-12) flat += area3d(out, i);
  }
  expect(flat / surface).toBeLessThan(2e-4);
  const topology = buildTopology(out);
  const { problems } = reportUvs(out, topology, buildIslands(out, topology, uv), 0);
  expect(problems.map((p) => p.code).filter((code) => ['overlapping', 'outside', 'mirrored'].includes(code))).toEqual([]);
});
