/** What a glTF file says about its surface comes in as paint, or is named as left out. */
import { Document, WebIO, type Material } from '@gltf-transform/core';
import { ALL_EXTENSIONS, EXTMeshGPUInstancing, KHRMaterialsClearcoat, KHRTextureTransform } from '@gltf-transform/extensions';
import { validateBytes } from 'gltf-validator';
import { decodePng, encodePng } from '../codec/png';
import { linearToSrgb, srgbToLinear } from '../colour/transfer';
import { storedChannels, type MapId } from '../kinds/maps';
import { planeModel } from '../mesh/plane';
import { readModel } from '../mesh/readModel';
import { writeGlb } from '../mesh/writeGlb';
import { againstReference } from '../testing/tangents';
import { createModelPiece } from '../piece/create';
import { planeKey } from '../document/planes';
import { pictureFromTiles } from '../tile/tiles';

const SIZE = 64;

/** A square whose second UV set is the first one mirrored across. */
function square(change: (document: Document, material: Material) => void): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const plane = planeModel('Square', 1);
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint16Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const material = document.createMaterial('Tile').setMetallicFactor(1).setRoughnessFactor(1);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', plane.positions))
    .setAttribute('NORMAL', accessor('VEC3', plane.normals))
    .setAttribute('TEXCOORD_0', accessor('VEC2', plane.uvs[0]))
    .setAttribute(
      'TEXCOORD_1',
      accessor(
        'VEC2',
        plane.uvs[0].map((v, i) => (i % 2 ? v : 1 - v)),
      ),
    )
    .setIndices(accessor('SCALAR', Uint16Array.from(plane.indices)))
    .setMaterial(material);
  document.createScene().addChild(document.createNode('Square').setMesh(document.createMesh().addPrimitive(primitive)));
  change(document, material);
  return document;
}

const texture = (document: Document, at: (x: number, y: number) => number[]) => {
  const data = Uint8Array.from({ length: SIZE * SIZE * 4 }, (_, i) => at((i >> 2) % SIZE, Math.floor(i / 4 / SIZE))[i % 4]);
  return document
    .createTexture()
    .setMimeType('image/png')
    .setImage(encodePng({ width: SIZE, height: SIZE, channels: 4, bits: 8, data }) as Uint8Array<ArrayBuffer>);
};
/** Red along X, green along Y. */
const ramps = (x: number, y: number) => [x * 4, y * 4, 0, 255];

async function piece(document: Document) {
  const bytes = await new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document);
  const model = await readModel(new Map([['square.glb', bytes]]));
  let n = 0;
  const made = await createModelPiece(model, {
    name: 'Square',
    newId: () => `id${n++}`,
    uvSet: 0,
    size: SIZE,
    modelBlob: '',
    decodePicture: async ({ bytes: png }) => decodePng(png),
  });
  const [sheet] = made.piece.sheets;
  const layer = sheet.layers.find((l) => l.name === 'From the model');
  const read = (map: MapId) => {
    const channels = storedChannels(map);
    const all = pictureFromTiles(made.store.tilesOf(planeKey(layer!.id, map)), SIZE, SIZE, channels);
    return (x: number, y: number) =>
      [...all.subarray((y * SIZE + x) * channels, (y * SIZE + x + 1) * channels)].map((v) => v / 65535);
  };
  return { model, sheet, layer, read, notes: [...model.notes, ...made.notes] };
}

