/** What a piece does not paint goes out as it came in: read, stored, read again, delivered; checked in the JSON of the files themselves. */
import { Document, WebIO, type Material } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  KHRMaterialsClearcoat,
  KHRMaterialsIOR,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import type { GLTF } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import { encodePng } from '../codec/png';
import { splitGlb } from '../mesh/gltfChecks';
import { planeModel } from '../mesh/plane';
import type { Model } from '../mesh/model';
import { readModel } from '../mesh/readModel';
import { writeGlb } from '../mesh/writeGlb';

const png = (seed: number) =>
  encodePng({ width: 2, height: 2, channels: 3, bits: 8, data: Uint8Array.from({ length: 12 }, (_, i) => i * seed) });

/** Two squares with two UV sets; `dress` gives each its material. */
async function file(...dress: ((document: Document, material: Material) => void)[]): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const { positions, normals, uvs, indices } = planeModel('Square', 1);
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint16Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const scene = document.createScene();
  dress.forEach((change, n) => {
    const material = document.createMaterial(`Material ${n}`);
    change(document, material);
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', positions))
      .setAttribute('NORMAL', accessor('VEC3', normals))
      .setAttribute('TEXCOORD_0', accessor('VEC2', uvs[0]))
      .setAttribute(
        'TEXCOORD_1',
        accessor(
          'VEC2',
          uvs[0].map((v) => 1 - v),
        ),
      )
      .setIndices(accessor('SCALAR', Uint16Array.from(indices)))
      .setMaterial(material);
    scene.addChild(document.createNode(`Node ${n}`).setMesh(document.createMesh().addPrimitive(primitive)));
  });
  return new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document);
}

const read = (glb: Uint8Array) => readModel(new Map([['model.glb', glb]]));
const jsonOf = (glb: Uint8Array) => splitGlb(glb);
const painted = (model: Model) =>
  model.materials.map(() => ({ baseColourPng: png(3), ormPng: png(5), normalPng: png(7), emissivePng: png(11) }));

/** The bytes of the picture that a texture info names. */
function pictureOf({ json, resources }: ReturnType<typeof jsonOf>, info: unknown): Uint8Array {
  const texture = json.textures![(info as { index: number }).index];
  const view = json.bufferViews![json.images![texture.source!].bufferView!];
  return resources['@glb.bin'].subarray(view.byteOffset ?? 0, (view.byteOffset ?? 0) + view.byteLength);
}

const sound = async (glb: Uint8Array) => {
  const { issues } = await validateBytes(glb);
  expect(issues.messages.filter(({ severity }: { severity: number }) => severity === 0)).toEqual([]);
};

const clearCoat = (document: Document, material: Material) => {
  const coat = document
    .createExtension(KHRMaterialsClearcoat)
    .createClearcoat()
    .setClearcoatFactor(0.75)
    .setClearcoatRoughnessFactor(0.25)
    .setClearcoatTexture(
      document
        .createTexture('coat')
        .setMimeType('image/png')
        .setImage(png(1) as Uint8Array<ArrayBuffer>),
    );
  coat
    .getClearcoatTextureInfo()!
    .setTexCoord(1)
    .setWrapS(33071)
    .setExtension('KHR_texture_transform', document.createExtension(KHRTextureTransform).createTransform().setScale([2, 3]));
  material.setExtension('KHR_materials_clearcoat', coat);
};
const rest = (document: Document, material: Material) => {
  const texture = document
    .createTexture('sheen')
    .setMimeType('image/png')
    .setImage(png(2) as Uint8Array<ArrayBuffer>);
  material
    .setExtension(
      'KHR_materials_sheen',
      document
        .createExtension(KHRMaterialsSheen)
        .createSheen()
        .setSheenColorFactor([0.1, 0.2, 0.3])
        .setSheenColorTexture(texture),
    )
    .setExtension(
      'KHR_materials_specular',
      document.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(0.5).setSpecularTexture(texture),
    )
    .setExtension(
      'KHR_materials_transmission',
      document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(0.9),
    )
    .setExtension('KHR_materials_ior', document.createExtension(KHRMaterialsIOR).createIOR().setIOR(1.4));
};
const unlit = (document: Document, material: Material) =>
  void material.setExtension('KHR_materials_unlit', document.createExtension(KHRMaterialsUnlit).createUnlit());
