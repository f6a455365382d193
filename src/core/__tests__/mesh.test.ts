import { Document, WebIO } from '@gltf-transform/core';
import { planeModel } from '../mesh/plane';
import { boundsOf, ModelError } from '../mesh/model';
import { readModel } from '../mesh/readModel';
import { distanceToFace2 } from '../../kernels/distances';
import { barycentric, RayQuery } from '../mesh/surfaceQuery';
import { BLOCK, BLOCKS_PER_SIDE } from '../mesh/surfaceMap/surfaceMap';
import { buildSurfaceMap } from '../mesh/surfaceMap/build';
import { buildIslands, buildTopology, weldCorners } from '../mesh/topology';
import { firstUsableUvSet, reportUvs } from '../mesh/uvReport';
import { writeGlb } from '../mesh/writeGlb';
import { cubeModel, quadModel, seededRandom } from '../testing/models';

const bytes = (text: string) => new TextEncoder().encode(text);
const one = (name: string, content: Uint8Array | string) =>
  new Map([[name, typeof content === 'string' ? bytes(content) : content]]);
const refusal = async (files: Map<string, Uint8Array>) => {
  const error = await readModel(files).then(
    () => null,
    (e: unknown) => e,
  );
  expect(error).toBeInstanceOf(ModelError);
  expect((error as Error).message).toMatch(/^[^\n]{10,400}\.$/);
  return (error as Error).message;
};

