/** A sheet lies on its own material, from a foreign file to what is delivered, in whatever order the materials are used. */
import { Document, WebIO } from '@gltf-transform/core';
import { decodePng } from '../codec/png';
import { dispatchSchema } from '../deliver/options';
import { renderGlb } from '../deliver/renderGlb';
import { settleMaterials as settle, sheetNames } from '../document/settleMaterials';
import type { Piece } from '../document/schema';
import type { Model } from '../mesh/model';
import { plainMaterial } from '../mesh/modelBuilder';
import { readModel } from '../mesh/readModel';
import { writeGlb } from '../mesh/writeGlb';
import { createModelPiece } from '../piece/create';
import { readPieceFile, writePieceFile } from '../piece/pieceFile';

let serial = 0;
const newId = () => `id${serial++}`;

/** The material with number k is grey of code 20 + 10 k in sRGB, and its triangles lie about x = 10 k. */
const codeOf = (k: number) => 20 + 10 * k;
/** IEC 61966-2-1. */
const linear = (code: number) => (code / 255 <= 0.04045 ? code / 255 / 12.92 : ((code / 255 + 0.055) / 1.055) ** 2.4);

/** How a file uses its materials: a row is a mesh, and each number in it a primitive with that material. */
type Use = number[][];

const corner = (k: number) => [10 * k, 0, 0, 10 * k + 1, 0, 0, 10 * k, 1, 0];
const UVS = [0.1, 0.1, 0.9, 0.1, 0.1, 0.9];

/** A GLB as another program may write it: `names` are its materials, in the file's order, used or not. */
async function foreignGlb(names: readonly string[], use: Use): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const materials = names.map((name, k) =>
    document
      .createMaterial(name)
      .setBaseColorFactor([linear(codeOf(k)), linear(codeOf(k)), linear(codeOf(k)), 1])
      .setMetallicFactor(0),
  );
  const scene = document.createScene();
  use.forEach((row, n) => {
    const mesh = document.createMesh(`Mesh ${n}`);
    for (const k of row) {
      const accessor = (type: 'VEC2' | 'VEC3', array: number[]) =>
        document.createAccessor().setType(type).setArray(Float32Array.from(array)).setBuffer(buffer);
      mesh.addPrimitive(
        document
          .createPrimitive()
          .setMaterial(materials[k])
          .setAttribute('POSITION', accessor('VEC3', corner(k)))
          .setAttribute('NORMAL', accessor('VEC3', [0, 0, 1, 0, 0, 1, 0, 0, 1]))
          .setAttribute('TEXCOORD_0', accessor('VEC2', UVS)),
      );
    }
    scene.addChild(document.createNode(`Node ${n}`).setMesh(mesh));
  });
  return new WebIO().writeBinary(document);
}

function foreignObj(names: readonly string[], use: Use): Map<string, Uint8Array> {
  const lines = ['mtllib m.mtl', 'vt 0.1 0.9', 'vt 0.9 0.9', 'vt 0.1 0.1', 'vn 0 0 1'];
  let v = 0;
  use.forEach((row, n) => {
    lines.push(`o Mesh ${n}`);
    for (const k of row) {
      const at = corner(k);
      for (let i = 0; i < 9; i += 3) lines.push(`v ${at.slice(i, i + 3).join(' ')}`);
      lines.push(`usemtl ${names[k]}`, `f ${[1, 2, 3].map((i) => `${v + i}/${i}/1`).join(' ')}`);
      v += 3;
    }
  });
  const mtl = names.flatMap((name, k) => [`newmtl ${name}`, `Kd ${[1, 1, 1].map(() => codeOf(k) / 255).join(' ')}`]);
  const bytes = (text: string[]) => new TextEncoder().encode(`${text.join('\n')}\n`);
  return new Map([
    ['m.obj', bytes(lines)],
    ['m.mtl', bytes(mtl)],
  ]);
}

/** Which sheet lies on the triangles about x = 10 k, and with which grey. */
function seen(piece: Piece, model: Model): Map<number, { name: string; code: number }> {
  const out = new Map<number, { name: string; code: number }>();
  for (let f = 0; f < model.faceMaterial.length; f++) {
    const k = Math.floor(model.positions[model.indices[f * 3] * 3] / 10 + 0.2);
    const sheet = piece.sheets.find((s) => s.materialIndex === model.faceMaterial[f])!;
    out.set(k, { name: sheet.name, code: Math.round(sheet.layers[0].cells['base-colour']!.value![0] * 255) });
  }
  return out;
}

