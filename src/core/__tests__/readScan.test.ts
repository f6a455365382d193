import { ModelError } from '../mesh/model';
import { readModel } from '../mesh/readModel';
import { joinPlaces } from '../mesh/readScan';
import { writeGlb } from '../mesh/writeGlb';
import { Document, WebIO } from '@gltf-transform/core';
import { cubeModel, seededRandom } from '../testing/models';

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (name: string, content: Uint8Array) => readModel(new Map([[name, content]]));

const PLY = `ply
format ascii 1.0
element vertex 4
property float x
property float y
property float z
property uchar red
property uchar green
property uchar blue
element face 2
property list uchar int vertex_indices
end_header
0 0 0 255 0 0
1 0 0 255 128 0
1 1 0 0 0 255
0 1 0 255 255 255
3 0 1 2
3 0 2 3
`;

/** A box as a binary STL: three corners of its own a triangle. */
function stl(count?: number): Uint8Array {
  const { positions, indices } = cubeModel();
  const triangles = indices.length / 3;
  const out = new DataView(new ArrayBuffer(84 + triangles * 50));
  out.setUint32(80, count ?? triangles, true);
  indices.forEach((v, c) => {
    for (let k = 0; k < 3; k++)
      out.setFloat32(84 + Math.floor(c / 3) * 50 + 12 + (c % 3) * 12 + k * 4, positions[v * 3 + k], true);
  });
  return new Uint8Array(out.buffer);
}

describe('Dense models', () => {
  it('a PLY comes in with its colours', async () => {
    const model = await read('Scan.ply', bytes(PLY));
    expect([model.indices.length / 3, model.parts, model.uvs.length]).toEqual([2, ['Scan'], 0]);
    expect([...model.positions.subarray(6, 9)]).toEqual([1, 1, 0]);
    // Bytes are sRGB, and stay what they are.
    const colours = [...model.colours!].map((v) => Math.round(v * 255));
    expect(colours).toEqual([255, 0, 0, 255, 128, 0, 0, 0, 255, 255, 255, 255]);
  });

  it('corners of an STL that lie at one place become one, and are shaded smoothly', async () => {
    const model = await read('cube.stl', stl());
    expect([model.positions.length / 3, model.indices.length / 3]).toEqual([8, 12]);
    expect(Math.hypot(...model.normals.subarray(0, 3))).toBeCloseTo(1, 6);
    const random = seededRandom(2);
    const places = Float32Array.from({ length: 3000 }, () => Math.floor(random() * 6));
    const { positions, indices } = joinPlaces(places);
    expect(positions.length / 3).toBeLessThanOrEqual(216);
    indices.forEach((v, i) => expect([...positions.subarray(v * 3, v * 3 + 3)]).toEqual([...places.subarray(i * 3, i * 3 + 3)]));
  });

  it('colours of a GLB are linear light in the file, sRGB in memory', async () => {
    const document = await new WebIO().readBinary(await writeGlb(cubeModel()));
    for (const mesh of document.getRoot().listMeshes())
      for (const primitive of mesh.listPrimitives()) {
        const n = primitive.getAttribute('POSITION')!.getCount();
        const colour = document
          .createAccessor()
          .setType('VEC4')
          .setArray(new Float32Array(n * 4).fill(0.2158605));
        primitive.setAttribute('COLOR_0', colour.setBuffer(document.getRoot().listBuffers()[0]));
      }
    const model = await read('tinted.glb', await new WebIO().writeBinary(document as Document));
    model.colours!.forEach((v) => expect(v).toBeCloseTo(0.5019, 3));
  });

  it.each([
    ['no.ply', bytes('solid'), /not a PLY/],
    ['points.ply', bytes(PLY.replace('element face 2', 'element face 0')), /points without faces/],
    ['huge.ply', bytes(PLY.replace('element vertex 4', 'element vertex 4000000000')), /declares 4000000000/],
    ['stray.ply', bytes(PLY.replace('3 0 2 3', '3 0 2 9')), /vertex that is not there/],
    ['cut.stl', stl().subarray(0, 200), /cut short/],
    ['huge.stl', stl(40_000_000), /cut short/],
  ])('%s is refused with a sentence', async (name, content, message) => {
    await expect(read(name, content)).rejects.toThrow(ModelError);
    await expect(read(name, content)).rejects.toThrow(message);
  });

  it('whatever bytes come, what is wrong is said as a sentence', async () => {
    const random = seededRandom(77);
    for (const [name, whole] of [
      ['a.ply', bytes(PLY)],
      ['a.stl', stl()],
    ] as const)
      for (let n = 0; n < 200; n++) {
        const broken = whole.slice(0, Math.ceil(random() * whole.length));
        for (let k = 0; k < 4; k++) broken[Math.floor(random() * broken.length)] = Math.floor(random() * 256);
        await read(name, broken).catch((error: unknown) => expect(error).toBeInstanceOf(ModelError));
      }
  });
});
