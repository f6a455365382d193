/**
 * Reading glTF 2.0 (GLB, or JSON with its files) through @gltf-transform. Skinned models come in at rest:
 * each vertex is moved by Σ weight · jointWorld · inverseBind with the nodes as the file leaves them
 * (glTF 2.0, section 3.7.3.3).
 */
import { Primitive, WebIO, type Document, type GLTF, type Material, type Node, type Texture } from '@gltf-transform/core';
import { ALL_EXTENSIONS, type EmissiveStrength } from '@gltf-transform/extensions';
import { linearToSrgb } from '../colour/transfer';
import { MODEL_LIMITS, ModelError, type EncodedPicture, type Model, type ModelMaterial } from './model';
import { ModelBuilder } from './modelBuilder';

/** File name (may hold folders, forward slashes) → bytes. */
export type FileSet = ReadonlyMap<string, Uint8Array>;

export type GltfDependencies = Record<string, unknown>;

/** `dependencies` holds the decoders of compressed files: draco3d.decoder, meshopt.decoder. */
export async function readGltf(name: string, files: FileSet, dependencies: GltfDependencies = {}): Promise<Model> {
  const bytes = files.get(name);
  if (!bytes) throw new ModelError(`The file ${name} is missing.`);
  const notes: string[] = [];
  const { json, resources } = isGlb(bytes) ? splitGlb(bytes) : { json: parseJson(bytes, name), resources: {} };
  checkJson(json);
  addResources(json, resources, files, notes);
  let document: Document;
  try {
    const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies(dependencies as Record<string, object>);
    document = await io.readJSON({ json, resources });
  } catch (error) {
    throw new ModelError(`The model could not be read (${short(error)}): export it again as GLB.`);
  }
  try {
    return collect(document, notes);
  } catch (error) {
    if (error instanceof ModelError) throw error;
    throw new ModelError(`The model's data does not fit together (${short(error)}): export it again as GLB.`);
  }
}

const short = (error: unknown) =>
  String((error as Error)?.message ?? error)
    .split('\n')[0]
    .slice(0, 140)
    .replace(/[.:]$/, '');

export function isGlb(bytes: Uint8Array): boolean {
  return bytes.length >= 4 && bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;
}

/** GLB container (glTF 2.0, section 4.4): 12-byte header, then chunks of length, type, data. */
function splitGlb(bytes: Uint8Array): { json: GLTF.IGLTF; resources: Record<string, Uint8Array<ArrayBuffer>> } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const cut = 'The GLB file is cut short: copy or export it again.';
  if (bytes.length < 20) throw new ModelError(cut);
  const version = view.getUint32(4, true);
  if (version !== 2)
    throw new ModelError(`The GLB file has glTF version ${version}, only version 2 is read: export it as glTF 2.0.`);
  if (view.getUint32(8, true) > bytes.length) throw new ModelError(cut);
  const jsonLength = view.getUint32(12, true);
  if (view.getUint32(16, true) !== 0x4e4f534a || 20 + jsonLength > bytes.length) throw new ModelError(cut);
  const json = parseJson(bytes.subarray(20, 20 + jsonLength), 'GLB');
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  const binary = 20 + jsonLength;
  if (binary + 8 <= bytes.length) {
    const length = view.getUint32(binary, true);
    if (binary + 8 + length > bytes.length) throw new ModelError(cut);
    resources['@glb.bin'] = bytes.slice(binary + 8, binary + 8 + length);
  }
  return { json, resources };
}

function parseJson(bytes: Uint8Array, name: string): GLTF.IGLTF {
  if (bytes.length >= 2 && ((bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff)))
    throw new ModelError(`${name} is UTF-16 text, glTF has to be UTF-8: save it again as UTF-8.`);
  try {
    const json: unknown = JSON.parse(new TextDecoder().decode(bytes));
    if (typeof json !== 'object' || json === null || Array.isArray(json)) throw new Error('no object');
    return json as GLTF.IGLTF;
  } catch {
    throw new ModelError(`${name} is not a glTF file: its JSON cannot be read. Export the model again.`);
  }
}

const list = <T>(value: T[] | undefined): T[] => (Array.isArray(value) ? value : []);

/** Declared sizes are checked before anything is allocated for them. */
function checkJson(json: GLTF.IGLTF): void {
  if (!json.asset || !String(json.asset.version).startsWith('2'))
    throw new ModelError('The file is not glTF 2.0: its asset version is missing or another. Export it as glTF 2.0.');
  let elements = 0;
  for (const accessor of list(json.accessors)) {
    const count = accessor?.count;
    if (!Number.isInteger(count) || count < 0 || count > MODEL_LIMITS.maxVertices * 3)
      throw new ModelError(`The model declares a list of ${count} elements, more than Brindle reads: split the model.`);
    elements += count;
  }
  if (elements > MODEL_LIMITS.maxVertices * 12)
    throw new ModelError(`The model declares ${elements} elements in all, more than Brindle reads: split the model.`);
  for (const buffer of list(json.buffers))
    if (!Number.isInteger(buffer?.byteLength) || buffer.byteLength < 0 || buffer.byteLength > MODEL_LIMITS.maxFileBytes)
      throw new ModelError('The model declares a buffer of impossible size: export it again.');
}

