/** COLLADA files, written here after the specification (1.4.1): where things are, which way up, whose material and picture. */
import { readModel } from '../../core/mesh/readModel';
import { ModelError } from '../../core/mesh/model';
import { fuzz, spoilt } from '../../core/testing/fuzz';
import { NODE_READING } from '../models';

interface Made {
  up?: 'X_UP' | 'Y_UP' | 'Z_UP';
  metre?: number;
  matrix?: string;
}

/** A square of two triangles in the plane z = 0, a triangle of another material beside it. */
const dae = ({
  up = 'Y_UP',
  metre = 1,
  matrix = '1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1',
}: Made = {}) => `<?xml version="1.0" encoding="utf-8"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
  <asset><unit meter="${metre}" name="u"/><up_axis>${up}</up_axis></asset>
  <library_images><image id="i" name="i"><init_from>paint%20of%20it.png</init_from></image></library_images>
  <library_effects>
    <effect id="e1"><profile_COMMON>
      <newparam sid="s"><surface type="2D"><init_from>i</init_from></surface></newparam>
      <newparam sid="t"><sampler2D><source>s</source></sampler2D></newparam>
      <technique sid="common"><lambert><diffuse><texture texture="t" texcoord="UV"/></diffuse></lambert></technique>
    </profile_COMMON></effect>
    <effect id="e2"><profile_COMMON><technique sid="common"><phong>
      <diffuse><color>1 0 0 1</color></diffuse><transparency><float>0.25</float></transparency>
      <transparent opaque="A_ONE"><color>1 1 1 1</color></transparent>
    </phong></technique></profile_COMMON></effect>
  </library_effects>
  <library_materials>
    <material id="m1" name="Painted"><instance_effect url="#e1"/></material>
    <material id="m2" name="Red"><instance_effect url="#e2"/></material>
  </library_materials>
  <library_geometries><geometry id="g" name="Square"><mesh>
    <source id="p"><float_array id="pa" count="15">0 0 0 1 0 0 1 1 0 0 1 0 2 0 0</float_array>
      <technique_common><accessor source="#pa" count="5" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
    <source id="n"><float_array id="na" count="3">0 0 1</float_array>
      <technique_common><accessor source="#na" count="1" stride="3"><param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source>
    <source id="t"><float_array id="ta" count="8">0 0 1 0 1 1 0 1</float_array>
      <technique_common><accessor source="#ta" count="4" stride="2"><param name="S" type="float"/><param name="T" type="float"/></accessor></technique_common></source>
    <vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
    <polylist material="a" count="1"><input semantic="VERTEX" source="#v" offset="0"/><input semantic="NORMAL" source="#n" offset="1"/><input semantic="TEXCOORD" source="#t" offset="2" set="0"/>
      <vcount>4</vcount><p>0 0 0 1 0 1 2 0 2 3 0 3</p></polylist>
    <triangles material="b" count="1"><input semantic="VERTEX" source="#v" offset="0"/><input semantic="NORMAL" source="#n" offset="1"/><input semantic="TEXCOORD" source="#t" offset="2" set="0"/>
      <p>1 0 0 4 0 1 2 0 2</p></triangles>
  </mesh></geometry></library_geometries>
  <library_visual_scenes><visual_scene id="vs"><node id="node" name="Board"><matrix>${matrix}</matrix>
    <instance_geometry url="#g"><bind_material><technique_common>
      <instance_material symbol="a" target="#m1"/><instance_material symbol="b" target="#m2"/>
    </technique_common></bind_material></instance_geometry></node></visual_scene></library_visual_scenes>
  <scene><instance_visual_scene url="#vs"/></scene>
</COLLADA>`;

const encode = (text: string) => new TextEncoder().encode(text);
const read = (text: string, more: [string, Uint8Array][] = []) =>
  readModel(new Map([['quay/board.dae', encode(text)], ...more]), NODE_READING);
/** Corners of triangle `f`. */
const corners = (model: Awaited<ReturnType<typeof read>>, f: number) =>
  [0, 1, 2].map((c) => {
    const v = model.indices[f * 3 + c];
    return [...model.positions.subarray(v * 3, v * 3 + 3)].map((x) => Math.round(x * 1e4) / 1e4 + 0);
  });

