/** Reading OBJ with its MTL files. V is turned to point down. */
import { ModelError, type Model, type ModelMaterial } from './model';
import { checkCounts, checkMaterials, checkParts, ModelBuilder, plainMaterial } from './modelBuilder';
import { ObjText } from './objText';
import { trianglesOfPolygon } from './polygon';
import { readMtl, type FindFile } from './readMtl';
import type { FileSet } from './companions';

/** Numbers that become more; never more than `most`. */
class Growing<T extends Float32Array | Int32Array> {
  length = 0;
  constructor(
    private make: (n: number) => T,
    public data: T = make(1024),
  ) {}
  push(v: number): void {
    if (this.length === this.data.length) {
      const larger = this.make(this.data.length * 2);
      larger.set(this.data);
      this.data = larger;
    }
    this.data[this.length++] = v;
  }
}
const floats = () => new Growing((n) => new Float32Array(n));
const ints = () => new Growing((n) => new Int32Array(n));

/** What the lines say, in their order. */
interface Lines {
  positions: Growing<Float32Array>;
  colours: Growing<Float32Array>;
  uvs: Growing<Float32Array>;
  normals: Growing<Float32Array>;
  /** Per face: corners, slot of its part and material. */
  faces: Growing<Int32Array>;
  /** Per corner: vertex, texture vertex, normal, from 0; −1 where it has none. */
  corners: Growing<Int32Array>;
  slots: { part: string; material: string | null }[];
  libraries: string[];
  triangles: number;
  /** Points, lines, curves and surfaces. */
  others: Set<string>;
}

export function readObj(name: string, files: FileSet): Model {
  const bytes = files.get(name)!;
  checkText(bytes, name);
  const lines = readLines(bytes);
  const vertices = lines.positions.length / 3;
  if (vertices === 0 || lines.faces.length === 0)
    throw new ModelError(`${name} holds no vertices and faces, so it is not an OBJ model: export it again.`);
  const notes: string[] = [];
  checkCorners(lines, notes);
  if (lines.others.size)
    notes.push(`What the file has beside faces (${[...lines.others].sort().join(', ')}) cannot be painted and is left out.`);
  const materials = readMaterials(lines, files, notes);
  const builder = new ModelBuilder([...materials.values()], notes);
  build(lines, [...materials.keys()], builder);
  const model = builder.finish();
  model.fileVertices = vertices;
  return model;
}

/** UTF-16 and binary files get their own sentence. */
function checkText(bytes: Uint8Array, name: string): void {
  if (bytes.length >= 2 && ((bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff)))
    throw new ModelError(`${name} is UTF-16 text, OBJ has to be UTF-8: save it again as UTF-8.`);
  if (bytes.subarray(0, 4096).includes(0))
    throw new ModelError(`${name} is a binary file, not OBJ text: check its extension or export it again.`);
}

const LEFT_OUT: Record<string, string> = { p: 'points', l: 'lines', curv: 'curves', curv2: 'curves', surf: 'surfaces' };
/** Of one face: more is no face but a mistake. */
const MOST_CORNERS = 100_000;
/** Triangulating a face takes the square of its corners at worst: of all faces together some ten seconds. */
const MOST_TRIANGULATION = 1e9;