describe('reading models', () => {
  test('a GLB that was written comes back with its parts, materials, UVs and triangles', async () => {
    const cube = cubeModel();
    const back = await readModel(one('cube.glb', await writeGlb(cube)));
    expect(back.parts).toEqual(['Cube']);
    expect(back.materials.map((m) => m.name)).toEqual(['Surface']);
    expect(back.indices.length).toBe(cube.indices.length);
    expect([...back.uvs[0]].sort()).toEqual([...cube.uvs[0]].sort());
  });

  test('node transforms are applied, mirrored ones keep their faces outward', async () => {
    const doc = new Document();
    const buffer = doc.createBuffer();
    const plane = planeModel('P', 1);
    const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint16Array) =>
      doc.createAccessor().setType(type).setArray(array).setBuffer(buffer);
    const primitive = doc
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', plane.positions))
      .setAttribute('TEXCOORD_0', accessor('VEC2', plane.uvs[0]))
      .setIndices(accessor('SCALAR', Uint16Array.from(plane.indices)));
    const node = doc
      .createNode('Mirrored')
      .setMesh(doc.createMesh().addPrimitive(primitive))
      .setScale([-1, 1, 1])
      .setTranslation([5, 0, 0]);
    doc.createScene().addChild(node);
    const model = await readModel(one('m.glb', await new WebIO().writeBinary(doc)));
    expect(Math.min(...[0, 1, 2, 3].map((v) => model.positions[v * 3]))).toBe(4.5);
    const hit = new RayQuery(model).raycast([5, 0, 3], [0, 0, -1])!;
    const [a, b, c] = [0, 1, 2].map((k) => model.indices[hit.face * 3 + k] * 3);
    const p = model.positions;
    const cross = (p[b] - p[a]) * (p[c + 1] - p[a + 1]) - (p[b + 1] - p[a + 1]) * (p[c] - p[a]);
    expect(cross).toBeGreaterThan(0);
  });

  test('a skinned model comes in at rest: joints move it, its own node does not', async () => {
    const doc = new Document();
    const buffer = doc.createBuffer();
    const accessor = (type: 'VEC3' | 'VEC4' | 'MAT4', array: Float32Array | Uint8Array) =>
      doc.createAccessor().setType(type).setArray(array).setBuffer(buffer);
    const primitive = doc
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0)))
      .setAttribute('JOINTS_0', accessor('VEC4', new Uint8Array(12)))
      .setAttribute('WEIGHTS_0', accessor('VEC4', Float32Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0)));
    const joint = doc.createNode('Joint').setTranslation([0, 2, 0]);
    const skin = doc
      .createSkin()
      .addJoint(joint)
      .setInverseBindMatrices(accessor('MAT4', Float32Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -0.5, 0, 1)));
    const node = doc
      .createNode('Body')
      .setMesh(doc.createMesh().addPrimitive(primitive))
      .setSkin(skin)
      .setTranslation([100, 0, 0]);
    doc.createScene().addChild(node).addChild(joint);
    const model = await readModel(one('s.glb', await new WebIO().writeBinary(doc)));
    expect([...model.positions]).toEqual([0, 1.5, 0, 1, 1.5, 0, 0, 2.5, 0]);
  });

  test('glTF with its buffer in a file of its own, in a folder', async () => {
    const io = new WebIO();
    const { json, resources } = await io.writeJSON(await io.readBinary((await writeGlb(cubeModel())) as Uint8Array<ArrayBuffer>));
    const [uri] = Object.keys(resources);
    const files = new Map([
      ['model/cube.gltf', bytes(JSON.stringify(json))],
      [`model/${uri}`, resources[uri]],
    ]);
    expect((await readModel(files)).indices.length).toBe(36);
    files.delete(`model/${uri}`);
    expect(await refusal(files)).toContain(uri);
  });

  test('OBJ: n-gons, negative indices, materials; V is turned to point down', async () => {
    const obj = `mtllib box.mtl\no Pentagon\nusemtl Red\nv 0 0 0\nv 1 0 0\nv 1.5 1 0\nv 0.5 2 0\nv -0.5 1 0\nvt 0 0\nvt 1 0\nvt 1 0.5\nvt 0.5 1\nvt 0 0.5\nf -5/-5 -4/-4 -3/-3 -2/-2 -1/-1\n`;
    const files = new Map([
      ['box.obj', bytes(obj)],
      ['box.mtl', bytes('newmtl Red\nKd 1 0 0\n')],
    ]);
    const model = await readModel(files);
    expect(model.indices.length / 3).toBe(3);
    expect(model.fileVertices).toBe(5);
    expect(model.parts).toEqual(['Pentagon']);
    expect(model.materials[0].name).toBe('Red');
    expect(model.materials[0].baseColourLinear.slice(0, 3)).toEqual([1, 0, 0]);
    expect(Math.max(...model.uvs[0].filter((_, i) => i % 2 === 1))).toBe(1);
    files.delete('box.mtl');
    expect((await readModel(files)).notes[0]).toContain('box.mtl');
  });

  test.each<[string, Map<string, Uint8Array>, RegExp]>([
    ['no file', new Map(), /no file/],
    ['an empty file', one('a.glb', ''), /empty/],
    ['a truncated GLB', one('a.glb', Uint8Array.of(0x67, 0x6c, 0x54, 0x46, 2, 0, 0, 0, 99, 0, 0, 0)), /cut short/],
    ['text named GLB', one('a.glb', 'hello there'), /not a GLB/],
    ['an unknown format', one('a.fbx', 'x'), /GLB, glTF, OBJ/],
    [
      'two models',
      new Map([
        ['a.obj', bytes('v 0 0 0')],
        ['b.obj', bytes('v 0 0 0')],
      ]),
      /2 models/,
    ],
    ['broken JSON', one('a.gltf', '{'), /JSON/],
    ['glTF 1', one('a.gltf', '{"asset":{"version":"1.0"}}'), /2\.0/],
    [
      'a huge accessor',
      one('a.gltf', '{"asset":{"version":"2.0"},"accessors":[{"count":4000000000,"type":"VEC3","componentType":5126}]}'),
      /4000000000/,
    ],
    [
      'a missing buffer',
      one('a.gltf', '{"asset":{"version":"2.0"},"buffers":[{"byteLength":12,"uri":"../../etc/passwd"}]}'),
      /passwd/,
    ],
    ['a scene without meshes', one('a.gltf', '{"asset":{"version":"2.0"},"scenes":[{"nodes":[]}]}'), /no triangles/],
    ['OBJ in UTF-16', one('a.obj', Uint8Array.of(0xff, 0xfe, 0x76, 0)), /UTF-16/],
    ['OBJ that is binary', one('a.obj', Uint8Array.of(0x76, 0, 1, 2)), /binary/],
    ['OBJ without faces', one('a.obj', 'v 0 0 0\n'), /no vertices and faces/],
    ['OBJ with an index out of range', one('a.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n'), /vertex 9 of 3/],
    ['OBJ with NaN', one('a.obj', 'v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'), /not a finite number/],
  ])('%s is refused in one sentence', async (_what, files, says) => {
    expect(await refusal(files)).toMatch(says);
  });

  test('indices out of range and infinite positions in a GLB are refused', async () => {
    const glb = await writeGlb(cubeModel());
    const io = new WebIO();
    for (const [spoil, says] of [
      [(d: Document) => d.getRoot().listMeshes()[0].listPrimitives()[0].getIndices()!.getArray()!.fill(999), /vertex 999/],
      [
        (d: Document) => d.getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('POSITION')!.getArray()!.fill(Infinity),
        /finite/,
      ],
    ] as const) {
      const doc = await io.readBinary(glb as Uint8Array<ArrayBuffer>);
      spoil(doc);
      expect(await refusal(one('a.glb', await io.writeBinary(doc)))).toMatch(says);
    }
  });

  test('500 damaged GLBs either read or end in a sentence, never in another error', async () => {
    const glb = await writeGlb(cubeModel());
    const random = seededRandom(77);
    for (let n = 0; n < 500; n++) {
      const bad = glb.slice(0, random() < 0.3 ? Math.floor(random() * glb.length) : glb.length);
      for (let k = 0; k < 4; k++) bad[Math.floor(random() * Math.min(bad.length, 900))] = random() * 256;
      await readModel(one('a.glb', bad)).catch((e: unknown) => expect(e).toBeInstanceOf(ModelError));
    }
  });
});