async function delivered(piece: Piece, bundle: { store: Parameters<typeof renderGlb>[0]['store']; model: Model }) {
  const glb = await renderGlb({ piece, ...bundle }, dispatchSchema.parse({}));
  const root = (await new WebIO().readBinary(glb as Uint8Array<ArrayBuffer>)).getRoot();
  const out = new Map<number, { name: string; code: number }>();
  for (const mesh of root.listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const x = primitive.getAttribute('POSITION')!.getElement(0, [])[0];
      const material = primitive.getMaterial()!;
      const { data, width, channels } = decodePng(material.getBaseColorTexture()!.getImage()!);
      // The middle of the triangle's texels.
      const at = Math.floor(width * 0.35) * (width + 1) * channels;
      out.set(Math.floor(x / 10 + 0.2), { name: material.getName(), code: data[at] });
    }
  return out;
}

const NAMES = ['Opaque', 'Moved', 'Rope', 'Brass', 'Enamel', 'Cork'];

/** All orders of 0 … n − 1. */
function orders(n: number): number[][] {
  if (n === 0) return [[]];
  return orders(n - 1).flatMap((rest) => Array.from({ length: n }, (_, at) => rest.toSpliced(at, 0, n - 1)));
}

/** One mesh a material; and two meshes, the first with the materials of even places, so that use and file differ. */
const uses = (order: number[]): Use[] => [
  order.map((k) => [k]),
  [order.filter((_, n) => n % 2 === 0), order.filter((_, n) => n % 2 === 1)].filter((row) => row.length),
];

async function check(files: Map<string, Uint8Array>, used: readonly number[], deliver: boolean): Promise<void> {
  const model = await readModel(files);
  const expected = new Map(used.map((k) => [k, { name: NAMES[k], code: codeOf(k) }]));
  const glb = await writeGlb(model);
  const { piece, store } = await createModelPiece(model, { name: 'P', newId, uvSet: 0, size: 16, modelBlob: '' });
  expect(seen(piece, model)).toEqual(expected);
  const file = writePieceFile({ piece, store, modelGlb: glb, thumbnailPng: null });
  const back = readPieceFile(file);
  const stored = await readModel(new Map([['model.glb', back.modelGlb!]]));
  expect(stored.materials.map((m) => m.name)).toEqual(model.materials.map((m) => m.name));
  expect(seen(back.piece, stored)).toEqual(expected);
  for (const sheet of back.piece.sheets) expect(stored.materials[sheet.materialIndex!].name).toBe(sheet.materialName);
  if (!deliver) return;
  const named = { ...back.piece, sheets: back.piece.sheets.map((s) => ({ ...s, name: `Sheet ${s.id}` })) };
  expect(await delivered(named, { store: back.store, model: stored })).toEqual(expected);
}

test.each([2, 3, 4, 5, 6])('every order in which %i materials of a GLB are used', async (n) => {
  for (const [at, order] of orders(n).entries()) {
    // Of 120 orders every third, of 720 every seventeenth; of all every twelfth is delivered, which takes the longest.
    if ((n === 5 && at % 3) || (n === 6 && at % 17)) continue;
    for (const use of uses(order))
      await check(new Map([['m.glb', await foreignGlb(NAMES.slice(0, n), use)]]), order, at % 12 === 0);
  }
});

test('materials that nothing uses change nothing', async () => {
  for (let left = 0; left < 4; left++)
    for (const order of orders(4).filter((_, n) => n % 3 === 0)) {
      const used = order.filter((k) => k !== left);
      await check(new Map([['m.glb', await foreignGlb(NAMES, uses(used)[1])]]), used, order[0] === 1);
    }
});

test('the same model as OBJ, and that as GLB', async () => {
  for (const order of orders(4)) {
    const files = foreignObj(NAMES.slice(0, 4), uses(order)[1]);
    await check(files, order, order[0] === 2);
    const glb = await writeGlb(await readModel(files));
    await check(new Map([['m.glb', glb]]), order, false);
  }
});