test('pictures come times their factors, into the maps they mean', async () => {
  const { read, sheet } = await piece(
    square((d, m) => {
      m.setBaseColorTexture(texture(d, () => [200, 100, 50, 255])).setBaseColorFactor([0.5, 1, 0.25, 1]);
      m.setMetallicRoughnessTexture(texture(d, () => [0, 128, 255, 255]))
        .setRoughnessFactor(0.5)
        .setMetallicFactor(0.8);
      m.setOcclusionTexture(texture(d, () => [100, 0, 0, 255])).setOcclusionStrength(0.5);
      m.setEmissiveTexture(texture(d, () => [255, 128, 0, 255])).setEmissiveFactor([1, 0.5, 1]);
      m.setNormalTexture(texture(d, () => [191, 128, 238, 255])).setNormalScale(0.5);
    }),
  );
  const seen = (v: number, factor: number) => linearToSrgb(srgbToLinear(v / 255) * factor);
  const near = (found: number[], wanted: number[]) => wanted.forEach((w, c) => expect(found[c]).toBeCloseTo(w, 3));
  near(read('base-colour')(9, 9), [seen(200, 0.5), 100 / 255, seen(50, 0.25), 1]);
  near(read('roughness')(9, 9), [(128 / 255) * 0.5, 1]);
  near(read('metallic')(9, 9), [0.8, 1]);
  near(read('occlusion')(9, 9), [1 + 0.5 * (100 / 255 - 1), 1]);
  near(read('emissive')(9, 9), [1, seen(128, 0.5), 0, 1]);
  const [x, y, z] = [(191 / 127.5 - 1) * 0.5, (128 / 127.5 - 1) * 0.5, 238 / 127.5 - 1];
  const l = Math.hypot(x, y, z);
  near(
    read('normal')(9, 9),
    [x, y, z].map((v) => (v / l) * 0.5 + 0.5),
  );
  expect(sheet.maps).toEqual(expect.arrayContaining(['normal', 'emissive', 'occlusion']));
});

test.each([
  ['OPAQUE', [false, 1]],
  ['MASK', [true, 0]],
  ['BLEND', [true, 100 / 255]],
] as const)('alpha of the base colour under %s', async (mode, [carried, value]) => {
  const { read, sheet } = await piece(
    square((d, m) =>
      m
        .setAlphaMode(mode)
        .setAlphaCutoff(0.6)
        .setBaseColorTexture(texture(d, (x) => [200, 100, 50, x < 32 ? 255 : 100])),
    ),
  );
  expect(sheet.maps.includes('opacity')).toBe(carried);
  expect(read('base-colour')(50, 5)[3]).toBe(1);
  expect(read('base-colour')(50, 5)[0]).toBeCloseTo(200 / 255, 2);
  if (carried) {
    expect(read('opacity')(50, 5)[0]).toBeCloseTo(value, 3);
    expect(read('opacity')(5, 5)[0]).toBe(1);
  }
});

test('a picture that is turned, scaled and shifted is brought to the sheet, and so is one on another UV set', async () => {
  const set = (
    d: Document,
    m: Material,
    info: 'getBaseColorTextureInfo',
    turn: number,
    scale: number,
    offset: [number, number],
  ) =>
    m[info]()!.setExtension(
      'KHR_texture_transform',
      d.createExtension(KHRTextureTransform).createTransform().setRotation(turn).setScale([scale, scale]).setOffset(offset),
    );
  const moved = await piece(
    square((d, m) => {
      m.setBaseColorTexture(texture(d, ramps));
      set(d, m, 'getBaseColorTextureInfo', Math.PI / 2, 0.5, [0.2, 0.8]);
    }),
  );
  for (const [x, y] of [
    [10, 20],
    [40, 8],
    [33, 50],
  ]) {
    const [u, v] = [(x + 0.5) / SIZE, (y + 0.5) / SIZE];
    // The matrices of the extension's text: offset · rotation · scale.
    const [tu, tv] = [0.2 + 0.5 * v, 0.8 - 0.5 * u];
    const found = moved.read('base-colour')(x, y);
    expect(found[0]).toBeCloseTo(((tu * SIZE - 0.5) * 4) / 255, 2);
    expect(found[1]).toBeCloseTo(((tv * SIZE - 0.5) * 4) / 255, 2);
  }
  const other = await piece(square((d, m) => m.setBaseColorTexture(texture(d, ramps)).getBaseColorTextureInfo()!.setTexCoord(1)));
  expect(other.read('base-colour')(10, 20)[0]).toBeCloseTo(((SIZE - 1 - 10) * 4) / 255, 2);
  expect(other.read('base-colour')(10, 20)[1]).toBeCloseTo((20 * 4) / 255, 2);
});