test.each([
  [{ not: 'a name' }, '"without a name" has no positions: export the model again.'],
  ['Left\nright', '"Leftright" has no positions: export the model again.'],
])('whatever stands where a name should be, what is said is one sentence', async (name, says) => {
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0, name }],
    meshes: [{ name: 7, primitives: [{ attributes: {} }] }],
  };
  const reading = readModel(new Map([['a.gltf', new TextEncoder().encode(JSON.stringify(json))]]));
  await expect(reading).rejects.toThrow(new ModelError(says));
});

describe('topology', () => {
  test('a cube with split vertices is one surface of six islands', () => {
    const cube = cubeModel();
    const topology = buildTopology(cube);
    expect(topology.componentCount).toBe(1);
    expect(topology.neighbours.length).toBe(12 * 3);
    const islands = buildIslands(cube, topology, cube.uvs[0]);
    expect(islands.count).toBe(6);
    expect(islands.border.reduce((a, b) => a + b, 0)).toBe(24);
  });

  test.each([
    ['as it is', 1, 0],
    ['very small and far away', 1e-20, 1e3],
    ['very large', 1e20, -1e20],
  ])('each corner joins the first place that is near enough: %s', (_, size, away) => {
    const random = seededRandom(8);
    const count = 600;
    const positions = Float32Array.from({ length: count * 3 }, () => Math.round(random() * 6) * size + away);
    // Some lie a little off, within the tolerance and beyond it.
    for (let i = 0; i < positions.length; i += 5) positions[i] += (random() - 0.5) * 4e-5 * size;
    const tolerance = boundsOf(positions).diagonal * 1e-6;
    const first: number[] = [];
    const wanted = Array.from({ length: count }, (_v, v) => {
      const square = (w: number) => [0, 1, 2].reduce((sum, k) => sum + (positions[v * 3 + k] - positions[w * 3 + k]) ** 2, 0);
      const found = first.findIndex((w) => square(w) <= tolerance ** 2);
      return found >= 0 ? found : first.push(v) - 1;
    });
    expect([...weldCorners({ positions, indices: Uint32Array.from({ length: count }, (_v, v) => v) })]).toEqual(wanted);
    if (size === 1) expect(first.length).toBeGreaterThan(300);
  });

  test('a model that is one place, far from the origin, is one vertex', () => {
    const positions = new Float32Array(9).fill(1e6);
    expect([...weldCorners({ positions, indices: Uint32Array.of(0, 1, 2) })]).toEqual([0, 0, 0]);
  });

  test('two plates that do not touch are two surfaces', () => {
    const plate = (z: number, uv: [number, number, number, number]) => ({
      corners: [
        [0, 0, z],
        [1, 0, z],
        [1, 1, z],
        [0, 1, z],
      ] as [number, number, number][],
      uv,
    });
    expect(buildTopology(quadModel([plate(0, [0, 0, 0.4, 1]), plate(0.01, [0.5, 0, 1, 1])])).componentCount).toBe(2);
  });
});

describe('the UV report', () => {
  const flat = (uv: [number, number, number, number]) => ({
    corners: [
      [0, 0, 0],
      [1, 0, 0],
      [1, 1, 0],
      [0, 1, 0],
    ] as [number, number, number][],
    uv,
  });
  const codes = (quads: Parameters<typeof quadModel>[0]) => {
    const model = quadModel(quads);
    const topology = buildTopology(model);
    return reportUvs(model, topology, buildIslands(model, topology, model.uvs[0]), 0).problems.map((p) => [p.code, p.count]);
  };
  test('a sound cube has no problem', () => {
    const cube = cubeModel();
    const topology = buildTopology(cube);
    const report = reportUvs(cube, topology, buildIslands(cube, topology, cube.uvs[0]), 0);
    expect(report.problems).toEqual([]);
    expect(report.sheets[0].coverage).toBeCloseTo(6 * 0.27 * 0.27, 2);
    expect(report.sheets[0].texelsPerMetre1024).toBeCloseTo(1024 * 0.27, 1);
  });
  test('overlapping, outside, mirrored, without area: each with its count', () => {
    expect(codes([flat([0.1, 0.1, 0.6, 0.6]), flat([0.3, 0.3, 0.9, 0.9])])).toContainEqual(['overlapping', 3]);
    expect(codes([flat([0.5, 0.5, 1.5, 0.9])])).toContainEqual(['outside', 2]);
    expect(codes([flat([0.9, 0.1, 0.1, 0.9])])).toContainEqual(['mirrored', 2]);
    expect(codes([flat([0.1, 0.1, 0.1, 0.9])])).toContainEqual(['zero-area', 2]);
    expect(codes([flat([0.1, 0.1, 0.5, 0.9]), flat([0.501, 0.1, 0.9, 0.9])])).toContainEqual(['narrow-gutter', 2]);
  });
  test('no UVs stops, and says what will be possible', () => {
    const cube = { ...cubeModel(), uvs: [] };
    expect(firstUsableUvSet(cube)).toBe(-1);
    const { problems } = reportUvs(cube, buildTopology(cube), null, -1);
    expect(problems[0]).toMatchObject({ code: 'no-uvs', weight: 'stop' });
    expect(problems[0].sentence).toContain('planned');
  });
});

