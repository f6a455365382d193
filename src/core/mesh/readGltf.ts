/**
 * Reading glTF 2.0 (GLB, or JSON with its files) through @gltf-transform. Skinned models come in at rest:
 * each vertex is moved by Σ weight · jointWorld · inverseBind with the nodes as the file leaves them
 * (glTF 2.0, section 3.7.3.3).
 */
import { Logger, Primitive, WebIO, type Document, type GLTF, type Material, type Node } from '@gltf-transform/core';
import { ALL_EXTENSIONS, type InstancedMesh } from '@gltf-transform/extensions';
import { linearToSrgb } from '../colour/transfer';
import { called, checkJson, checkRequired, list, manyParents, parseJson, splitGlb } from './gltfChecks';
import { carriedOf } from './carried';
import { findCompanion, type FileSet } from './companions';
import { readMaterial } from './gltfMaterials';
import { MODEL_LIMITS, ModelError, type Model, type ModelMaterial, type SceneNode } from './model';
import { composed, determinant3, IDENTITY, multiply, transform } from './matrix';
import { ModelBuilder } from './modelBuilder';

/** Extensions that only carry information about the model. They are not read, so faults in them do no harm. */
const ANNOTATING: ReadonlySet<string> = new Set(['EXT_mesh_features', 'EXT_structural_metadata', 'KHR_xmp_json_ld']);
const EXTENSIONS = ALL_EXTENSIONS.filter((e) => !ANNOTATING.has(e.EXTENSION_NAME));
const KNOWN: ReadonlySet<string> = new Set([...ALL_EXTENSIONS.map((e) => e.EXTENSION_NAME), 'KHR_meshopt_compression']);

export type GltfDependencies = Record<string, unknown>;

/** `dependencies` holds the decoders of compressed files: draco3d.decoder, meshopt.decoder. */
export async function readGltf(name: string, files: FileSet, dependencies: GltfDependencies = {}): Promise<Model> {
  const bytes = files.get(name);
  if (!bytes) throw new ModelError(`The file ${name} is missing.`);
  const notes: string[] = [];
  const { json, resources } = isGlb(bytes) ? splitGlb(bytes) : { json: parseJson(bytes, name), resources: {} };
  checkJson(json);
  checkRequired(json, KNOWN);
  json.extensionsRequired = list(json.extensionsRequired).filter((name) => !ANNOTATING.has(name));
  const shared = manyParents(json);
  if (shared > 0)
    notes.push(
      `${shared === 1 ? 'A node hangs' : `${shared} nodes hang`} on several others, which glTF does not allow: each comes in once, under one of them.`,
    );
  addResources(json, resources, files, notes);
  let document: Document;
  try {
    const io = new WebIO()
      .setLogger(new Logger(Logger.Verbosity.SILENT))
      .registerExtensions(EXTENSIONS)
      .registerDependencies(dependencies as Record<string, object>);
    document = await io.readJSON({ json, resources });
  } catch (error) {
    throw new ModelError(
      'The model could not be read: something in it refers to what is not there, or its data is damaged. Export it again as GLB.',
      { cause: error },
    );
  }
  try {
    return collect(document, json, notes);
  } catch (error) {
    if (error instanceof ModelError) throw error;
    throw new ModelError(`The model's data does not fit together: export it again as GLB.`, { cause: error });
  }
}

export function isGlb(bytes: Uint8Array): boolean {
  return bytes.length >= 4 && bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;
}

function addResources(
  json: GLTF.IGLTF,
  resources: Record<string, Uint8Array<ArrayBuffer>>,
  files: FileSet,
  notes: string[],
): void {
  const find = (uri: string) => findCompanion(files, uri) as Uint8Array<ArrayBuffer> | undefined;
  for (const buffer of list(json.buffers)) {
    if (typeof buffer.uri !== 'string') {
      if (!resources['@glb.bin'] && !json.extensionsUsed?.includes('EXT_meshopt_compression'))
        throw new ModelError('The model has a buffer without data: export it again as GLB.');
      continue;
    }
    if (buffer.uri.startsWith('data:')) continue;
    const bytes = find(buffer.uri);
    if (!bytes)
      throw new ModelError(`The model needs the file ${called(buffer.uri)}, which is not here: drop it together with the model.`);
    if (bytes.length < buffer.byteLength)
      throw new ModelError(`The file ${called(buffer.uri)} is shorter than the model says: copy or export it again.`);
    resources[buffer.uri] = bytes;
  }
  for (const image of list(json.images)) {
    if (typeof image.uri !== 'string' || image.uri.startsWith('data:')) continue;
    const bytes = find(image.uri);
    if (!bytes) notes.push(`The picture ${called(image.uri)} is missing: drop it together with the model to have it as a layer.`);
    resources[image.uri] = bytes ?? new Uint8Array(0);
  }
}