test('triangles, materials in the order of the file, UVs with V down, normals', async () => {
  const model = await read(dae());
  expect(model.parts).toEqual(['Board']);
  expect(model.materials.map((m) => m.name)).toEqual(['Painted', 'Red']);
  expect([...model.faceMaterial]).toEqual([0, 0, 1]);
  expect(corners(model, 0)).toEqual([
    [0, 0, 0],
    [1, 0, 0],
    [0, 1, 0],
  ]);
  expect(corners(model, 1)).toEqual([
    [1, 0, 0],
    [1, 1, 0],
    [0, 1, 0],
  ]);
  expect(corners(model, 2)).toEqual([
    [1, 0, 0],
    [2, 0, 0],
    [1, 1, 0],
  ]);
  expect([...model.uvs[0].subarray(0, 6)]).toEqual([0, 1, 1, 1, 0, 0]);
  for (let v = 0; v < model.normals.length / 3; v++) expect([...model.normals.subarray(v * 3, v * 3 + 3)]).toEqual([0, 0, 1]);
  expect(model.materials[1]).toMatchObject({ alphaMode: 'BLEND', seeThrough: true });
  expect(model.materials[1].baseColourLinear[3]).toBeCloseTo(0.25, 5);
  expect(model.materials[1].baseColourLinear.slice(0, 3)).toEqual([1, 0, 0]);
});

test('metres, and Y up', async () => {
  const model = await read(dae({ up: 'Z_UP', metre: 0.01 }));
  // What was Y in the file goes into the depth: Z up means Y = −Z of ours.
  expect(corners(model, 2)).toEqual([
    [0.01, 0, 0],
    [0.02, 0, 0],
    [0.01, 0, -0.01],
  ]);
  expect([...model.normals.subarray(0, 3)].map((x) => Math.round(x))).toEqual([0, 1, -0].map((x) => x + 0));
});

test('a node that mirrors keeps its surface the right way round', async () => {
  const model = await read(dae({ matrix: '-1 0 0 5 0 1 0 0 0 0 1 0 0 0 0 1' }));
  const [a, b, c] = corners(model, 2);
  const cross = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
  expect(cross).toBeGreaterThan(0);
  expect([...model.normals.subarray(0, 3)].map((x) => x + 0)).toEqual([0, 0, 1]);
});

test('a picture that lies beside it is found by its name; one that does not is said', async () => {
  const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47);
  const found = await read(dae(), [['quay/paint of it.png', png]]);
  expect(found.materials[0].baseColourPicture).toMatchObject({ mime: 'image/png', bytes: png });
  expect(found.notes).toEqual([]);
  const missing = await read(dae());
  expect(missing.materials[0].baseColourPicture).toBeNull();
  expect(missing.notes).toEqual([expect.stringMatching(/"paint%20of%20it.png" is missing/)]);
});

test('materials of the same name keep their own pictures', async () => {
  const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47);
  const same = dae().replace('name="Painted"', 'name="Red"');
  const { materials } = await read(same, [['quay/paint of it.png', png]]);
  expect(materials.map((m) => [m.name, m.baseColourPicture !== null])).toEqual([
    ['Red', true],
    ['Red', false],
  ]);
});

test('what is none, or broken, is refused in one sentence', async () => {
  const many = [
    dae().replace('count="1"', 'count="4294967295"'),
    dae().replace('<vcount>4', '<vcount>4000000000'),
    dae().replace('stride="3"', 'stride="99999999"'),
  ];
  for (const text of [
    ...many,
    '',
    'nothing',
    '<html></html>',
    dae().slice(0, 900),
    dae().replace('<library_visual_scenes>', '<other>'),
  ])
    await expect(read(text)).rejects.toThrow(ModelError);
  await expect(readModel(new Map([['a.dae', encode(dae())]]))).rejects.toThrow(/export it as GLB/);
});

test('spoilt ones are read or refused', async () => {
  const { faults } = await fuzz([encode(dae())], spoilt, (bytes) => readModel(new Map([['a.dae', bytes]]), NODE_READING), [
    ModelError,
  ]);
  expect(faults).toEqual([]);
});
