/** Reading OBJ with MTL through three's loaders (text only, no DOM). V is turned to point down. */
import type { BufferAttribute, BufferGeometry, Mesh } from 'three';
import { MTLLoader } from 'three/addons/loaders/MTLLoader.js';
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js';
import { srgbToLinear } from '../colour/transfer';
import { ModelError, type Model, type ModelMaterial } from './model';
import { ModelBuilder, plainMaterial } from './modelBuilder';
import type { FileSet } from './readGltf';

export function readObj(name: string, files: FileSet): Model {
  const text = decodeText(files.get(name)!, name);
  const vertexLines = text.match(/^[ \t]*v[ \t]/gm)?.length ?? 0;
  if (vertexLines === 0 || !/^[ \t]*f[ \t]/m.test(text))
    throw new ModelError(`${name} holds no vertices and faces, so it is not an OBJ model: export it again.`);
  checkIndices(text, vertexLines);
  const notes: string[] = [];
  const materials = readMaterials(text, files, notes);
  const builder = new ModelBuilder([...materials.values()], notes);
  const slots = [...materials.keys()];
  let group;
  try {
    group = new OBJLoader().parse(text);
  } catch (error) {
    throw new ModelError(`${name} could not be read (${String((error as Error).message).slice(0, 120)}): export it again.`);
  }
  for (const child of group.children) {
    const mesh = child as Mesh;
    if (!mesh.isMesh) continue;
    const part = builder.addPart(mesh.name || 'Part');
    const geometry = mesh.geometry as BufferGeometry;
    const slotNames = (Array.isArray(mesh.material) ? mesh.material : [mesh.material]).map((m) => m.name);
    const total = geometry.getAttribute('position').count;
    const groups = geometry.groups.length ? geometry.groups : [{ start: 0, count: total, materialIndex: 0 }];
    for (const g of groups) {
      const slot = slots.indexOf(slotNames[g.materialIndex ?? 0]);
      const count = Math.min(g.count, total - g.start);
      builder.addTriangles({ part, materialIndex: slot, ...weld(geometry, g.start, count) });
    }
  }
  const model = builder.finish();
  model.fileVertices = vertexLines;
  return model;
}

/** UTF-8 text; UTF-16 and binary files get their own sentence. */
export function decodeText(bytes: Uint8Array, name: string): string {
  if (bytes.length >= 2 && ((bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff)))
    throw new ModelError(`${name} is UTF-16 text, OBJ has to be UTF-8: save it again as UTF-8.`);
  if (bytes.subarray(0, 4096).includes(0))
    throw new ModelError(`${name} is a binary file, not OBJ text: check its extension or export it again.`);
  return new TextDecoder().decode(bytes);
}

/** Positive indices count from 1, negative ones back from the last vertex so far (OBJ specification, B1). */
function checkIndices(text: string, vertices: number): void {
  let seen = 0;
  for (const line of text.split('\n')) {
    const trimmed = line.trimStart();
    if (trimmed.startsWith('v ') || trimmed.startsWith('v\t')) seen++;
    else if (trimmed.startsWith('f ') || trimmed.startsWith('f\t')) {
      for (const corner of trimmed.slice(2).trim().split(/\s+/)) {
        const index = parseInt(corner, 10);
        if (!(index > 0 ? index <= vertices : index < 0 && -index <= seen))
          throw new ModelError(
            `A face refers to vertex ${corner.split('/')[0]} of ${vertices}, which is not there: export the model again.`,
          );
      }
    }
  }
}

function readMaterials(text: string, files: FileSet, notes: string[]): Map<string, ModelMaterial> {
  const find = (path: string) => {
    const wanted = path.replaceAll('\\', '/').split('/').pop()!.toLowerCase();
    for (const [name, bytes] of files) if (name.split('/').pop()!.toLowerCase() === wanted) return bytes;
    return undefined;
  };
  const out = new Map<string, ModelMaterial>();
  for (const match of text.matchAll(/^[ \t]*mtllib[ \t]+(.+?)[ \t\r]*$/gm)) {
    const bytes = find(match[1]);
    if (!bytes) {
      notes.push(`The material file "${match[1]}" is missing: drop it together with the model to keep its colours.`);
      continue;
    }
    const info = new MTLLoader().parse(decodeText(bytes, match[1]), '').materialsInfo as unknown as Record<
      string,
      Record<string, unknown>
    >;
    for (const [name, m] of Object.entries(info)) {
      const material = plainMaterial(name);
      const kd = Array.isArray(m.kd) ? m.kd.map(Number) : null;
      const d = m.d !== undefined ? Number(m.d) : m.tr !== undefined ? 1 - Number(m.tr) : 1;
      if (kd && kd.every(Number.isFinite))
        material.baseColourLinear = [srgbToLinear(kd[0]), srgbToLinear(kd[1]), srgbToLinear(kd[2]), d];
      material.seeThrough = d < 1;
      if (typeof m.map_kd === 'string') {
        const file = m.map_kd.trim().split(/\s+/).pop()!;
        const picture = find(m.map_kd) ?? find(file);
        if (picture) material.baseColourPicture = { mime: /\.png$/i.test(file) ? 'image/png' : 'image/jpeg', bytes: picture };
        else notes.push(`The picture "${m.map_kd}" is missing: drop it together with the model to have it as a layer.`);
      }
      out.set(name, material);
    }
  }
  for (const match of text.matchAll(/^[ \t]*usemtl[ \t]+(.+?)[ \t\r]*$/gm))
    if (!out.has(match[1])) out.set(match[1], plainMaterial(match[1]));
  return out;
}

/** three gives loose corners; equal corners become one vertex again. */
function weld(geometry: BufferGeometry, start: number, count: number) {
  const position = geometry.getAttribute('position') as BufferAttribute;
  const normal = geometry.getAttribute('normal') as BufferAttribute | undefined;
  const uv = geometry.getAttribute('uv') as BufferAttribute | undefined;
  const known = new Map<string, number>();
  const indices = new Uint32Array(count - (count % 3));
  const corners: number[] = [];
  for (let i = 0; i < indices.length; i++) {
    const v = start + i;
    const key = [
      position.getX(v),
      position.getY(v),
      position.getZ(v),
      normal?.getX(v),
      normal?.getY(v),
      normal?.getZ(v),
      uv?.getX(v),
      uv?.getY(v),
    ].join();
    let index = known.get(key);
    if (index === undefined) {
      index = corners.push(v) - 1;
      known.set(key, index);
    }
    indices[i] = index;
  }
  const pick = (attribute: BufferAttribute, size: number) => {
    const out = new Float32Array(corners.length * size);
    corners.forEach((v, i) => {
      for (let k = 0; k < size; k++) out[i * size + k] = attribute.array[v * size + k];
    });
    return out;
  };
  const uvs = uv ? [pick(uv, 2)] : [];
  for (const set of uvs) for (let i = 1; i < set.length; i += 2) set[i] = 1 - set[i];
  return { positions: pick(position, 3), normals: normal ? pick(normal, 3) : null, uvs, indices };
}
