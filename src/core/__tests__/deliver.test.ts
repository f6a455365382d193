import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { generateTangents } from 'mikktspace';
import { validateBytes } from 'gltf-validator';
import { decodePng } from '../codec/png';
import { dispatchSchema, type DispatchOptions } from '../deliver/options';
import { fileSafe } from '../text';
import { planDispatch } from '../deliver/plan';
import { renderDispatch } from '../deliver/dispatch';
import { packedPicture } from '../deliver/render';
import { renderGlb } from '../deliver/renderGlb';
import { renderMap } from '../deliver/render';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { cleanName } from '../document/names';
import { checkSide, createCanvasPiece, createModelPiece } from '../piece/create';
import { fitPicture } from '../tile/fit';
import { readModel } from '../mesh/readModel';
import { writeGlb } from '../mesh/writeGlb';
import { coveredTexels, islandTexels } from '../mesh/surfaceMap/queries';
import { PieceSurfaces } from '../strata/pieceSurfaces';
import { tilesFromPicture, TileStore } from '../tile/tiles';
import { srgbToLinear } from '../colour/transfer';
import { plainPicture } from '../mesh/model';
import { cubeModel } from '../testing/models';

const options = (over: Partial<DispatchOptions> = {}) => dispatchSchema.parse(over);
const settings = { divide: 1, bits: 8 as const, normalY: 'up' as const, margin: 4 };
let serial = 0;
const newId = () => `id${serial++}`;

function canvas() {
  const sheet = newSheet('s', 'Canvas', 128, 128, { wrapU: true, wrapV: true, heightSpan: 0.1 });
  sheet.layers = [
    newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.4, 0.6], roughness: [0.25], metallic: [1] }),
    newPaintedLayer('l', 'Hand'),
  ];
  const store = new TileStore();
  const height = Uint16Array.from({ length: 128 * 128 * 2 }, (_, i) =>
    i % 2 ? 65535 : 32768 + 6000 * Math.sin((2 * Math.PI * ((i >> 1) % 128)) / 64),
  );
  for (const [tile, data] of tilesFromPicture(height, 128, 128, 2)) store.set('l/height', tile, { data, hash: null });
  return { piece: newPiece('p', 'Quay "Setts"', 'canvas', [sheet]), store, model: null };
}

describe('the plan', () => {
  test('names come from the pattern and are safe everywhere', () => {
    const plan = planDispatch(
      canvas().piece,
      options({ maps: ['normal'], divide: 2, pattern: '{piece}-{map}_{width}x{height}' }),
    );
    expect(plan.ok && plan.files.map((f) => f.name)).toEqual(['quay-setts-normal_64x64.png']);
    expect(fileSafe('Été / ../x')).toBe('ete-x');
    expect(fileSafe('***')).toBe('untitled');
  });

  test.each([
    ['an unknown field', { pattern: '{piece}_{author}' }, /\{author\}/],
    ['slashes', { pattern: 'a/{map}' }, /slashes/],
    ['names that meet', { pattern: '{piece}' }, /Two files/],
    ['no map', { maps: [] }, /No map/],
  ])('%s is said before anything is rendered', (_what, over, says) => {
    const plan = planDispatch(canvas().piece, options(over as Partial<DispatchOptions>));
    expect(!plan.ok && plan.message).toMatch(says);
  });
});

