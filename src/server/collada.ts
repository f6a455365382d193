/**
 * COLLADA (1.4.1, 1.5) through three's loader. It needs an XML parser where there is no browser, and pictures are not loaded but named.
 * Runs on the command line and in reader processes: the loader is made for trusted files.
 */
import { DOMParser } from '@xmldom/xmldom';
import {
  Matrix3,
  SkinnedMesh,
  Texture,
  TextureLoader,
  Vector3,
  type BufferAttribute,
  type BufferGeometry,
  type InterleavedBufferAttribute,
  type Material,
  type Mesh,
  type MeshPhongMaterial,
  type Object3D,
} from 'three';
import { ColladaLoader } from 'three/examples/jsm/loaders/ColladaLoader.js';
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js';
import { MODEL_LIMITS, ModelError, type ModelMaterial } from '../core/mesh/model';
import { ModelBuilder, plainMaterial } from '../core/mesh/modelBuilder';
import type { ColladaRead, NamedPictures } from '../core/mesh/readModel';
import { quietly } from '../core/quietly';

/** A parsed element takes some hundred bytes. */
const MOST_ELEMENTS = 2_000_000;
const LESS_THAN = 0x3c;
const DAMAGED = 'The COLLADA file cannot be read: it is damaged, or uses what is not read here. Export it again, or as GLB.';

/** Throws ModelError. */
export function readCollada(bytes: Uint8Array): ColladaRead {
  let elements = 0;
  for (const byte of bytes) if (byte === LESS_THAN) elements++;
  if (elements > MOST_ELEMENTS)
    throw new ModelError(`The COLLADA file has more than ${MOST_ELEMENTS.toLocaleString('en')} elements: split the model.`);
  const text = new TextDecoder().decode(bytes);
  if (!/<COLLADA[\s>]/.test(text))
    throw new ModelError('The file is no COLLADA file, whatever its extension says: export it again.');
  checkDeclared(text);
  let scene: Object3D;
  try {
    scene = quietly(() => withParser(() => new ColladaLoader().parse(text, '')!.scene));
  } catch (cause) {
    throw new ModelError(DAMAGED, { cause });
  }
  try {
    return collect(scene);
  } catch (error) {
    throw error instanceof ModelError ? error : new ModelError(DAMAGED, { cause: error });
  }
}

/** A step between values, and the place of an input among them. */
const MOST_STRIDE = 256;