describe('the surface map', () => {
  const cube = cubeModel();
  const islands = buildIslands(cube, buildTopology(cube), cube.uvs[0]);
  const map = buildSurfaceMap({ model: cube, islands, uv: cube.uvs[0], materialIndex: 0, width: 256, height: 256 });

  test('every covered texel lies on the cube where its UV says', () => {
    let inside = 0;
    for (const tile of map.tiles.values())
      for (let i = 0; i < tile.face.length; i++) {
        const f = tile.face[i];
        if (f < 0) continue;
        const [x, y, z] = tile.position.subarray(i * 3, i * 3 + 3);
        const [w0, w1, w2] = barycentric(cube, f, x, y, z);
        const u = [w0, w1, w2].reduce((s, w, k) => s + w * map.cornersTexels[f * 6 + k * 2], 0);
        const v = [w0, w1, w2].reduce((s, w, k) => s + w * map.cornersTexels[f * 6 + k * 2 + 1], 0);
        expect(u).toBeCloseTo(tile.x * 128 + (i % 128) + 0.5, 2);
        expect(v).toBeCloseTo(tile.y * 128 + Math.floor(i / 128) + 0.5, 2);
        if (Math.max(Math.abs(x), Math.abs(y), Math.abs(z)) < 0.5001) inside++;
      }
    // Six squares of 0.27 of 256 texels.
    expect(Math.abs(inside - 6 * (0.27 * 256) ** 2)).toBeLessThan(6 * 4 * 70);
  });

  test('the gutter goes on in the plane of the nearest triangle, as far as it says', () => {
    const right = Math.floor(0.3 * 256) + map.gutterTexels - 1;
    const tile = map.tiles.get(0)!;
    const i = 40 * 128 + right;
    expect(tile.face[i] >> 1).toBe(0);
    expect(tile.position[i * 3]).toBeGreaterThan(0.5);
    expect(tile.position[i * 3 + 2]).toBeCloseTo(0.5, 5);
    expect(tile.face[40 * 128 + right + 3]).not.toBe(tile.face[i]);
  });

  test('bounds of blocks and tiles hold all their texels', () => {
    for (const tile of map.tiles.values())
      for (let i = 0; i < tile.face.length; i++) {
        if (tile.face[i] < 0) continue;
        const block = (Math.floor(i / 128 / BLOCK) * BLOCKS_PER_SIDE + Math.floor((i % 128) / BLOCK)) * 6;
        for (let k = 0; k < 3; k++) {
          const v = tile.position[i * 3 + k];
          if (v < tile.blockBounds[block + k] || v > tile.blockBounds[block + 3 + k])
            throw new Error(`texel ${i} lies outside its block`);
          if (v < tile.bounds[k] || v > tile.bounds[k + 3]) throw new Error(`texel ${i} lies outside its tile`);
        }
      }
  });

  test('the distance to a triangle equals the least over a fine grid of its points', () => {
    const random = seededRandom(9);
    for (let n = 0; n < 40; n++) {
      const p = [random() * 2 - 1, random() * 2 - 1, random() * 2 - 1] as const;
      const f = Math.floor(random() * 12);
      let least = Infinity;
      for (let a = 0; a <= 60; a++)
        for (let b = 0; a + b <= 60; b++) {
          const w = [a / 60, b / 60, 1 - (a + b) / 60];
          const q = [0, 1, 2].map((k) => w.reduce((s, x, c) => s + x * cube.positions[cube.indices[f * 3 + c] * 3 + k], 0));
          least = Math.min(least, Math.hypot(q[0] - p[0], q[1] - p[1], q[2] - p[2]));
        }
      expect(Math.sqrt(distanceToFace2(cube, f, ...p))).toBeGreaterThan(least - 0.02);
      expect(Math.sqrt(distanceToFace2(cube, f, ...p))).toBeLessThanOrEqual(least + 1e-6);
    }
  });
});