describe('rendering', () => {
  test('coats come out as their exact codes, at 8 and at 16 bit', () => {
    const c = canvas();
    const sheet = c.piece.sheets[0];
    expect([...renderMap(c, sheet, 'base-colour', settings).data.slice(0, 3)]).toEqual([51, 102, 153]);
    expect(renderMap(c, sheet, 'roughness', { ...settings, bits: 16 }).data[0]).toBe(16384);
    expect([...packedPicture(c, sheet, settings).data.slice(0, 3)]).toEqual([255, 64, 255]);
  });

  test('turning Y down mirrors green and nothing else', () => {
    const c = canvas();
    const up = renderMap(c, c.piece.sheets[0], 'normal', { ...settings, bits: 16 });
    const down = renderMap(c, c.piece.sheets[0], 'normal', { ...settings, bits: 16, normalY: 'down' });
    for (let i = 0; i < up.data.length; i += 3) {
      expect(down.data[i]).toBe(up.data[i]);
      expect(Math.abs(down.data[i + 1] - (65535 - up.data[i + 1]))).toBeLessThanOrEqual(1);
    }
    expect(new Set(up.data.filter((_, i) => i % 3 === 0)).size).toBeGreaterThan(20);
  });

  test('shrinking colour averages light: a checker of black and white becomes middle light', () => {
    const c = canvas();
    const sheet = c.piece.sheets[0];
    const pixels = Uint16Array.from({ length: 128 * 128 * 4 }, (_, i) =>
      i % 4 === 3 ? 65535 : (((i >> 2) % 128) + (i >> 9)) % 2 ? 65535 : 0,
    );
    for (const [tile, data] of tilesFromPicture(pixels, 128, 128, 4)) c.store.set('l/base-colour', tile, { data, hash: null });
    const half = renderMap(c, sheet, 'base-colour', { ...settings, divide: 8 });
    expect([half.width, half.height]).toEqual([16, 16]);
    for (const v of half.data) expect(srgbToLinear(v / 255)).toBeCloseTo(0.5, 1);
  });

  test('margins carry the island outward, so that nothing else mixes in when shrinking', async () => {
    const { piece, store } = await createModelPiece(cubeModel(), { name: 'Cube', newId, uvSet: 0, size: 128, modelBlob: '' });
    const sheet = piece.sheets[0];
    const layer = sheet.layers.at(-1)!;
    const pixels = new Uint16Array(128 * 128 * 2);
    // Island 0 and its gutter, exactly.
    const context = { piece, store, model: cubeModel() };
    for (let y = 0; y < 42; y++) for (let x = 0; x < 41; x++) pixels.set([65535, 65535], (y * 128 + x) * 2);
    for (const [tile, data] of tilesFromPicture(pixels, 128, 128, 2))
      store.set(`${layer.id}/metallic`, tile, { data, hash: null });
    const wide = renderMap(context, sheet, 'metallic', { ...settings, margin: 16 });
    const none = renderMap(context, sheet, 'metallic', { ...settings, margin: 0 });
    expect(wide.data[50 * 128 + 20]).toBe(255);
    expect(none.data[50 * 128 + 20]).toBe(0);
  });

  describe('around the islands', () => {
    /** A cube of which one map is painted evenly, all over, gutters too. */
    const painted = async (map: 'metallic' | 'height', value: number, size = 256) => {
      const model = cubeModel();
      const { piece, store } = await createModelPiece(model, { name: 'Cube', newId, uvSet: 0, size, modelBlob: '' });
      const sheet = { ...piece.sheets[0], heightSpan: 0.2 };
      const surface = new PieceSurfaces(model, 0).forSheet(sheet)!.map;
      const covered = coveredTexels(surface);
      const pixels = new Uint16Array(size * size * 2);
      covered.forEach((c, i) => c && pixels.set([value * 65535, 65535], i * 2));
      for (const [tile, data] of tilesFromPicture(pixels, size, size, 2))
        store.set(`${sheet.layers.at(-1)!.id}/${map}`, tile, { data, hash: null });
      return { context: { piece: { ...piece, sheets: [sheet] }, store, model }, sheet, surface };
    };

    test.each([
      [0, 1],
      [3, 1],
      [16, 1],
      [24, 1],
      [0, 4],
      [5, 4],
      [2, 8],
    ])(
      'a margin of %i at 1/%i is that wide, measured from the island, and holds the island’s own value',
      async (margin, divide) => {
        const { context, sheet, surface } = await painted('metallic', 1, divide === 1 ? 64 : 256);
        const { data, width } = renderMap(context, sheet, 'metallic', { ...settings, margin, divide });
        const island = islandTexels(surface, width, width);
        const inside: number[] = [];
        island.forEach((v, i) => v && inside.push(i));
        for (let i = 0; i < data.length; i++) {
          const [x, y] = [i % width, Math.floor(i / width)];
          const distance = Math.sqrt(Math.min(...inside.map((k) => ((k % width) - x) ** 2 + (Math.floor(k / width) - y) ** 2)));
          // The transform that finds the nearest is a texel off at most.
          if (distance <= margin) expect(data[i]).toBe(255);
          else if (distance > margin + 1) expect(data[i]).toBe(0);
        }
        expect(inside.length).toBeGreaterThan(100);
      },
    );

    test.each([1, 4, 8])('an island that is raised evenly is flat at 1/%i, margin and all', async (divide) => {
      const { context, sheet } = await painted('height', 0.8);
      const { data } = renderMap(context, sheet, 'normal', { ...settings, margin: 8, divide, bits: 16 });
      let worst = 0;
      for (let i = 0; i < data.length; i += 3) {
        const [x, y, z] = [0, 1, 2].map((c) => (data[i + c] / 65535) * 2 - 1);
        worst = Math.max(worst, (Math.atan2(Math.hypot(x, y), z) * 180) / Math.PI);
      }
      expect(worst).toBeLessThan(0.01);
    });
  });

  test('at the border of a canvas that does not wrap a slope is as steep as inside', () => {
    for (const normalKernel of [3, 5, 9] as const) {
      const c = canvas();
      const sheet = { ...c.piece.sheets[0], wrapU: false, wrapV: false, normalKernel };
      const pixels = Uint16Array.from({ length: 128 * 128 * 2 }, (_, i) =>
        i % 2 ? 65535 : 10000 + ((i >> 1) % 128) * 200 + Math.floor(i / 256) * 120,
      );
      for (const [tile, data] of tilesFromPicture(pixels, 128, 128, 2)) c.store.set('l/height', tile, { data, hash: null });
      const { data } = renderMap({ ...c, piece: { ...c.piece, sheets: [sheet] } }, sheet, 'normal', { ...settings, bits: 16 });
      const middle = [0, 1, 2].map((k) => data[(64 * 128 + 64) * 3 + k]);
      expect(Math.abs(middle[0] - 32768)).toBeGreaterThan(1000);
      for (let i = 0; i < data.length; i++) expect(Math.abs(data[i] - middle[i % 3])).toBeLessThanOrEqual(30);
    }
  });

  test('a GLB with textures has neither error nor warning in the validator, for a model and for a canvas', async () => {
    const model = await createModelPiece(cubeModel(), { name: 'Cube', newId, uvSet: 0, size: 64, modelBlob: '' });
    for (const context of [canvas(), { ...model, model: cubeModel() }]) {
      const glb = await renderGlb(context, options());
      const report = await validateBytes(glb);
      expect(report.issues.numErrors).toBe(0);
      const warnings = new Set(report.issues.messages.filter((m) => m.severity < 2).map((m) => m.code));
      expect([...warnings]).toEqual([]);
      expect(report.info.resources.filter((r: { image?: object }) => r.image).length).toBe(3);
      const back = await readModel(new Map([['x.glb', glb]]));
      expect(decodePng(back.materials[0].baseColourPicture!.bytes).bits).toBe(8);
    }
  });

  test('a GLB carries what shines and what is cut out; parts without UVs go without pictures', async () => {
    const cube = cubeModel();
    const bare = { ...cube, parts: ['Cube', 'Bare'], facePart: cube.facePart.slice(), uvs: [cube.uvs[0].slice()] };
    // The last two triangles lose their UVs.
    for (const f of [10, 11]) {
      bare.facePart[f] = 1;
      for (let k = 0; k < 3; k++) bare.uvs[0].fill(NaN, bare.indices[f * 3 + k] * 2, bare.indices[f * 3 + k] * 2 + 2);
    }
    const { piece, store } = await createModelPiece(cube, { name: 'Cube', newId, uvSet: 0, size: 64, modelBlob: '' });
    const json = async (opacity: number) => {
      const sheet = structuredClone(piece.sheets[0]);
      sheet.maps = [...sheet.maps, 'emissive', 'opacity'];
      sheet.layers.push(newCoatLayer('glow', 'Glow', { emissive: [0.2, 0.4, 0.6], opacity: [opacity] }));
      const glb = await renderGlb({ piece: { ...piece, sheets: [sheet] }, store, model: bare }, options());
      expect((await validateBytes(glb)).issues.numErrors).toBe(0);
      return (await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(glb as Uint8Array<ArrayBuffer>)).getRoot();
    };
    const cut = await json(0);
    const [body, rest] = cut.listMeshes().map((m) => m.listPrimitives()[0]);
    const material = body.getMaterial()!;
    expect([material.getAlphaMode(), material.getEmissiveFactor()]).toEqual(['MASK', [1, 1, 1]]);
    expect([...decodePng(material.getEmissiveTexture()!.getImage()!).data.slice(0, 3)]).toEqual([51, 102, 153]);
    const colour = decodePng(material.getBaseColorTexture()!.getImage()!);
    expect([colour.channels, Math.min(...colour.data.filter((_, i) => i % 4 === 3))]).toEqual([4, 0]);
    expect(body.getAttribute('TANGENT')!.getCount()).toBe(body.getAttribute('POSITION')!.getCount());
    expect([rest.getAttribute('TEXCOORD_0'), rest.getAttribute('TANGENT'), rest.getMaterial()!.getBaseColorTexture()]).toEqual([
      null,
      null,
      null,
    ]);
    expect((await json(0.5)).listMaterials()[0].getAlphaMode()).toBe('BLEND');
    const solid = (await json(1)).listMaterials()[0];
    expect([solid.getAlphaMode(), decodePng(solid.getBaseColorTexture()!.getImage()!).channels]).toEqual(['OPAQUE', 3]);
  });

  test('tangents in a GLB are those of MikkTSpace, corner by corner', async () => {
    const cube = cubeModel();
    const { piece, store } = await createModelPiece(cube, { name: 'Cube', newId, uvSet: 0, size: 64, modelBlob: '' });
    const glb = await renderGlb({ piece, store, model: cube }, options());
    const [mesh] = (await new WebIO().readBinary(glb as Uint8Array<ArrayBuffer>)).getRoot().listMeshes();
    const [primitive] = mesh.listPrimitives();
    const wanted = generateTangents(
      ...([cube.positions, cube.normals, cube.uvs[0]].map((all, n) => {
        const size = n < 2 ? 3 : 2;
        return Float32Array.from(
          { length: cube.indices.length * size },
          (_, i) => all[cube.indices[Math.floor(i / size)] * size + (i % size)],
        );
      }) as [Float32Array, Float32Array, Float32Array]),
    );
    const one: number[] = [];
    [...primitive.getIndices()!.getArray()!].forEach((v, corner) => {
      primitive.getAttribute('TANGENT')!.getElement(v, one);
      for (let k = 0; k < 3; k++) expect(one[k]).toBeCloseTo(wanted[corner * 4 + k], 4);
      // The package's V points up.
      expect(one[3]).toBe(-wanted[corner * 4 + 3]);
    });
  });

  test('how strongly a model shines comes back from its file', async () => {
    const cube = cubeModel();
    cube.materials[0] = { ...cube.materials[0], emissiveLinear: [0.5, 0.25, 1], emissiveStrength: 6 };
    const { materials } = await readModel(new Map([['x.glb', await writeGlb(cube)]]));
    expect(materials[0]).toMatchObject({ emissiveLinear: [0.5, 0.25, 1], emissiveStrength: 6 });
  });

  test('a dispatch yields every planned file, in order, with progress', async () => {
    const c = canvas();
    const seen: string[] = [];
    const names: string[] = [];
    for await (const [name, bytes] of renderDispatch(
      c,
      options({ maps: ['height', 'normal', 'glb'], divide: 4 }),
      (done, total, what) => seen.push(`${done}/${total} ${what}`),
    )) {
      names.push(name);
      expect(bytes.length).toBeGreaterThan(50);
    }
    expect(names).toEqual(['quay-setts_canvas_height.png', 'quay-setts_canvas_normal.png', 'quay-setts.glb']);
    expect(seen[2]).toBe('2/3 quay-setts.glb');
  });
});