const cutOut = (_: Document, material: Material) => void material.setAlphaMode('MASK').setAlphaCutoff(0.3);
const blended = (_: Document, material: Material) => void material.setAlphaMode('BLEND');

const ALL = [clearCoat, rest, unlit, cutOut, blended];

test.each([
  ['stored', async (given: Uint8Array) => writeGlb(await read(given))],
  ['stored twice', async (given: Uint8Array) => writeGlb(await read(await writeGlb(await read(given))))],
  [
    'painted and delivered',
    async (given: Uint8Array) => {
      const model = await read(await writeGlb(await read(given)));
      return writeGlb(model, painted(model));
    },
  ],
])('%s: extensions with their numbers, pictures, UV sets and transforms; alpha and its cut-off', async (_how, through) => {
  const given = await file(...ALL);
  const out = await through(given);
  await sound(out);
  const [before, after] = [jsonOf(given), jsonOf(out)];
  const materials = after.json.materials!;
  const strip = (value: unknown): unknown =>
    JSON.parse(JSON.stringify(value, (key, inner: unknown) => (key === 'index' ? undefined : inner)));
  materials.forEach((material, m) =>
    expect(strip(material.extensions ?? {})).toEqual(strip(before.json.materials![m].extensions ?? {})),
  );
  const info = (of: GLTF.IGLTF, m: number, name: string, key: string) =>
    (of.materials![m].extensions![name] as Record<string, unknown>)[key];
  for (const [m, name, key] of [
    [0, 'KHR_materials_clearcoat', 'clearcoatTexture'],
    [1, 'KHR_materials_sheen', 'sheenColorTexture'],
    [1, 'KHR_materials_specular', 'specularTexture'],
  ] as const)
    expect(pictureOf(after, info(after.json, m, name, key))).toEqual(pictureOf(before, info(before.json, m, name, key)));
  const coat = info(after.json, 0, 'KHR_materials_clearcoat', 'clearcoatTexture') as { index: number; texCoord: number };
  expect(coat.texCoord).toBe(1);
  expect(after.json.samplers![after.json.textures![coat.index].sampler!].wrapS).toBe(33071);
  // Sheen and specular share a picture.
  const shared = ['KHR_materials_sheen', 'KHR_materials_specular'].map(
    (name, n) => pictureOf(after, info(after.json, 1, name, ['sheenColorTexture', 'specularTexture'][n])).byteOffset,
  );
  expect(shared[0]).toBe(shared[1]);
  expect(materials.map(({ alphaMode = 'OPAQUE', alphaCutoff = 0.5 }) => [alphaMode, alphaCutoff])).toEqual([
    ['OPAQUE', 0.5],
    ['OPAQUE', 0.5],
    ['OPAQUE', 0.5],
    ['MASK', 0.3],
    ['BLEND', 0.5],
  ]);
  const names = (json: GLTF.IGLTF) => [...(json.extensionsUsed ?? [])].sort();
  expect(names(after.json)).toEqual(names(before.json));
});

test('extensions that nobody here knows go along too', async () => {
  const given = await file(() => undefined);
  const { json, resources } = jsonOf(given);
  json.materials![0].extensions = { EXT_made_up: { glow: [1, { deep: 'yes' }], constructor: 3 } };
  json.extensionsUsed = ['EXT_made_up'];
  const bin = Buffer.from(resources['@glb.bin']);
  const gltf = Buffer.from(
    JSON.stringify({
      ...json,
      buffers: [{ byteLength: bin.length, uri: `data:application/octet-stream;base64,${bin.toString('base64')}` }],
    }),
  );
  const model = await readModel(new Map([['a.gltf', new Uint8Array(gltf)]]));
  const out = jsonOf(await writeGlb(model));
  expect(out.json.materials![0].extensions).toEqual({ EXT_made_up: { glow: [1, { deep: 'yes' }], constructor: 3 } });
});

test('faces without UVs have a twin of the material that asks for no pictures', async () => {
  const model = await read(await file(clearCoat));
  const bare = { ...model, uvs: model.uvs.map((uv) => uv.map(() => NaN)) };
  const out = await writeGlb(bare, painted(bare));
  await sound(out);
  const [, twin] = jsonOf(out).json.materials!;
  expect(twin.extensions).toEqual({ KHR_materials_clearcoat: { clearcoatFactor: 0.75, clearcoatRoughnessFactor: 0.25 } });
});