function addResources(
  json: GLTF.IGLTF,
  resources: Record<string, Uint8Array<ArrayBuffer>>,
  files: FileSet,
  notes: string[],
): void {
  const find = (uri: string): Uint8Array<ArrayBuffer> | undefined => {
    let path = uri;
    try {
      path = decodeURIComponent(uri);
    } catch {
      // A broken escape: look for the name as it stands.
    }
    const wanted = path.split('/').pop()!.toLowerCase();
    const exact = files.get(path);
    if (exact) return exact as Uint8Array<ArrayBuffer>;
    for (const [name, bytes] of files)
      if (name.split('/').pop()!.toLowerCase() === wanted) return bytes as Uint8Array<ArrayBuffer>;
    return undefined;
  };
  for (const buffer of list(json.buffers)) {
    if (typeof buffer.uri !== 'string') {
      if (!resources['@glb.bin'] && !json.extensionsUsed?.includes('EXT_meshopt_compression'))
        throw new ModelError('The model has a buffer without data: export it again as GLB.');
      continue;
    }
    if (buffer.uri.startsWith('data:')) continue;
    const bytes = find(buffer.uri);
    if (!bytes)
      throw new ModelError(`The model needs the file "${buffer.uri}", which is not here: drop it together with the model.`);
    if (bytes.length < buffer.byteLength)
      throw new ModelError(`The file "${buffer.uri}" is shorter than the model says: copy or export it again.`);
    resources[buffer.uri] = bytes;
  }
  for (const image of list(json.images)) {
    if (typeof image.uri !== 'string' || image.uri.startsWith('data:')) continue;
    const bytes = find(image.uri);
    if (!bytes) notes.push(`The picture "${image.uri}" is missing: drop it together with the model to have it as a layer.`);
    resources[image.uri] = bytes ?? new Uint8Array(0);
  }
}

function collect(document: Document, notes: string[]): Model {
  const root = document.getRoot();
  const materials = root.listMaterials();
  const builder = new ModelBuilder(materials.map(readMaterial), notes);
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  if (!scene) throw new ModelError('The model has no scene, so there is nothing to show: export it again with its objects.');
  const nodes: Node[] = [];
  scene.traverse((node) => nodes.push(node));
  for (const node of nodes) {
    const mesh = node.getMesh();
    if (!mesh) continue;
    const part = builder.addPart(node.getName() || mesh.getName() || 'Part');
    for (const primitive of mesh.listPrimitives()) addPrimitive(builder, part, node, primitive, materials, notes);
  }
  return builder.finish();
}

function addPrimitive(
  builder: ModelBuilder,
  part: number,
  node: Node,
  primitive: Primitive,
  materials: Material[],
  notes: string[],
): void {
  const indices = trianglesOf(primitive);
  if (!indices) {
    notes.push(`"${node.getName()}" holds points or lines, which cannot be painted and are left out.`);
    return;
  }
  const position = primitive.getAttribute('POSITION');
  if (!position) throw new ModelError(`"${node.getName()}" has no positions: export the model again.`);
  const read = (semantic: string, size: number): Float32Array | null => {
    const accessor = primitive.getAttribute(semantic);
    if (!accessor) return null;
    const out = new Float32Array(accessor.getCount() * size);
    const element: number[] = [];
    for (let i = 0; i < accessor.getCount(); i++) {
      accessor.getElement(i, element);
      for (let k = 0; k < size; k++) out[i * size + k] = element[k];
    }
    return out;
  };
  const uvs: (Float32Array | null)[] = [];
  for (let set = 0; set < MODEL_LIMITS.maxUvSets; set++) uvs.push(read(`TEXCOORD_${set}`, 2));
  while (uvs.length && !uvs[uvs.length - 1]) uvs.pop();
  const positions = read('POSITION', 3)!;
  const normals = read('NORMAL', 3);
  // Linear in the file (glTF 2.0, 3.7.2.1), with alpha or without.
  const size = primitive.getAttribute('COLOR_0')?.getElementSize() ?? 0;
  const tints = size >= 3 ? read('COLOR_0', size) : null;
  const colours =
    tints &&
    Float32Array.from({ length: (tints.length / size) * 3 }, (_, i) => linearToSrgb(tints[Math.floor(i / 3) * size + (i % 3)]));
  const skin = node.getSkin();
  const joints = read('JOINTS_0', 4);
  const weights = read('WEIGHTS_0', 4);
  const world = node.getWorldMatrix() as ArrayLike<number>;
  let flipped = false;
  if (skin && joints && weights) {
    const inverse = skin.getInverseBindMatrices();
    const matrices = skin.listJoints().map((joint, j) => {
      const bind: number[] = [...IDENTITY];
      if (inverse) inverse.getElement(j, bind);
      return multiply(joint.getWorldMatrix() as ArrayLike<number>, bind);
    });
    for (let v = 0; v < positions.length / 3; v++) {
      const m = new Float64Array(16);
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += weights[v * 4 + k];
      for (let k = 0; k < 4; k++) {
        const w = sum > 0 ? weights[v * 4 + k] / sum : k === 0 ? 1 : 0;
        const joint = matrices[joints[v * 4 + k]];
        if (!joint && w > 0)
          throw new ModelError(`"${node.getName()}" refers to a joint that is not there: export the model again.`);
        if (joint) for (let i = 0; i < 16; i++) m[i] += joint[i] * w;
      }
      transform(positions, normals, v, m);
    }
  } else {
    for (let v = 0; v < positions.length / 3; v++) transform(positions, normals, v, world);
    flipped = determinant3(world) < 0;
  }
  const materialIndex = primitive.getMaterial() ? materials.indexOf(primitive.getMaterial()!) : -1;
  builder.addTriangles({ part, materialIndex, positions, normals, uvs, colours, indices, flipped });
}