test('maps of colour go out marked as sRGB, all others as data', async () => {
  const c = canvas();
  c.piece.sheets[0].maps.push('emissive');
  const marked: Record<string, boolean> = {};
  for await (const [name, png] of renderDispatch(
    c,
    options({ maps: ['base-colour', 'emissive', 'roughness', 'normal', 'orm'], pattern: '{map}' }),
  ))
    marked[name] = Buffer.from(png.subarray(37, 41)).toString('latin1') === 'sRGB';
  expect(marked).toEqual({
    'base-colour.png': true,
    'emissive.png': true,
    'roughness.png': false,
    'normal.png': false,
    'orm.png': false,
  });
});

describe('new pieces', () => {
  test.each([0, 15, 100_000, 12.5, NaN])('a canvas side of %p is refused in a sentence', (side) => {
    expect(() => checkSide(side, 'width')).toThrow(/from 16 to 8192/);
    expect(() => createCanvasPiece({ name: 'x', newId, width: side, height: 64, wrapU: true, wrapV: true })).toThrow(/width/);
  });

  test('names with slashes are refused for pieces and mended for materials', () => {
    expect(() => createCanvasPiece({ name: 'a/b', newId, width: 64, height: 64, wrapU: true, wrapV: true })).toThrow(/slashes/);
    expect(cleanName('Body/Main\\x')).toBe('Body-Main-x');
    expect(cleanName('//')).toBe('-');
  });

  test('textures of the model become a first painted layer, fitted to the sheet', async () => {
    const model = cubeModel();
    Object.assign(model.materials[0], { baseColourLinear: [1, 1, 1, 1], roughness: 1, metallic: 1 });
    model.materials[0].baseColourPicture = plainPicture('image/png', new Uint8Array(1));
    model.materials[0].metallicRoughnessPicture = plainPicture('image/png', new Uint8Array(2));
    const decodePicture = async ({ bytes }: { bytes: Uint8Array }) => ({
      width: 2,
      height: 2,
      channels: 3 as const,
      bits: 8 as const,
      data: new Uint8Array(12).fill(bytes.length === 1 ? 200 : 100),
    });
    const { piece, store } = await createModelPiece(model, {
      name: 'Cube',
      newId,
      uvSet: 0,
      size: 64,
      modelBlob: '',
      decodePicture,
    });
    const layer = piece.sheets[0].layers[1];
    expect([layer.name, layer.cells.height?.on, layer.cells.roughness?.on]).toEqual(['From the model', false, true]);
    expect(store.data(`${layer.id}/base-colour`, 0)![0]).toBeCloseTo(200 * 257, -2);
    expect(store.data(`${layer.id}/metallic`, 0)![0]).toBeCloseTo(100 * 257, -2);
  });

  test('fitting a picture with alpha does not darken its edge', () => {
    const data = Uint8Array.of(255, 255, 255, 255, 0, 0, 0, 0);
    const out = fitPicture({ width: 2, height: 1, channels: 4, bits: 8, data }, 8, 16, 4, 'colour');
    for (let i = 0; i < out.length; i += 4) if (out[i + 3] > 600) expect(out[i]).toBeGreaterThan(65000);
  });
});
