/** The container of a glTF file, and what is checked in its JSON before anything is allocated for what it declares. */
import type { GLTF } from '@gltf-transform/core';
import { MODEL_LIMITS, ModelError } from './model';
import { checkCounts } from './modelBuilder';

/** GLB container (glTF 2.0, section 4.4): 12-byte header, then chunks of length, type, data. */
export function splitGlb(bytes: Uint8Array): { json: GLTF.IGLTF; resources: Record<string, Uint8Array<ArrayBuffer>> } {
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
    resources['@glb.bin'] = Uint8Array.from(bytes.subarray(binary + 8, binary + 8 + length));
  }
  return { json, resources };
}

/** Objects and arrays in the JSON of a glTF: a model with all the nodes, meshes and accessors that are read has fewer. */
const MOST_LISTS = 2_000_000;

export function parseJson(bytes: Uint8Array, name: string): GLTF.IGLTF {
  if (bytes.length >= 2 && ((bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff)))
    throw new ModelError(`${name} is UTF-16 text, glTF has to be UTF-8: save it again as UTF-8.`);
  // Counted before parsing, which takes a hundred bytes of memory for a pair of brackets.
  let lists = 0;
  for (const byte of bytes) if (byte === 0x7b || byte === 0x5b) lists++;
  if (lists > MOST_LISTS)
    throw new ModelError(`${name} declares more than ${MOST_LISTS.toLocaleString('en')} things: split the model.`);
  try {
    const json: unknown = JSON.parse(new TextDecoder().decode(bytes));
    if (typeof json !== 'object' || json === null || Array.isArray(json)) throw new Error('no object');
    return json as GLTF.IGLTF;
  } catch {
    throw new ModelError(`${name} is not a glTF file: its JSON cannot be read. Export the model again.`);
  }
}

/** A name as a sentence has it. */
export const called = (name: string): string => `"${name.replace(/[\u0000-\u001f]/g, '').slice(0, 80) || 'without a name'}"`;

export const list = <T>(value: T[] | undefined): T[] => (Array.isArray(value) ? value : []);

const LIST_KEYS = [
  'accessors',
  'bufferViews',
  'buffers',
  'meshes',
  'nodes',
  'scenes',
  'materials',
  'textures',
  'images',
  'samplers',
  'skins',
] as const;

/** Declared sizes are checked before anything is allocated for them. */
export function checkJson(json: GLTF.IGLTF): void {
  checkVersion(json);
  for (const key of LIST_KEYS) {
    const value: unknown = json[key];
    const sound = Array.isArray(value) && value.every((v) => typeof v === 'object' && v !== null && !Array.isArray(v));
    if (value !== undefined && !sound) throw new ModelError(`The model's list of ${key} is damaged: export it again.`);
    // Sentences and parts are made of names: what is none is no reason to refuse the model.
    for (const one of list(value as { name?: unknown }[] | undefined)) if (typeof one.name !== 'string') delete one.name;
  }
  for (const key of ['extensionsUsed', 'extensionsRequired'] as const) {
    const names: unknown = json[key];
    if (names !== undefined && !(Array.isArray(names) && names.every((name) => typeof name === 'string')))
      throw new ModelError(`The model's list of ${key} is damaged: export it again.`);
  }
  let elements = 0;
  for (const accessor of list(json.accessors)) {
    const count = accessor?.count;
    if (!isCount(count)) throw new ModelError('The model has a list of data that does not say how long it is: export it again.');
    if (count > MODEL_LIMITS.maxVertices * 3)
      throw new ModelError(`The model declares a list of ${count} elements, more than Brindle reads: split the model.`);
    elements += count;
  }
  if (elements > MODEL_LIMITS.maxVertices * 12)
    throw new ModelError(`The model declares ${elements} elements in all, more than Brindle reads: split the model.`);
  for (const buffer of list(json.buffers))
    if (!Number.isInteger(buffer?.byteLength) || buffer.byteLength < 0 || buffer.byteLength > MODEL_LIMITS.maxFileBytes)
      throw new ModelError('The model declares a buffer of impossible size: export it again.');
  json.bufferViews?.forEach((view, n) => {
    const whole = json.buffers?.[view.buffer]?.byteLength;
    if (
      whole === undefined ||
      !isCount(view.byteLength) ||
      !isCount(view.byteOffset ?? 0) ||
      (view.byteOffset ?? 0) + view.byteLength > whole
    )
      throw new ModelError(`The model's buffer view ${n} lies beyond its buffer: export the model again.`);
  });
  json.accessors?.forEach((accessor, n) => checkAccessor(json, accessor, n));
  checkBuilt(json);
}

