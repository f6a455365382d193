/** Bakes: rays, trees, whole sets of maps, masks by edges, dense models. References: three-mesh-bvh, one thread, a copy of the bytes. */
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import '../../src/core/compute';
import { directionsOf } from '../../src/core/rays/directions';
import { treeOf } from '../../src/core/rays/tree';
import { newMask, newSheet } from '../../src/core/document/factory';
import { stepSchema } from '../../src/core/document/schema';
import { kernels } from '../../src/core/kernels';
import { BAKE_VERSION, bakeSpecSchema } from '../../src/core/kinds/bakes/spec';
import { faceNormals } from '../../src/core/mesh/faceNormals';
import { readModel } from '../../src/core/mesh/readModel';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { Evaluator } from '../../src/core/strata/evaluator';
import { attachSurfaces, PieceSurfaces } from '../../src/core/strata/pieceSurfaces';
import { programOfMask } from '../../src/core/strata/program';
import { surfaceUnder } from '../../src/core/strata/surfaceUnder';
import { ballModel } from '../../src/core/testing/baked';
import { POINT_NUMBERS } from '../../src/kernels/rays';
import { tilesOf, TileStore } from '../../src/core/tile/tiles';
import { BakePool } from '../../src/server/bakes/pool';
import { lanternModel } from '../../demo/lanternModel';
import { result, type Result } from './result';
import { alternate, alternateAsync } from './timing';

/** A ball with bumps: 70 thousand triangles that hide each other. */
function bumpy(rings = 188, wedges = 188) {
  const model = ballModel(1, rings, wedges);
  const p = model.positions;
  for (let i = 0; i < p.length; i += 3) {
    const r = 1 + 0.15 * Math.sin(9 * Math.acos(Math.max(-1, Math.min(1, p[i + 1])))) * Math.cos(11 * Math.atan2(p[i], p[i + 2]));
    for (let k = 0; k < 3; k++) p[i + k] *= r;
  }
  return { ...model, normals: model.normals };
}

const SAMPLES = 64;
const POINTS = 1024;

/** Middles of faces, neighbours in the list are neighbours on the ball; and the same rays for the reference. */
function occlusionRays(): Result[] {
  const model = bumpy();
  const { positions: p, indices } = model;
  const planes = faceNormals(model);
  const points = new Float32Array(POINTS * POINT_NUMBERS);
  const seeds = new Uint32Array(points.buffer);
  const faces = indices.length / 3;
  for (let n = 0; n < POINTS; n++) {
    const f = (Math.floor(n / 64) * Math.floor(faces / (POINTS / 64)) + (n % 64)) % faces;
    const g = planes.subarray(f * 3, f * 3 + 3);
    const at = [0, 1, 2].map(
      (k) => (p[indices[f * 3] * 3 + k] + p[indices[f * 3 + 1] * 3 + k] + p[indices[f * 3 + 2] * 3 + k]) / 3,
    );
    points.set([...at, ...g, ...g], n * POINT_NUMBERS);
    seeds[n * POINT_NUMBERS + 9] = Math.imul(n, 0x9e3779b1);
  }
  const to = directionsOf(SAMPLES);
  const rays = kernels().raysOf(treeOf(model));
  const out = new Float32Array(POINTS * 4);
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(p, 3));
  geometry.setIndex(new BufferAttribute(indices.slice(), 1));
  const bvh = new MeshBVH(geometry, { indirect: true });
  const ray = new Ray();
  // The reference takes a tenth of the points: it is slower by that much.
  const some = POINTS / 8;
  const t = alternate(
    () => rays.occlusion(points, POINTS, to, { reach: 8, bias: 1e-4, cull: false }, out),
    () => {
      for (let n = 0; n < POINTS; n += 8) {
        const o = n * POINT_NUMBERS;
        const [nx, ny, nz] = points.subarray(o + 3, o + 6);
        const sign = nz < 0 ? -1 : 1;
        const a = -1 / (sign + nz);
        const b = nx * ny * a;
        ray.origin.set(points[o] + nx * 1e-4, points[o + 1] + ny * 1e-4, points[o + 2] + nz * 1e-4);
        for (let s = 0, q = (n % to.sets) * SAMPLES * 3; s < SAMPLES; s++, q += 3) {
          const [x, y, z] = [to.data[q], to.data[q + 1], to.data[q + 2]];
          ray.direction.set(
            (1 + sign * nx * nx * a) * x + b * y + nx * z,
            sign * b * x + (sign + ny * ny * a) * y + ny * z,
            -sign * nx * x - ny * y + nz * z,
          );
          bvh.raycastFirst(ray, DoubleSide);
        }
      }
    },
  );
  const mega = (points_: number, seconds: number) => (points_ * SAMPLES) / seconds / 1e6;
  return [result('occlusion-rays', mega(POINTS, t.subject), 'Mrays/s', 'three-mesh-bvh raycastFirst', mega(some, t.reference))];
}