/** The loader goes through as many values as a file declares, whether they are there or not. A value takes two characters. */
function checkDeclared(text: string): void {
  const damaged = () => new ModelError(DAMAGED);
  for (const [, name, value] of text.matchAll(/\b(count|stride|offset)\s*=\s*["'](\d*)/g))
    if (Number(value) > (name === 'count' ? text.length : MOST_STRIDE)) throw damaged();
  let corners = 0;
  for (const [, list] of text.matchAll(/<vcount>([^<]*)/g)) for (const value of list.split(/\s+/)) corners += Number(value) || 0;
  if (corners > text.length) throw damaged();
}

/** The loader asks for a parser and for textures as a browser has them. */
function withParser<T>(work: () => T): T {
  const scope = globalThis as { DOMParser?: unknown };
  const before = scope.DOMParser;
  const loads = [TextureLoader.prototype, TGALoader.prototype].map((of) => [of, of.load] as const);
  const named = (url: string) => Object.assign(new Texture(), { name: url });
  scope.DOMParser = DOMParser;
  for (const [of] of loads) of.load = named as never;
  try {
    return work();
  } finally {
    scope.DOMParser = before;
    for (const [of, load] of loads) of.load = load as never;
  }
}

function collect(scene: Object3D): ColladaRead {
  scene.updateMatrixWorld(true);
  const meshes: Mesh[] = [];
  scene.traverse((node) => {
    if ((node as Mesh).isMesh) meshes.push(node as Mesh);
  });
  const parts = new Map<string, number>();
  const found = new Map<Material, number>();
  // The builder copies materials with all their fields, so each keeps its own list of pictures.
  const materials: (ModelMaterial & { named?: NamedPictures })[] = [];
  const builder = new ModelBuilder(materials, []);
  for (const mesh of meshes) {
    const geometry = mesh.geometry;
    const position = geometry.getAttribute('position');
    if (!position) continue;
    // The loader makes a mesh of each kind of polygons; those of one node are one part.
    const name = mesh.name || mesh.parent?.name || 'Part';
    const node = `${mesh.parent?.id} ${name}`;
    const part = parts.get(node) ?? builder.addPart(name);
    parts.set(node, part);
    const all = Array.isArray(mesh.material) ? mesh.material : [mesh.material];
    const groups = geometry.groups.length ? geometry.groups : [{ start: 0, count: cornersOf(geometry), materialIndex: 0 }];
    for (const { start, count, materialIndex = 0 } of groups) {
      const material = all[materialIndex] ?? all[0];
      let index = material ? found.get(material) : -1;
      if (index === undefined) {
        index = materials.length;
        found.set(material, index);
        const read = materialOf(material as MeshPhongMaterial);
        materials.push({ ...read.material, named: read.pictures });
      }
      addGroup(builder, mesh, part, index, start, count);
    }
  }
  const model = builder.finish();
  const pictures = model.materials.map((material: (typeof materials)[number]) => {
    const { named = {} } = material;
    delete material.named;
    return named;
  });
  return { model, pictures };
}

const cornersOf = (geometry: BufferGeometry): number => geometry.index?.count ?? geometry.getAttribute('position').count;

/** Corners as they are used, each a vertex: the loader does not share any. */
function addGroup(builder: ModelBuilder, mesh: Mesh, part: number, materialIndex: number, start: number, count: number): void {
  const { geometry } = mesh;
  const whole = count - (count % 3);
  if (whole < 3) return;
  if (whole > MODEL_LIMITS.maxTriangles * 3) throw new ModelError('The model has more triangles than are read: reduce it.');
  const corner = (i: number) => geometry.index?.getX(start + i) ?? start + i;
  const world = mesh.matrixWorld;
  const upright = new Matrix3().getNormalMatrix(world);
  const [positions, at] = [new Float32Array(whole * 3), new Vector3()];
  const given = geometry.getAttribute('normal');
  const skinned = mesh instanceof SkinnedMesh;
  // Normals of a skinned mesh would have to be turned with its bones: the builder computes them from the faces instead.
  const normals = given && !skinned ? new Float32Array(whole * 3) : null;
  for (let i = 0; i < whole; i++) {
    const v = corner(i);
    at.fromBufferAttribute(geometry.getAttribute('position') as BufferAttribute, v);
    if (skinned) mesh.applyBoneTransform(v, at);
    at.applyMatrix4(world).toArray(positions, i * 3);
    if (normals)
      at.fromBufferAttribute(given as BufferAttribute, v)
        .applyMatrix3(upright)
        .normalize()
        .toArray(normals, i * 3);
  }
  const sets = ['uv', 'uv1', 'uv2', 'uv3'].map((name) => geometry.getAttribute(name) as BufferAttribute | undefined);
  builder.addTriangles({
    part,
    materialIndex,
    positions,
    normals,
    uvs: sets
      .slice(0, 1 + sets.findLastIndex((set) => set !== undefined))
      .map((set) => set && uvsOf(set, whole, corner)) as never,
    indices: Uint32Array.from({ length: whole }, (_, i) => i),
    flipped: world.determinant() < 0,
  });
}

/** V runs down in a model. */
function uvsOf(uv: BufferAttribute | InterleavedBufferAttribute, count: number, corner: (i: number) => number): Float32Array {
  const out = new Float32Array(count * 2);
  for (let i = 0; i < count; i++) out.set([uv.getX(corner(i)), 1 - uv.getY(corner(i))], i * 2);
  return out;
}

function materialOf(from: MeshPhongMaterial): { material: ModelMaterial; pictures: NamedPictures } {
  const { r, g, b } = from.color;
  const seen = from.opacity ?? 1;
  const see = from.transparent && seen < 1;
  const material: ModelMaterial = {
    ...plainMaterial(from.name),
    // With a picture the colour is the picture's alone.
    baseColourLinear: from.map ? [1, 1, 1, see ? seen : 1] : [r, g, b, see ? seen : 1],
    seeThrough: see,
    alphaMode: see ? 'BLEND' : 'OPAQUE',
    doubleSided: from.side === 2,
  };
  if (from.emissive) material.emissiveLinear = [from.emissive.r, from.emissive.g, from.emissive.b];
  const pictures: NamedPictures = {};
  if (from.map?.name) pictures.baseColourPicture = from.map.name;
  if (from.normalMap?.name) pictures.normalPicture = from.normalMap.name;
  if (from.emissiveMap?.name) pictures.emissivePicture = from.emissiveMap.name;
  return { material, pictures };
}
