/** Every reader, with files spoilt by fixed seeds: a result, or a sentence of ours. FUZZ=10000 runs the whole of it. */
import { Document, WebIO } from '@gltf-transform/core';
import { decodePng, encodePng, PictureError } from '../codec/png';
import { ArchiveError, readZip, writeZip } from '../codec/zip';
import { newCoatLayer, newGroup, newMask, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { parsePiece } from '../document/schema';
import { SHIPPED } from '../hand/rack/shipped';
import { readBrushFile, writeBrushFile } from '../hand/rack/file';
import { ModelError, type Model } from '../mesh/model';
import { readModel } from '../mesh/readModel';
import { writeGlb } from '../mesh/writeGlb';
import { PieceFileError, readPieceFile, writePieceFile } from '../piece/pieceFile';
import { boxModel, cubeModel, quadModel, seededRandom } from '../testing/models';
import { fuzz as tried, isSentence, mendedPng, spoilt, spoiltJson } from '../testing/fuzz';
import { TileStore, tilesFromPicture } from '../tile/tiles';

jest.setTimeout(3_600_000);

/** Only the full run looks at the clock. */
const clock = process.env.FUZZ ? () => performance.now() : null;
const fuzz = (...[files, spoil, read, ours]: Parameters<typeof tried>) => tried(files, spoil, read, ours, { clock });

const text = (s: string) => new TextEncoder().encode(s);
const models: Model[] = [
  cubeModel(),
  boxModel(1, 2, 3),
  { ...cubeModel(), uvs: [] },
  { ...cubeModel(), uvs: [cubeModel().uvs[0], cubeModel().uvs[0]] },
  quadModel([
    {
      corners: [
        [0, 0, 0],
        [1, 0, 0],
        [1, 1, 0],
        [0, 1, 0],
      ],
      uv: [0, 0, 1, 1],
    },
  ]),
];
const png = (channels: 1 | 2 | 3 | 4, bits: 8 | 16, side = 9) => {
  const random = seededRandom(channels * bits);
  const length = side * side * channels;
  return encodePng({
    width: side,
    height: side,
    channels,
    bits,
    data: bits === 8 ? Uint8Array.from({ length }, () => random() * 256) : Uint16Array.from({ length }, () => random() * 65536),
  });
};
const nothingWrong = (found: { read: number; refused: number; faults: string[] }) => {
  expect(found.faults).toEqual([]);
  expect(found.refused).toBeGreaterThan(0);
};

beforeAll(() => {
  // three's readers speak to the console of what they do not know.
  for (const way of ['log', 'warn', 'error'] as const) jest.spyOn(console, way).mockImplementation(() => {});
});
afterAll(() => jest.restoreAllMocks());

async function glbs(): Promise<Uint8Array[]> {
  const document = new Document();
  const buffer = document.createBuffer();
  const joint = document.createNode('Joint').setTranslation([0, 1, 0]);
  const skin = document.createSkin().addJoint(joint);
  const accessor = (type: 'VEC3' | 'VEC4' | 'SCALAR', array: Float32Array | Uint16Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setMode(5)
    .setAttribute('POSITION', accessor('VEC3', Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0)))
    .setAttribute('JOINTS_0', accessor('VEC4', new Uint16Array(16)))
    .setAttribute(
      'WEIGHTS_0',
      accessor(
        'VEC4',
        Float32Array.from({ length: 16 }, (_, i) => Number(i % 4 === 0)),
      ),
    )
    .setMaterial(
      document.createMaterial('M').setBaseColorTexture(
        document
          .createTexture()
          .setMimeType('image/png')
          .setImage(png(3, 8) as Uint8Array<ArrayBuffer>),
      ),
    );
  const node = document.createNode('Skinned').setMesh(document.createMesh().addPrimitive(primitive)).setSkin(skin);
  document.createScene().addChild(node).addChild(joint);
  const written = await Promise.all(models.map((m) => writeGlb(m)));
  const pictured = await writeGlb(models[0], [{ baseColourPng: png(3, 8), normalPng: png(3, 8) }]);
  return [...written, pictured, await new WebIO().writeBinary(document)];
}

test('GLB', async () => {
  const read = (bytes: Uint8Array) => readModel(new Map([['a.glb', bytes]]));
  nothingWrong(await fuzz(await glbs(), spoilt, read, [ModelError]));
});

test('glTF with its data inside', async () => {
  const files = await Promise.all(
    (await glbs()).map(async (glb) => {
      const { json, resources } = await new WebIO().binaryToJSON(glb as Uint8Array<ArrayBuffer>);
      const [uri, bytes] = Object.entries(resources)[0] ?? ['', new Uint8Array(0)];
      json.buffers![0].uri = `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}`;
      void uri;
      return text(JSON.stringify(json));
    }),
  );
  const read = (bytes: Uint8Array) => readModel(new Map([['a.gltf', bytes]]));
  nothingWrong(await fuzz(files, spoilt, read, [ModelError]));
  const inside = (file: Uint8Array, random: () => number) =>
    text(JSON.stringify(spoiltJson(JSON.parse(new TextDecoder().decode(file)), random)));
  nothingWrong(await fuzz(files, inside, read, [ModelError]));
});

const OBJ = `mtllib a.mtl b.mtl\n# a box\no Box\nv 0 0 0\nv 1 0 0 0.5 0.5 0.5\nv 1 1 0\nv 0 1 0\nv 0.5 0.5 1e0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\nusemtl Red\nf 1/1/1 2/2/1 3/3/1 4/4/1\ng Roof # top\ns 1\nf -1//1 -2//1 \\\n -3//1\nl 1 2 3\np 1\nusemtl Blue\nf 1 2 5\nf 2 3 5 4 1\n`;
const MTL = `newmtl Red\nKd 1 0 0\nd 0.5\nmap_Kd -s 1 1 1 -o 0 0 0 my red.png\nKe 0 0 1\nPr 0.4\nPm 1\nnewmtl Blue\nTr 0.2\nmap_Ke glow.png\nnorm n.png\n`;
test('OBJ, and its MTL', async () => {
  const obj = [OBJ, OBJ.replaceAll('\n', '\r\n'), OBJ.replaceAll('\n', '\r'), 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'].map(text);
  nothingWrong(
    await fuzz(
      obj,
      spoilt,
      (bytes) =>
        readModel(
          new Map([
            ['a.obj', bytes],
            ['a.mtl', text(MTL)],
          ]),
        ),
      [ModelError],
    ),
  );
  const found = await fuzz(
    [text(MTL)],
    spoilt,
    (bytes) =>
      readModel(
        new Map([
          ['a.obj', text(OBJ)],
          ['a.mtl', bytes],
        ]),
      ),
    [ModelError],
  );
  expect(found.faults).toEqual([]);
});

test('PLY and STL', async () => {
  const ply = `ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 2\nproperty list uchar int vertex_indices\nend_header\n0 0 0 255 0 0\n1 0 0 0 255 0\n1 1 0 0 0 255\n0 1 0 9 9 9\n3 0 1 2\n3 0 2 3\n`;
  nothingWrong(await fuzz([text(ply)], spoilt, (bytes) => readModel(new Map([['a.ply', bytes]])), [ModelError]));
  const stl = `solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid a\n`;
  const binary = new Uint8Array(84 + 100);
  new DataView(binary.buffer).setUint32(80, 2, true);
  for (let i = 0; i < 24; i++) new DataView(binary.buffer).setFloat32(84 + (i % 12) * 4 + (i >= 12 ? 50 : 0), (i * 7) % 5, true);
  nothingWrong(await fuzz([text(stl), binary], spoilt, (bytes) => readModel(new Map([['a.stl', bytes]])), [ModelError]));
});

test('PNG, its sums made right again', async () => {
  const files = ([1, 2, 3, 4] as const).flatMap((c) => [png(c, 8), png(c, 16)]);
  const read = (bytes: Uint8Array) => {
    const p = decodePng(bytes);
    if (p.data.length !== p.width * p.height * p.channels) throw new Error('wrong length');
  };
  nothingWrong(await fuzz(files, spoilt, read, [PictureError]));
  nothingWrong(await fuzz(files, (file, random) => mendedPng(spoilt(file, random)), read, [PictureError]));
});

function piece() {
  const sheet = newSheet('s', 'Canvas', 40, 30);
  const group = newGroup('g', 'Group');
  sheet.masks = [newMask('m', 'Mask', 1)];
  sheet.pictures = [{ id: 'q', name: 'Q', width: 9, height: 9, encoding: 'srgb' }];
  sheet.layers = [
    newCoatLayer('c', 'Ground', { roughness: [0.4] }),
    { ...newPaintedLayer('l', 'Hand'), parent: 'g', mask: { id: 'm', on: true } },
    group,
  ];
  const store = new TileStore();
  const pixels = Uint16Array.from({ length: 40 * 30 * 4 }, (_, i) => i * 31);
  for (const [tile, data] of tilesFromPicture(pixels, 40, 30, 4)) store.set('l/base-colour', tile, { data, hash: null });
  return { piece: newPiece('p', 'P', 'canvas', [sheet]), store, modelGlb: null, thumbnailPng: png(3, 8) };
}

test('zips, piece files, and the documents in them', async () => {
  const file = writePieceFile(piece());
  const zips = [
    file,
    writeZip([['a.txt', text('hello')]]),
    writeZip([
      ['deep/a.txt', text('x'.repeat(5000))],
      ['b', new Uint8Array(0)],
    ]),
  ];
  nothingWrong(await fuzz(zips, spoilt, (bytes) => readZip(bytes, 'The file'), [ArchiveError]));
  nothingWrong(await fuzz([file], spoilt, (bytes) => readPieceFile(bytes), [PieceFileError]));
  const entries = [...readZip(file, 'It')];
  const within = (_: Uint8Array, random: () => number) => {
    const n = Math.floor(random() * entries.length);
    return writeZip(
      entries.map(([name, bytes], i): [string, Uint8Array] => {
        if (i !== n) return [name, bytes];
        if (name.endsWith('.json'))
          return [name, text(JSON.stringify(spoiltJson(JSON.parse(new TextDecoder().decode(bytes)), random)))];
        return [name, mendedPng(spoilt(bytes, random))];
      }),
    );
  };
  nothingWrong(await fuzz([file, file, file], within, (bytes) => readPieceFile(bytes), [PieceFileError]));
});

test('documents of every version', async () => {
  const { piece: document } = piece();
  class Refused extends Error {}
  const read = (bytes: Uint8Array) => {
    const found = parsePiece(JSON.parse(new TextDecoder().decode(bytes)));
    if (!found.ok) throw new Refused(found.message);
  };
  const files = [1, 2, 3, 4, 5].map((version) => text(JSON.stringify({ ...document, version })));
  const inside = (file: Uint8Array, random: () => number) =>
    text(JSON.stringify(spoiltJson(JSON.parse(new TextDecoder().decode(file)), random)));
  nothingWrong(await fuzz(files, inside, read, [Refused]));
});

test('files of brushes', async () => {
  const brushes = SHIPPED.slice(0, 3);
  class Refused extends Error {}
  const read = (bytes: Uint8Array) => {
    const found = readBrushFile(bytes, 'The file');
    if (!found.ok) throw new Refused(found.message);
  };
  const json = { format: 'brindle-brushes', version: 1, brushes };
  const file = writeBrushFile({ brushes, tips: new Map() } as never);
  nothingWrong(await fuzz([file], spoilt, read, [Refused]));
  const inside = (_: Uint8Array, random: () => number) =>
    writeZip([['brushes.json', text(JSON.stringify(spoiltJson(json, random)))]]);
  nothingWrong(await fuzz([file, file], inside, read, [Refused]));
});

test('what a sentence is', () => {
  expect(isSentence('The file is cut short: copy it again.')).toBe(true);
  expect(isSentence("Cannot read properties of null (reading 'x').")).toBe(false);
  expect(isSentence('no full stop')).toBe(false);
});
