/** Models that cannot be read, or not wholly, say the true reason; what only annotates hinders nobody. */
import { readModel } from '../mesh/readModel';

const triangle = Buffer.from(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer).toString('base64');
const gltf = (over: object = {}) => ({
  asset: { version: '2.0' },
  scenes: [{ nodes: [0] }],
  nodes: [{ mesh: 0 }],
  meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
  accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
  bufferViews: [{ buffer: 0, byteLength: 36 }],
  buffers: [{ byteLength: 36, uri: `data:application/octet-stream;base64,${triangle}` }],
  ...over,
});
const read = (json: object) => readModel(new Map([['a.gltf', new TextEncoder().encode(JSON.stringify(json))]]));
const readObj = (text: string) => readModel(new Map([['a.obj', new TextEncoder().encode(text)]]));

test.each([
  [gltf({ asset: { version: '1.0' }, meshes: { a: {} }, nodes: { n: {} } }), /^The file is glTF 1\.0, only version 2\.0 is read/],
  [gltf({ asset: {} }), /does not say which version of glTF/],
  [gltf({ asset: { version: '2.0', minVersion: '2.1' } }), /^The file needs a reader of glTF 2\.1/],
  [
    gltf({ extensionsUsed: ['VENDOR_holes'], extensionsRequired: ['VENDOR_holes'] }),
    /^The model needs the extension "VENDOR_holes", which is not read here: export it without that extension\.$/,
  ],
])('%#: the sentence names what it is', async (json, says) => {
  await expect(read(json)).rejects.toThrow(says);
});

test('extensions that only annotate are passed over, used or required, sound or not', async () => {
  for (const required of [false, true]) {
    const names = ['EXT_mesh_features', 'EXT_structural_metadata', 'KHR_xmp_json_ld'];
    const json = gltf({ extensionsUsed: names, ...(required && { extensionsRequired: names }) });
    expect((await read(json)).fileVertices).toBe(3);
  }
});

test('a node under several others comes in once, and that is said', async () => {
  const json = gltf({ nodes: [{ mesh: 0 }, { children: [0] }, { children: [0] }], scenes: [{ nodes: [1, 2] }] });
  const model = await read(json);
  expect(model.fileVertices).toBe(3);
  expect(model.notes).toContainEqual(expect.stringMatching(/^A node hangs on several others/));
});

test('normals of an OBJ that are not there are done without', async () => {
  const model = await readObj('v 0 0 0\nv 1 0 0\nv 0 1 0\nvn 1 0 0\nf 1//9 2//1 3//1\n');
  expect([...model.normals]).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1]);
  expect(model.notes).toContainEqual(expect.stringMatching(/^1 corner refers to normals that are not there/));
  await expect(readObj('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 7\n')).rejects.toThrow(/vertex 7 of 3/);
});

test('names of any file are made fit to be kept: no NUL, no halves of symbols, no endless ones', async () => {
  const long = 'x'.repeat(5000);
  const json = gltf({ nodes: [{ mesh: 0, name: `a\u0000b\ud83d ${long}` }], materials: [{ name: `m\u0000\udd25` }] });
  json.meshes = [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 } as never] }];
  const model = await read(json);
  expect(model.parts[0]).toHaveLength(1024);
  expect(model.parts[0].startsWith('ab\ufffd x')).toBe(true);
  expect(model.materials[0].name).toBe('m\ufffd');
});

describe('heads of PLY files', () => {
  const ply = (head: string[]) => {
    const lines = [
      'ply',
      'format ascii 1.0',
      ...head,
      'element vertex 3',
      'property float x',
      'property float y',
      'property float z',
    ];
    lines.push(
      'element face 1',
      'property list uchar int vertex_indices',
      'end_header',
      '0 0 0',
      '1 0 0',
      '0 1 0',
      '3 0 1 2',
      '',
    );
    return readModel(new Map([['a.ply', new TextEncoder().encode(lines.join('\n'))]]));
  };

  test('one that hides behind a long comment, or declares a thousand elements, is refused', async () => {
    await expect(ply([`comment ${'x'.repeat(70_000)}`, 'element ghost 4000000000'])).rejects.toThrow(/does not end within/);
    await expect(ply(Array.from({ length: 1500 }, (_, n) => `element e${n} 0`))).rejects.toThrow(/1502 kinds of elements/);
  });

  test('what the loader does not know stays off the console', async () => {
    const said = (['log', 'warn', 'error'] as const).map((kind) => jest.spyOn(console, kind).mockImplementation(() => undefined));
    try {
      expect((await ply(['obj_info made by hand', 'strange words here'])).fileVertices).toBe(3);
      for (const spy of said) expect(spy).not.toHaveBeenCalled();
    } finally {
      for (const spy of said) spy.mockRestore();
    }
  });
});