/** Indices of plain triangles, whatever the primitive's mode; null for points and lines. */
function trianglesOf(primitive: Primitive): Uint32Array | null {
  const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
  const source = primitive.getIndices()?.getArray();
  const at = source ? (i: number) => source[i] : (i: number) => i;
  const n = source ? source.length : count;
  const mode = primitive.getMode();
  const { TRIANGLES, TRIANGLE_STRIP, TRIANGLE_FAN } = Primitive.Mode;
  const out: number[] | Uint32Array = mode === TRIANGLES ? new Uint32Array(n - (n % 3)) : [];
  if (mode === TRIANGLES) for (let i = 0; i < out.length; i++) out[i] = at(i);
  else if (mode === TRIANGLE_STRIP)
    for (let i = 0; i + 2 < n; i++) (out as number[]).push(at(i), at(i + 1 + (i % 2)), at(i + 2 - (i % 2)));
  else if (mode === TRIANGLE_FAN) for (let i = 1; i + 1 < n; i++) (out as number[]).push(at(0), at(i), at(i + 1));
  else return null;
  for (let i = 0; i < out.length; i++)
    if (out[i] >= count)
      throw new ModelError(`The model refers to vertex ${out[i]} of ${count}, which is not there: export it again.`);
  return out instanceof Uint32Array ? out : Uint32Array.from(out);
}

function readMaterial(material: Material): ModelMaterial {
  const picture = (texture: Texture | null): EncodedPicture | null => {
    const bytes = texture?.getImage();
    return bytes && bytes.length > 0 ? { mime: texture!.getMimeType(), bytes } : null;
  };
  const factor = material.getBaseColorFactor();
  return {
    name: material.getName(),
    baseColourLinear: [factor[0], factor[1], factor[2], factor[3]],
    metallic: material.getMetallicFactor(),
    roughness: material.getRoughnessFactor(),
    seeThrough: material.getAlphaMode() === 'BLEND' || material.getExtension('KHR_materials_transmission') !== null,
    emissiveLinear: [...material.getEmissiveFactor()] as [number, number, number],
    emissiveStrength: material.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1,
    doubleSided: material.getDoubleSided(),
    baseColourPicture: picture(material.getBaseColorTexture()),
    metallicRoughnessPicture: picture(material.getMetallicRoughnessTexture()),
  };
}

const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** Column-major 4 × 4 product. */
function multiply(a: ArrayLike<number>, b: ArrayLike<number>): Float64Array {
  const out = new Float64Array(16);
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) out[c * 4 + r] += a[k * 4 + r] * b[c * 4 + k];
  return out;
}

function determinant3(m: ArrayLike<number>): number {
  return m[0] * (m[5] * m[10] - m[9] * m[6]) - m[4] * (m[1] * m[10] - m[9] * m[2]) + m[8] * (m[1] * m[6] - m[5] * m[2]);
}

/** Moves vertex v; normals by the cofactor matrix, which is right for any scale (lengths are fixed later). */
function transform(positions: Float32Array, normals: Float32Array | null, v: number, m: ArrayLike<number>): void {
  const o = v * 3;
  const [x, y, z] = [positions[o], positions[o + 1], positions[o + 2]];
  for (let r = 0; r < 3; r++) positions[o + r] = m[r] * x + m[4 + r] * y + m[8 + r] * z + m[12 + r];
  if (!normals) return;
  const [nx, ny, nz] = [normals[o], normals[o + 1], normals[o + 2]];
  const sign = determinant3(m) < 0 ? -1 : 1;
  for (let r = 0; r < 3; r++) {
    const s = (r + 1) % 3;
    const t = (r + 2) % 3;
    const cofactor = (c: number) => {
      const d = (c + 1) % 3;
      const e = (c + 2) % 3;
      return m[d * 4 + s] * m[e * 4 + t] - m[e * 4 + s] * m[d * 4 + t];
    };
    normals[o + r] = sign * (cofactor(0) * nx + cofactor(1) * ny + cofactor(2) * nz);
  }
}