function readLines(bytes: Uint8Array): Lines {
  const text = new ObjText(bytes);
  const lines: Lines = {
    positions: floats(),
    colours: floats(),
    uvs: floats(),
    normals: floats(),
    faces: ints(),
    corners: ints(),
    slots: [],
    libraries: [],
    triangles: 0,
    others: new Set(),
  };
  const { positions, colours, uvs, normals, faces, corners } = lines;
  let part = 'Part';
  let material: string | null = null;
  let slot = -1;
  const slots = new Map<string, number>();
  const parts = new Set<string>();
  const materials = new Set<string | null>();
  let triangulation = 0;
  const corner = new Float64Array(3);
  const sizes = [positions, uvs, normals];
  const widths = [3, 2, 3];
  for (let word = text.nextLine(); word !== null; word = text.nextLine()) {
    switch (word) {
      case 'v': {
        for (let k = 0; k < 3; k++) positions.push(text.number());
        checkCounts(positions.length / 3, 0);
        const [r, g, b] = text.hasMore() ? [text.number(), text.number(), text.number()] : [1, 1, 1];
        // A lone fourth number is a weight.
        const tinted = Number.isFinite(r) && Number.isFinite(g) && Number.isFinite(b);
        for (const v of tinted ? [r, g, b] : [1, 1, 1]) colours.push(Math.min(1, Math.max(0, v)));
        break;
      }
      case 'vt':
        uvs.push(text.number());
        uvs.push(1 - (text.hasMore() ? text.number() : 0));
        checkCounts(uvs.length / 2, 0);
        break;
      case 'vn':
        for (let k = 0; k < 3; k++) normals.push(text.number());
        checkCounts(normals.length / 3, 0);
        break;
      case 'f': {
        if (slot < 0) {
          const key = JSON.stringify([part, material]);
          slot = slots.get(key) ?? slots.set(key, lines.slots.push({ part, material }) - 1).get(key)!;
          // Counted here, before anything is allocated for them.
          checkParts(parts.add(part).size);
          checkMaterials(materials.add(material).size);
        }
        let count = 0;
        for (; text.hasMore(); count++) {
          if (!text.corner(corner))
            throw new ModelError(`Line ${text.line} is a face that cannot be read: export the model again.`);
          for (let k = 0; k < 3; k++) corners.push(placeOf(corner[k], sizes[k].length / widths[k]));
          if (count > MOST_CORNERS)
            throw new ModelError(`The face in line ${text.line} has more than ${MOST_CORNERS} corners: export the model again.`);
        }
        faces.push(count);
        faces.push(slot);
        lines.triangles += Math.max(0, count - 2);
        triangulation += count * count;
        if (triangulation > MOST_TRIANGULATION)
          throw new ModelError(
            'The model has so many faces with very many corners that it would take too long: triangulate it before it is exported.',
          );
        checkCounts(0, lines.triangles);
        break;
      }
      case 'o':
      case 'g':
        part = text.rest().replace(/\s*#.*$/, '') || 'Part';
        slot = -1;
        break;
      case 'usemtl':
        material = text.rest().replace(/\s+#.*$/, '');
        slot = -1;
        break;
      case 'mtllib':
        lines.libraries.push(text.rest().replace(/\s+#.*$/, ''));
        break;
      default:
        if (LEFT_OUT[word]) lines.others.add(LEFT_OUT[word]);
    }
  }
  return lines;
}

/** Indices count from 1, negative ones back from the last so far (B1); 0: none. Those that cannot be are −2. */
function placeOf(index: number, soFar: number): number {
  if (index > 0) return index - 1;
  if (index === 0) return -1;
  return -index <= soFar ? soFar + index : -2;
}

/** Faces without a place cannot be read; normals that are not there are done without. */
function checkCorners({ corners, positions, uvs, normals }: Lines, notes: string[]): void {
  const counts = [positions.length / 3, uvs.length / 2, normals.length / 3];
  const what = ['vertex', 'texture vertex', 'normal'];
  let nowhere = 0;
  for (let i = 0; i < corners.length; i++) {
    const k = i % 3;
    const at = corners.data[i];
    if (k === 2 && (at >= counts[2] || at < -1)) {
      corners.data[i] = -1;
      nowhere++;
      continue;
    }
    if (at >= counts[k] || at < -1 || (at < 0 && k === 0))
      throw new ModelError(
        `A face refers to ${what[k]} ${at < 0 ? 'before the first' : at + 1} of ${counts[k]}, which is not there: export the model again.`,
      );
  }
  if (nowhere > 0)
    notes.push(
      `${nowhere} ${nowhere === 1 ? 'corner refers' : 'corners refer'} to normals that are not there: the normals of those parts come from their faces.`,
    );
}

function readMaterials({ slots, libraries }: Lines, files: FileSet, notes: string[]): Map<string, ModelMaterial> {
  const byName = new Map([...files].map(([name, bytes]) => [lastPart(name), bytes]));
  const find: FindFile = (path) => byName.get(lastPart(path));
  const out = new Map<string, ModelMaterial>();
  for (const line of libraries)
    // Names with blanks, or several of them.
    for (const path of find(line) ? [line] : line.split(/\s+/).filter(Boolean)) {
      const bytes = find(path);
      if (!bytes) notes.push(`The material file "${path}" is missing: drop it together with the model to keep its colours.`);
      else {
        checkText(bytes, path);
        readMtl(bytes, find, out, notes);
      }
    }
  for (const { material } of slots) if (material !== null && !out.has(material)) out.set(material, plainMaterial(material));
  return out;
}

const lastPart = (path: string): string => path.replaceAll('\\', '/').split('/').pop()!.toLowerCase();

/** One list of triangles a part and material; corners that are alike become one vertex. */
function build(lines: Lines, names: string[], builder: ModelBuilder): void {
  const { positions, uvs, normals, colours } = lines;
  const tinted = colours.data.subarray(0, colours.length).some((v) => v !== 1);
  const made = lines.slots.map(() => ({ vertices: ints(), indices: ints() }));
  // Vertices by what they are made of, in chains of (slot, place, texture vertex, normal, vertex, next).
  const buckets = new Int32Array(2 ** Math.ceil(Math.log2(Math.max(16, lines.corners.length / 3)))).fill(-1);
  const chain = ints();
  const vertexAt = (slot: number, o: number): number => {
    const [v, t, n] = [lines.corners.data[o], lines.corners.data[o + 1], lines.corners.data[o + 2]];
    const mixed = Math.imul(v, 73856093) ^ Math.imul(t, 19349663) ^ Math.imul(n, 83492791) ^ Math.imul(slot, 2654435761);
    const bucket = (mixed ^ (mixed >>> 15)) & (buckets.length - 1);
    for (let at = buckets[bucket]; at >= 0; at = chain.data[at + 5])
      if (chain.data[at] === slot && chain.data[at + 1] === v && chain.data[at + 2] === t && chain.data[at + 3] === n)
        return chain.data[at + 4];
    const { vertices } = made[slot];
    const index = vertices.length / 3;
    for (const k of [v, t, n]) vertices.push(k);
    const at = chain.length;
    for (const k of [slot, v, t, n, index, buckets[bucket]]) chain.push(k);
    buckets[bucket] = at;
    return index;
  };
  let flat = new Float64Array(64 * 3);
  for (let face = 0, first = 0; face < lines.faces.length; face += 2) {
    const [count, slot] = [lines.faces.data[face], lines.faces.data[face + 1]];
    if (count * 3 > flat.length) flat = new Float64Array(count * 6);
    if (count > 3)
      for (let i = 0; i < count; i++) {
        const v = lines.corners.data[(first + i) * 3] * 3;
        for (let k = 0; k < 3; k++) flat[i * 3 + k] = positions.data[v + k];
      }
    if (count >= 3) for (const i of trianglesOfPolygon(flat, count)) made[slot].indices.push(vertexAt(slot, (first + i) * 3));
    first += count;
  }
  const parts = new Map<string, number>();
  lines.slots.forEach(({ part, material }, slot) => {
    const { vertices, indices } = made[slot];
    if (indices.length === 0) return;
    if (!parts.has(part)) parts.set(part, builder.addPart(part));
    const pick = (from: Growing<Float32Array>, size: number, k: number) => {
      const out = new Float32Array((vertices.length / 3) * size);
      for (let i = 0, o = 0; i < vertices.length; i += 3, o += size)
        for (let c = 0; c < size; c++) out[o + c] = vertices.data[i + k] < 0 ? NaN : from.data[vertices.data[i + k] * size + c];
      return out;
    };
    const all = (k: number, some: boolean) => {
      let found = !some;
      for (let i = k; i < vertices.length; i += 3) found = some ? found || vertices.data[i] >= 0 : found && vertices.data[i] >= 0;
      return found;
    };
    builder.addTriangles({
      part: parts.get(part)!,
      materialIndex: material === null ? -1 : names.indexOf(material),
      positions: pick(positions, 3, 0),
      normals: all(2, false) ? pick(normals, 3, 2) : null,
      uvs: all(1, true) ? [pick(uvs, 2, 1)] : [],
      colours: tinted ? pick(colours, 3, 0) : null,
      indices: Uint32Array.from(indices.data.subarray(0, indices.length)),
    });
  });
}