test('directions turn with the picture that they stand in', async () => {
  const { read } = await piece(
    square((d, m) => {
      m.setNormalTexture(texture(d, () => [191, 128, 238, 255]));
      m.getNormalTextureInfo()!.setExtension(
        'KHR_texture_transform',
        d
          .createExtension(KHRTextureTransform)
          .createTransform()
          .setRotation(Math.PI / 2),
      );
    }),
  );
  // The picture's X runs down the sheet: what leant to the right leans down.
  const [x, y] = read('normal')(30, 30);
  expect(x).toBeCloseTo(0.5, 2);
  expect(y).toBeCloseTo(1 - 191 / 255, 2);
});

test('what does not come in is named', async () => {
  const { notes } = await piece(
    square((d, m) => {
      m.setExtension('KHR_materials_clearcoat', d.createExtension(KHRMaterialsClearcoat).createClearcoat());
      const node = d.getRoot().listNodes()[0];
      const time = d.createAccessor().setType('SCALAR').setArray(Float32Array.of(0, 1)).setBuffer(d.getRoot().listBuffers()[0]);
      const places = d.createAccessor().setType('VEC3').setArray(new Float32Array(6)).setBuffer(d.getRoot().listBuffers()[0]);
      const sampler = d.createAnimationSampler().setInput(time).setOutput(places);
      d.createAnimation()
        .addSampler(sampler)
        .addChannel(d.createAnimationChannel().setSampler(sampler).setTargetNode(node).setTargetPath('translation'));
      d.createCamera('C').setType('perspective');
      m.setEmissiveTexture(d.createTexture().setMimeType('image/ktx2').setImage(new Uint8Array(8)));
    }),
  );
  const all = notes.join('\n');
  expect(all).toMatch(/animation is left out/);
  expect(all).toMatch(/does not show KHR_materials_clearcoat: it goes out again/);
  expect(all).toMatch(/KTX2/);
});

test('instances are placed, each as its extension says', async () => {
  const document = square((d) => {
    const buffer = d.getRoot().listBuffers()[0];
    const places = d
      .createAccessor()
      .setType('VEC3')
      .setArray(Float32Array.of(0, 0, 0, 5, 0, 0, 0, 0, 7))
      .setBuffer(buffer);
    const scales = d
      .createAccessor()
      .setType('VEC3')
      .setArray(Float32Array.of(1, 1, 1, 2, 2, 2, 1, 1, 1))
      .setBuffer(buffer);
    const node = d.getRoot().listNodes()[0];
    node.setTranslation([0, 1, 0]);
    node.setExtension(
      'EXT_mesh_gpu_instancing',
      d
        .createExtension(EXTMeshGPUInstancing)
        .createInstancedMesh()
        .setAttribute('TRANSLATION', places)
        .setAttribute('SCALE', scales),
    );
  });
  const { model } = await piece(document);
  expect(model.indices.length).toBe(3 * 2 * 3);
  const xs = Array.from({ length: model.positions.length / 3 }, (_, v) => model.positions[v * 3]);
  expect([Math.min(...xs), Math.max(...xs)]).toEqual([-0.5, 6]);
  expect(Math.max(...model.positions.filter((_, i) => i % 3 === 2))).toBe(7);
});