function bvhBuild(): Result[] {
  const model = bumpy();
  const source = new Uint8Array(model.indices.length * 60);
  const t = alternate(
    () => void treeOf(model),
    () => void source.slice(),
  );
  return [result('bvh-build', t.subject, 's', 'one copy of its bytes', t.reference)];
}

/** The same bake with two threads and with one. */
async function twoWorkers(): Promise<Result[]> {
  const bytes = await writeGlb(bumpy());
  const model = createHash('sha256').update(bytes).digest('hex');
  const spec = bakeSpecSchema.parse({
    ...{ version: BAKE_VERSION, model, uvSet: 0, material: 0, width: 512, height: 512, supersample: 1, twin: null },
    settings: { type: 'occlusion', samples: 32 },
  });
  const pools = [2, 1].map((n) => new BakePool(() => Promise.resolve({ name: 'model.glb', bytes }), n));
  const all = (pool: BakePool) => async () => {
    const tiles = await pool.tiles(spec);
    await Promise.all(tiles.map((tile) => pool.tile(spec, tile)));
  };
  // Every thread has made its own of the model before it counts.
  for (const pool of pools) for (let n = 0; n < 2; n++) await all(pool)();
  const t = await alternateAsync(all(pools[0]), all(pools[1]), 3);
  await Promise.all(pools.map((pool) => pool.close()));
  return [result('occlusion-two-workers', 1 / t.subject, 'bakes/s', 'one worker', 1 / t.reference)];
}

/** In a process of its own: seconds, and the most memory that it had. */
function bakeSet(): Result[] {
  const out = execFileSync(process.execPath, ['--import', 'tsx', 'cli/bench/bakeSet.ts'], { maxBuffer: 1 << 20 });
  const { seconds, mebibytes, single, alone } = JSON.parse(out.toString()) as Record<string, number>;
  return [
    result('bake-set-2048', seconds, 's', 'occlusion of one tile in one thread', single),
    result('bake-set-2048-memory', mebibytes, 'MiB', 'the process before', alone),
  ];
}

function edgeMasks(): Result[] {
  const size = 2048;
  const model = lanternModel();
  const step = stepSchema.parse({ id: 'a', source: { type: 'edges' } });
  const sheet = newSheet('s', 'S', size, size, { materialIndex: 0, masks: [newMask('m', 'M', 0, { steps: [step] })] });
  const store = new TileStore();
  attachSurfaces(store, model, 0, new PieceSurfaces(model, 0));
  surfaceUnder(store, sheet);
  const source = new Float32Array(size * size);
  const { scope } = programOfMask(sheet, 'm', null)!;
  const t = alternate(
    () => {
      const evaluator = new Evaluator({ sheet, store });
      for (const tile of tilesOf(size, size)) evaluator.tile(scope, tile);
    },
    () => void source.slice(),
  );
  return [result('edge-masks-2048', t.subject, 's', 'one copy of a plane of values', t.reference)];
}

/** From the bytes of a GLB to a tree that can be asked. */
async function readTwin(): Promise<Result[]> {
  const file = await writeGlb(bumpy(710, 710));
  const t = await alternateAsync(
    async () => {
      const model = await readModel(new Map([['twin.glb', file]]));
      kernels().raysOf(treeOf(model));
    },
    () => Promise.resolve(void file.slice()),
    3,
  );
  return [result('read-twin-1m', t.subject, 's', 'one copy of the file', t.reference)];
}

export const BAKE_MEASUREMENTS: Record<string, () => Result[] | Promise<Result[]>> = {
  'occlusion-rays': occlusionRays,
  'bvh-build': bvhBuild,
  'occlusion-two-workers': twoWorkers,
  'edge-masks-2048': edgeMasks,
  'read-twin-1m': readTwin,
  'bake-set-2048': bakeSet,
};