describe('documents that do not name the materials of their sheets', () => {
  const settleMaterials = (piece: Piece, names: readonly string[], options = {}) =>
    settle(piece, { materials: names.map(plainMaterial) }, options);
  /** A piece as earlier versions made it: sheets numbered by `materials`, the model stored in the order `stored`. */
  async function old(materials: string[], rename: Record<string, string> = {}) {
    const model = await readModel(new Map([['m.glb', await foreignGlb(materials, [materials.map((_, k) => k)])]]));
    const { piece } = await createModelPiece(model, { name: 'P', newId, uvSet: 0, size: 16, modelBlob: '' });
    const sheets = piece.sheets.map((s) => ({ ...s, materialName: null, name: rename[s.name] ?? s.name }));
    return { ...piece, sheets };
  }
  const lies = (piece: Piece) => Object.fromEntries(piece.sheets.map((s) => [s.name, s.materialIndex]));

  test('each sheet goes to the material of its name, and the piece says so', async () => {
    for (const order of orders(4)) {
      const piece = await old(NAMES.slice(0, 4));
      const stored = order.map((k) => NAMES[k]);
      const settled = settleMaterials(piece, stored);
      for (const sheet of settled.sheets) expect(stored[sheet.materialIndex!]).toBe(sheet.name);
      expect(settled.sheets.map((s) => s.materialName)).toEqual(NAMES.slice(0, 4));
      expect(settled.notices.length).toBe(order.every((k, n) => k === n) ? 0 : 1);
      expect(settleMaterials(settled, stored)).toBe(settled);
    }
  });

  test('one sheet with a name of its own takes what is left', async () => {
    const settled = settleMaterials(await old(['Opaque', 'Moved', 'Rope'], { Moved: 'Sails' }), ['Moved', 'Rope', 'Opaque']);
    expect(lies(settled)).toEqual({ Opaque: 2, Sails: 0, Rope: 1 });
    expect(settled.sheets.map((s) => s.materialName)).toEqual(['Opaque', 'Moved', 'Rope']);
  });

  test('what cannot be told keeps a place of its own, is said once, and is settled once the names say it', async () => {
    const piece = await old(['Opaque', 'Moved', 'Rope', 'Brass'], { Moved: 'Sails', Rope: 'Lines' });
    const stored = ['Rope', 'Opaque', 'Brass', 'Moved'];
    const settled = settleMaterials(piece, stored);
    expect(new Set(Object.values(lies(settled))).size).toBe(4);
    expect([lies(settled).Opaque, lies(settled).Brass]).toEqual([1, 2]);
    expect(settled.sheets.map((s) => s.materialName)).toEqual(['Opaque', null, null, 'Brass']);
    expect(settled.notices[1]).toMatch(/"Sails", "Lines" belong to cannot be told/);
    expect(settleMaterials({ ...settled, notices: [] }, stored, { again: true }).notices).toEqual([]);
    const renamed = { ...settled, sheets: settled.sheets.map((s) => (s.name === 'Lines' ? { ...s, name: 'Rope' } : s)) };
    expect(lies(settleMaterials(renamed, stored, { again: true }))).toEqual({ Opaque: 1, Sails: 3, Rope: 0, Brass: 2 });
  });

  test('names of sheets that lie where they should say that the others do too', async () => {
    const piece = await old(['Opaque', 'Moved', 'Rope', 'Brass'], { Moved: 'Sails', Rope: 'Lines' });
    const settled = settleMaterials(piece, ['Opaque', 'Moved', 'Rope', 'Brass']);
    expect(settled.sheets.map((s) => s.materialName)).toEqual(['Opaque', 'Moved', 'Rope', 'Brass']);
    expect(settled.notices).toEqual([]);
  });

  test('of materials with one name it cannot be told which is which', async () => {
    expect(sheetNames(['Steel', 'Steel', 'Rope'])).toEqual(['Steel', 'Steel 2', 'Rope']);
    const settled = settleMaterials(await old(['Steel', 'Steel', 'Rope']), ['Rope', 'Steel', 'Steel']);
    expect(lies(settled).Rope).toBe(0);
    expect(settled.sheets.map((s) => s.materialName)).toEqual([null, null, 'Rope']);
    expect(new Set(Object.values(lies(settled))).size).toBe(3);
  });
});