describe('the hierarchy', () => {
  /** A square on a mirrored, turned, stretched node under another, with empties and extras. */
  const nested = () =>
    square((d) => {
      const node = d.getRoot().listNodes()[0];
      const scene = d.getRoot().listScenes()[0];
      const arm = d.createNode('Arm').setTranslation([1, 2, 3]).setRotation([0, 0.6, 0, 0.8]).setExtras({ engine: 'hinge' });
      const lamp = d
        .createNode('Lamp')
        .setScale([-2, 1, 0.5])
        .addChild(node.setTranslation([0.25, 0, 0]));
      const socket = d.createNode('Socket').setTranslation([0, -1, 0]);
      scene.removeChild(node);
      scene.addChild(arm.addChild(lamp).addChild(socket));
    });
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  const readBack = async (bytes: Uint8Array) => readModel(new Map([['a.glb', bytes]]));

  test('goes out as it came in: names, parents, places, extras; and the model stands where it stood', async () => {
    const { model } = await piece(nested());
    const written = await writeGlb(model, [
      { normalPng: encodePng({ width: 1, height: 1, channels: 3, bits: 8, data: Uint8Array.of(128, 128, 255) }) },
    ]);
    const root = (await io.readBinary(written as Uint8Array<ArrayBuffer>)).getRoot();
    const told = (r: ReturnType<Document['getRoot']>) =>
      r
        .listNodes()
        .map((n) => [
          n.getName(),
          n.getParentNode()?.getName() ?? null,
          n.getMatrix().map((v) => Number(v.toFixed(5))),
          n.getExtras(),
        ]);
    const before = (await io.readBinary(await io.writeBinary(nested()))).getRoot();
    expect(told(root).sort()).toEqual(told(before).sort());
    expect((await validateBytes(written)).issues.numErrors).toBe(0);

    const back = await readBack(written);
    expect(back.parts).toEqual(model.parts);
    const faces = (m: typeof model) =>
      Array.from({ length: m.indices.length / 3 }, (_, f) =>
        [0, 1, 2].map((k) => [0, 1, 2].map((c) => Number(m.positions[m.indices[f * 3 + k] * 3 + c].toFixed(4))).join()).join(' '),
      );
    // Face for face, each the same way round.
    const turns = (text: string) =>
      text
        .split(' ')
        .map((_, n, all) => [...all.slice(n), ...all.slice(0, n)].join(' '))
        .sort()[0];
    expect(faces(back).map(turns).sort()).toEqual(faces(model).map(turns).sort());
    const around = againstReference(back);
    expect([around.turned, around.worst < 0.01]).toEqual([0, true]);
  });

  test('tangents of a part are those that it has without its node, mirrored or not', async () => {
    const normalPng = encodePng({ width: 1, height: 1, channels: 3, bits: 8, data: Uint8Array.of(128, 128, 255) });
    const tangents = async (document: Document) => {
      const written = await writeGlb((await piece(document)).model, [{ normalPng }]);
      const [mesh] = (await io.readBinary(written as Uint8Array<ArrayBuffer>)).getRoot().listMeshes();
      const [primitive] = mesh.listPrimitives();
      const rounded = (semantic: string, v: number) => {
        const element: number[] = [];
        primitive.getAttribute(semantic)!.getElement(v, element);
        return element.map((x) => Number(x.toFixed(4)) + 0).join();
      };
      return [...primitive.getIndices()!.getArray()!].map((v) => `${rounded('POSITION', v)} ${rounded('TANGENT', v)}`);
    };
    expect([...new Set(await tangents(nested()))].sort()).toEqual([...new Set(await tangents(square(() => {})))].sort());
  });

  test('what was read once is read the same for ever: nothing creeps', async () => {
    const { model } = await piece(nested());
    const once = await readBack(await writeGlb(model));
    const twice = await readBack(await writeGlb(once));
    expect(Math.max(...once.positions.map((v, i) => Math.abs(v - twice.positions[i])))).toBeLessThan(2e-6);
    expect(twice.nodes).toEqual(once.nodes);
  });

  test('a node that flattens its part keeps its place, and the part stands beside it', async () => {
    const { model } = await piece(square((d) => void d.getRoot().listNodes()[0].setScale([1, 0, 1])));
    const back = await readBack(await writeGlb(model));
    expect(back.nodes!.map((n) => n.part >= 0).sort()).toEqual([false, true]);
    expect([...back.positions]).toEqual([...model.positions]);
  });
});