function collect(document: Document, json: GLTF.IGLTF, notes: string[]): Model {
  const root = document.getRoot();
  const materials = root.listMaterials();
  const read = materials.map((m, n): ModelMaterial => {
    const carried = carriedOf(json, n, document);
    return { ...readMaterial(m, notes), ...(carried && { carried }) };
  });
  const builder = new ModelBuilder(read, notes);
  noteWhatStays(document, read, notes);
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  if (!scene) throw new ModelError('The model has no scene, so there is nothing to show: export it again with its objects.');
  const nodes: Node[] = [];
  scene.traverse((node) => nodes.push(node));
  const parts = new Map<Node, number>();
  for (const node of nodes) {
    const mesh = node.getMesh();
    if (!mesh) continue;
    const part = builder.addPart(node.getName() || mesh.getName() || 'Part');
    parts.set(node, part);
    for (const world of placesOf(node))
      for (const primitive of mesh.listPrimitives()) addPrimitive(builder, part, node, world, primitive, materials, notes);
  }
  const model = builder.finish();
  if (nodes.length > MODEL_LIMITS.maxNodes)
    notes.push(`The ${nodes.length} nodes of the file are more than are kept: its parts go out side by side.`);
  else model.nodes = nodesOf(nodes, parts);
  return model;
}

/** The hierarchy as the file has it, so that it goes out again. */
function nodesOf(nodes: readonly Node[], parts: ReadonlyMap<Node, number>): SceneNode[] {
  const places = new Map(nodes.map((node, n) => [node, n]));
  return nodes.map((node) => {
    const above = node.getParentNode();
    const extras = node.getExtras();
    return {
      name: node.getName(),
      parent: above ? (places.get(above) ?? -1) : -1,
      matrix: [...node.getMatrix()],
      part: parts.get(node) ?? -1,
      ...(Object.keys(extras).length ? { extras } : {}),
    };
  });
}

/** The node's own place, or those that EXT_mesh_gpu_instancing gives it: translation, rotation and scale before the node's own. */
function placesOf(node: Node): ArrayLike<number>[] {
  const world = node.getWorldMatrix() as ArrayLike<number>;
  const instances = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing');
  if (!instances) return [world];
  const read = (semantic: string, otherwise: number[]) => {
    const accessor = instances.getAttribute(semantic);
    return (i: number) => (accessor ? accessor.getElement(i, []) : otherwise);
  };
  const [at, turned, scaled] = [read('TRANSLATION', [0, 0, 0]), read('ROTATION', [0, 0, 0, 1]), read('SCALE', [1, 1, 1])];
  const count = Math.max(0, ...instances.listAttributes().map((a) => a.getCount()));
  return Array.from({ length: count }, (_, i) => multiply(world, composed(at(i), turned(i), scaled(i))));
}

/** Says what a file holds that does not come in. */
function noteWhatStays(document: Document, materials: readonly ModelMaterial[], notes: string[]): void {
  const root = document.getRoot();
  const say = (count: number, one: string, many: string, rest: string) => {
    if (count > 0) notes.push(`${count === 1 ? one : `${count} ${many}`} ${count === 1 ? 'is' : 'are'} left out: ${rest}`);
  };
  const names = new Set(root.listNodes().flatMap((n) => (n.getMesh() && n.getSkin() ? [n.getName()] : [])));
  say(
    root.listSkins().length,
    'A skeleton',
    'skeletons',
    `the model comes in at rest${names.size ? '' : ', as its nodes stand'}.`,
  );
  say(root.listAnimations().length, 'An animation', 'animations', 'the model stands still.');
  const morphs = root.listMeshes().reduce((n, m) => n + Math.max(0, ...m.listPrimitives().map((p) => p.listTargets().length)), 0);
  say(morphs, 'A morph target', 'morph targets', 'shapes come in as the file has them without.');
  say(root.listCameras().length, 'A camera', 'cameras', 'the bench has its own.');
  const kept = [...new Set(materials.flatMap(({ carried }) => Object.keys(carried?.extensions ?? {})))];
  if (kept.length) notes.push(`The bench does not show ${kept.join(', ')}: it goes out again as it came in.`);
  const used = root.listExtensionsUsed().map((e) => e.extensionName);
  const left = used.filter((name) => !UNDERSTOOD.has(name) && !kept.includes(name));
  say(
    left.length,
    `The extension ${left[0]}`,
    'extensions',
    `${left.length > 1 ? `${left.join(', ')}; ` : ''}what they add does not come in.`,
  );
  const scenes = root.listScenes().length;
  if (scenes > 1) notes.push(`The file has ${scenes} scenes, of which the one that it opens with comes in.`);
}

/** Extensions whose say is heard, or that only pack data. */
const UNDERSTOOD: ReadonlySet<string> = new Set([
  'KHR_draco_mesh_compression',
  'EXT_meshopt_compression',
  'KHR_meshopt_compression',
  'KHR_mesh_quantization',
  'KHR_texture_transform',
  'KHR_texture_basisu',
  'EXT_texture_webp',
  'EXT_texture_avif',
  'KHR_materials_emissive_strength',
  'EXT_mesh_gpu_instancing',
]);

function addPrimitive(
  builder: ModelBuilder,
  part: number,
  node: Node,
  world: ArrayLike<number>,
  primitive: Primitive,
  materials: Material[],
  notes: string[],
): void {
  const indices = trianglesOf(primitive);
  if (!indices) {
    notes.push(`${called(node.getName())} holds points or lines, which cannot be painted and are left out.`);
    return;
  }
  const position = primitive.getAttribute('POSITION');
  if (!position) throw new ModelError(`${called(node.getName())} has no positions: export the model again.`);
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
          throw new ModelError(`${called(node.getName())} refers to a joint that is not there: export the model again.`);
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