/** Called before the other checks, since other versions of glTF have lists of another shape. */
function checkVersion({ asset }: GLTF.IGLTF): void {
  const { version, minVersion } = (asset ?? {}) as { version?: unknown; minVersion?: unknown };
  if (typeof version !== 'string')
    throw new ModelError('The file does not say which version of glTF it is, so it cannot be read: export it as glTF 2.0.');
  if (!/^2(\.|$)/.test(version))
    throw new ModelError(`The file is glTF ${version.slice(0, 8)}, only version 2.0 is read: export it as glTF 2.0.`);
  if (typeof minVersion === 'string' && !/^2(\.0)?$/.test(minVersion))
    throw new ModelError(
      `The file needs a reader of glTF ${minVersion.slice(0, 8)}, 2.0 is what is read: export it as glTF 2.0.`,
    );
}

/** Extensions without which the model is not what it is meant to be, and that nothing here reads. */
export function checkRequired(json: GLTF.IGLTF, known: ReadonlySet<string>): void {
  const unknown = list(json.extensionsRequired as unknown[]).find((name) => typeof name !== 'string' || !known.has(name));
  if (unknown === undefined) return;
  throw new ModelError(
    `The model needs the extension ${called(String(unknown))}, which is not read here: export it without that extension.`,
  );
}

/** How many nodes are children of several others, which the format forbids. */
export function manyParents(json: GLTF.IGLTF): number {
  const parents = new Map<number, number>();
  for (const { children } of list(json.nodes))
    for (const child of new Set(list(children))) parents.set(child, (parents.get(child) ?? 0) + 1);
  return [...parents.values()].filter((n) => n > 1).length;
}

const isCount = (v: unknown): v is number => Number.isInteger(v) && (v as number) >= 0;

/** Bytes of a component by its code (glTF 2.0, 3.6.2.2) and components of a type. */
const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };

/** What an accessor reads has to lie within its buffer view. */
function checkAccessor(json: GLTF.IGLTF, accessor: GLTF.IAccessor, n: number): void {
  const size = COMPONENT_BYTES[accessor.componentType];
  const components = COMPONENTS[accessor.type];
  if (!size || !components) throw new ModelError(`The model's accessor ${n} is of no known type: export the model again.`);
  const fits = (index: number, offset: number, count: number, element: number) => {
    const view = json.bufferViews?.[index];
    if (!view) return false;
    return isCount(offset) && offset + (view.byteStride || element) * (count - 1) + element <= view.byteLength;
  };
  const { sparse } = accessor;
  const inside =
    accessor.count === 0 ||
    accessor.bufferView === undefined ||
    fits(accessor.bufferView, accessor.byteOffset ?? 0, accessor.count, size * components);
  const sparseInside =
    !sparse ||
    (isCount(sparse.count) &&
      sparse.count > 0 &&
      sparse.count <= accessor.count &&
      fits(
        sparse.indices?.bufferView,
        sparse.indices?.byteOffset ?? 0,
        sparse.count,
        COMPONENT_BYTES[sparse.indices?.componentType] ?? 4,
      ) &&
      fits(sparse.values?.bufferView, sparse.values?.byteOffset ?? 0, sparse.count, size * components));
  if (!inside || !sparseInside)
    throw new ModelError(`The model's accessor ${n} reads beyond its data: the file is cut short or damaged. Export it again.`);
}

/** What the nodes make of the meshes, each as often as it is placed, before any of it is read. */
function checkBuilt(json: GLTF.IGLTF): void {
  const counts = (json.meshes ?? []).map((mesh) => {
    let [vertices, triangles] = [0, 0];
    for (const p of list(mesh.primitives)) {
      const corners = (index: number | undefined) => json.accessors?.[index ?? -1]?.count ?? 0;
      const own = corners(p?.attributes?.POSITION);
      vertices += own;
      triangles += (p?.indices === undefined ? own : corners(p.indices)) / (p?.mode === 5 || p?.mode === 6 ? 1 : 3);
    }
    return { vertices, triangles };
  });
  let [vertices, triangles] = [0, 0];
  for (const node of json.nodes ?? []) {
    const mesh = counts[node.mesh ?? -1];
    if (!mesh) continue;
    const times = instancesOf(json, node);
    vertices += mesh.vertices * times;
    triangles += mesh.triangles * times;
  }
  checkCounts(vertices, triangles);
}

/** As often as EXT_mesh_gpu_instancing places a node's mesh. */
function instancesOf(json: GLTF.IGLTF, node: GLTF.INode): number {
  const given = (node.extensions as { EXT_mesh_gpu_instancing?: { attributes?: Record<string, number> } } | undefined)
    ?.EXT_mesh_gpu_instancing?.attributes;
  const counts = Object.values(given ?? {}).map((a) => json.accessors?.[a]?.count ?? 0);
  return counts.length ? Math.max(...counts) : 1;
}
