/** Readers of models. */
import { readFileSync } from 'node:fs';
import { Document, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS, KHRMaterialsClearcoat } from '@gltf-transform/extensions';
import { encodePng } from '../../src/core/codec/png';
import { splitGlb } from '../../src/core/mesh/gltfChecks';
import { ModelError, type Model } from '../../src/core/mesh/model';
import { readModel } from '../../src/core/mesh/readModel';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { boxModel, cubeModel } from '../../src/core/testing/models';
import { spoiltJson } from '../../src/core/testing/fuzz';
import { NODE_READING } from '../../src/server/models';
import { BYTES, json, lines, orRefusal, tags, text, type Spoil, type Target } from './target';

const png = encodePng({ width: 3, height: 3, channels: 3, bits: 8, data: Uint8Array.from({ length: 27 }, (_, i) => i * 9) });

/** Skinned, a strip, of a material with a picture and a clear coat. */
async function skinned(): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const joint = document.createNode('Joint').setTranslation([0, 1, 0]);
  const accessor = (type: 'VEC3' | 'VEC4', array: Float32Array | Uint16Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const picture = () =>
    document
      .createTexture()
      .setMimeType('image/png')
      .setImage(png as Uint8Array<ArrayBuffer>);
  const coat = document.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatTexture(picture());
  const weights = Float32Array.from({ length: 16 }, (_, i) => Number(i % 4 === 0));
  const primitive = document
    .createPrimitive()
    .setMode(5)
    .setAttribute('POSITION', accessor('VEC3', Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0)))
    .setAttribute('JOINTS_0', accessor('VEC4', new Uint16Array(16)))
    .setAttribute('WEIGHTS_0', accessor('VEC4', weights))
    .setMaterial(document.createMaterial('M').setBaseColorTexture(picture()).setExtension('KHR_materials_clearcoat', coat));
  const node = document.createNode('Skinned').setMesh(document.createMesh().addPrimitive(primitive));
  document
    .createScene()
    .addChild(node.setSkin(document.createSkin().addJoint(joint)))
    .addChild(joint);
  return new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document);
}

const models: Model[] = [
  cubeModel(),
  boxModel(1, 2, 3),
  { ...cubeModel(), uvs: [] },
  { ...cubeModel(), uvs: [cubeModel().uvs[0], cubeModel().uvs[0]] },
];
let made: Promise<Uint8Array[]> | null = null;
const glbs = () =>
  (made ??= Promise.all([
    ...models.map((m) => writeGlb(m)),
    writeGlb(models[0], [{ baseColourPng: png, normalPng: png }]),
    skinned(),
  ]));

/** The JSON of a GLB is spoilt as a document, and put back. */
const jsonOfGlb: Spoil = (file, random) => {
  const { json: inside, resources } = splitGlb(file);
  const body = text(JSON.stringify(spoiltJson(inside, random)).padEnd(4));
  const padding = (4 - (body.length % 4)) % 4;
  const binary = resources['@glb.bin'] ?? new Uint8Array(0);
  const head = Uint32Array.of(0x46546c67, 2, 28 + body.length + padding + binary.length, body.length + padding, 0x4e4f534a);
  const bin = Uint32Array.of(binary.length, 0x004e4942);
  return Buffer.concat([new Uint8Array(head.buffer), body, Buffer.alloc(padding, 32), new Uint8Array(bin.buffer), binary]);
};

async function gltfs(): Promise<Uint8Array[]> {
  return (await glbs()).map((glb) => {
    const { json: inside, resources } = splitGlb(glb);
    const bytes = Buffer.from(resources['@glb.bin'] ?? new Uint8Array(0));
    inside.buffers![0].uri = `data:application/octet-stream;base64,${bytes.toString('base64')}`;
    return text(JSON.stringify(inside));
  });
}

const OBJ = `mtllib a.mtl b.mtl\n# a box\no Box\nv 0 0 0\nv 1 0 0 0.5 0.5 0.5\nv 1 1 0\nv 0 1 0\nv 0.5 0.5 1e0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\nusemtl Red\nf 1/1/1 2/2/1 3/3/1 4/4/1\ng Roof # top\ns 1\nf -1//1 -2//1 \\\n -3//1\nl 1 2 3\np 1\nusemtl Blue\nf 1 2 5\nf 2 3 5 4 1\n`;
const MTL = `newmtl Red\nKd 1 0 0\nd 0.5\nmap_Kd -s 1 1 1 -o 0 0 0 my red.png\nKe 0 0 1\nPr 0.4\nPm 1\nnewmtl Blue\nTr 0.2\nmap_Ke glow.png\nnorm n.png\n`;
const PLY = `ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 2\nproperty list uchar int vertex_indices\nend_header\n0 0 0 255 0 0\n1 0 0 0 255 0\n1 1 0 0 0 255\n0 1 0 9 9 9\n3 0 1 2\n3 0 2 3\n`;
const STL = `solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid a\n`;

function binaryPly(): Uint8Array {
  const head = PLY.slice(0, PLY.indexOf('end_header')).replace('ascii', 'binary_little_endian');
  const body = Buffer.alloc(4 * 15 + 2 * 13);
  [0, 0, 1, 0, 1, 1, 0, 1].forEach((value, i) => body.writeFloatLE(value, (i >> 1) * 15 + (i & 1) * 4));
  [
    [0, 1, 2],
    [0, 2, 3],
  ].forEach((face, f) => {
    body[60 + f * 13] = 3;
    face.forEach((v, k) => body.writeInt32LE(v, 61 + f * 13 + k * 4));
  });
  return Buffer.concat([text(`${head}end_header\n`), body]);
}

function binaryStl(): Uint8Array {
  const bytes = new Uint8Array(84 + 100);
  const view = new DataView(bytes.buffer);
  view.setUint32(80, 2, true);
  for (let i = 0; i < 24; i++) view.setFloat32(84 + (i % 12) * 4 + (i >= 12 ? 50 : 0), (i * 7) % 5, true);
  return bytes;
}

const DAE = readFileSync(new URL('./board.dae', import.meta.url));

const model =
  (name: string, more: [string, Uint8Array][] = []) =>
  (bytes: Uint8Array) =>
    orRefusal(() => readModel(new Map([[name, bytes], ...more]), NODE_READING), ModelError);

export const MODELS: readonly Target[] = [
  { name: 'glb', files: glbs, ways: [...BYTES, jsonOfGlb], read: model('a.glb') },
  { name: 'gltf', files: gltfs, ways: [...BYTES, json], read: model('a.gltf') },
  {
    name: 'obj',
    files: () => [OBJ, OBJ.replaceAll('\n', '\r\n'), OBJ.replaceAll('\n', '\r')].map(text),
    ways: [...BYTES, lines],
    read: model('a.obj', [['a.mtl', text(MTL)]]),
  },
  {
    name: 'mtl',
    files: () => [text(MTL)],
    ways: [...BYTES, lines],
    read: (bytes) => model('a.obj', [['a.mtl', bytes]])(text(OBJ)),
  },
  { name: 'ply', files: () => [text(PLY), binaryPly()], ways: [...BYTES, lines], read: model('a.ply') },
  { name: 'stl', files: () => [text(STL), binaryStl()], ways: [...BYTES, lines], read: model('a.stl') },
  { name: 'dae', files: () => [DAE], ways: [...BYTES, tags], read: model('a.dae') },
];
