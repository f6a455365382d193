/** Reading PLY and STL, in which dense models and scans come, through three.js’s loaders. Neither says which way is up. */
import { BufferAttribute, BufferGeometry } from 'three';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js';
import { quietly } from '../quietly';
import { MODEL_LIMITS, ModelError, type Model } from './model';
import { checkCounts, ModelBuilder } from './modelBuilder';

const MOST_HEAD_BYTES = 65_536;
const MOST_ELEMENTS = 16;

const stem = (name: string) =>
  name
    .split('/')
    .pop()!
    .replace(/\.[^.]*$/, '') || 'Part';

export function readPly(name: string, bytes: Uint8Array): Model {
  const front = new TextDecoder('latin1').decode(bytes.subarray(0, MOST_HEAD_BYTES));
  if (!front.startsWith('ply')) throw new ModelError(`${name} is not a PLY file, whatever its extension says: export it again.`);
  const end = /^end_header\r?$/m.exec(front)?.index;
  if (end === undefined)
    throw new ModelError(
      `The head of ${name} does not end within its first 64 KiB, so it is not read: export it again without its comments.`,
    );
  const head = front.slice(0, end);
  // The loader makes room for whatever elements a file declares: a handful is what models have.
  const elements = [...head.matchAll(/^element /gm)].length;
  if (elements > MOST_ELEMENTS)
    throw new ModelError(
      `${name} declares ${elements} kinds of elements, at most ${MOST_ELEMENTS} are read: export its mesh alone.`,
    );
  // Declared sizes are checked before anything is allocated for them.
  for (const [, what, count] of head.matchAll(/^element (\w+) (\S+)/gm)) {
    const most = what === 'face' ? MODEL_LIMITS.maxTriangles : MODEL_LIMITS.maxVertices;
    if (!(Number(count) >= 0 && Number(count) <= most))
      throw new ModelError(`${name} declares ${count} of "${what}", at most ${most} are read: reduce the model.`);
  }
  if (!/^element face [1-9]/m.test(head))
    throw new ModelError(`${name} holds points without faces: make a mesh of them before it can be used.`);
  const loader = new PLYLoader();
  // Under a name of their own: what the loader calls colours it has rounded to 8 bits of linear light.
  loader.setCustomPropertyNameMapping({ tint: ['red', 'green', 'blue'] });
  const type = /^property (\w+) red\b/m.exec(head)?.[1] ?? '';
  const full = /^(u?char|u?int8)$/.test(type) ? 255 : /^u?(short|int16)$/.test(type) ? 65535 : 1;
  return modelOf(name, () => loader.parse(bufferOf(bytes)), { full });
}

export function readStl(name: string, bytes: Uint8Array): Model {
  const declared = bytes.length >= 84 ? new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true) : 0;
  const binary = bytes.length >= 84 && bytes.length >= 84 + declared * 50;
  if (!binary && !/^\s*solid/.test(new TextDecoder('latin1').decode(bytes.subarray(0, 512))))
    throw new ModelError(`${name} is not an STL file, or is cut short: copy or export it again.`);
  if (binary && declared > MODEL_LIMITS.maxTriangles)
    throw new ModelError(
      `${name} declares ${declared} triangles, at most ${MODEL_LIMITS.maxTriangles} are read: reduce the model.`,
    );
  // An STL has three corners of its own a triangle, and shades them flat: those at one place become one.
  return modelOf(name, () => (binary ? new STLLoader().parse(bufferOf(bytes)) : readTextStl(bytes)), { join: true });
}

/** The text form, corner by corner: the loader's expressions take the square of a text in which solids or faces never end. */
function readTextStl(bytes: Uint8Array): BufferGeometry {
  const positions: number[] = [];
  const text = new TextDecoder('latin1').decode(bytes);
  for (const [, x, y, z] of text.matchAll(/^[ \t]*vertex[ \t]+(\S+)[ \t]+(\S+)[ \t]+(\S+)/gm)) {
    positions.push(Number(x), Number(y), Number(z));
    checkCounts(0, positions.length / 9);
  }
  if (positions.length % 9 !== 0) throw new Error('a triangle without three corners');
  return new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(positions), 3));
}

// Not `slice`, which gives a part of the same memory where the bytes are a Buffer of Node.
const bufferOf = (b: Uint8Array): ArrayBuffer =>
  b.byteOffset === 0 && b.byteLength === b.buffer.byteLength ? (b.buffer as ArrayBuffer) : Uint8Array.from(b).buffer;

/** `full`: what the largest number of a colour is; colours of a PLY are sRGB. */
function modelOf(name: string, parse: () => BufferGeometry, { join = false, full = 1 }): Model {
  let geometry: BufferGeometry;
  try {
    geometry = quietly(parse);
  } catch (error) {
    if (error instanceof ModelError) throw error;
    throw new ModelError(`${name} could not be read: its data does not fit what its head says. Export it again.`);
  }
  const numbers = (key: string, size: number): Float32Array | null => {
    const found = geometry.getAttribute(key);
    return found && found.itemSize >= size ? Float32Array.from(found.array) : null;
  };
  let positions: Float32Array = numbers('position', 3) ?? new Float32Array(0);
  let indices: Uint32Array | null = geometry.index ? Uint32Array.from(geometry.index.array) : null;
  if (join) ({ positions, indices } = joinPlaces(positions));
  indices ??= Uint32Array.from({ length: positions.length / 3 }, (_, i) => i);
  for (const v of indices)
    if (v >= positions.length / 3) throw new ModelError(`${name} refers to a vertex that is not there: export it again.`);
  const colours = join ? null : numbers('tint', 3);
  const builder = new ModelBuilder([], []);
  builder.addTriangles({
    part: builder.addPart(stem(name)),
    materialIndex: -1,
    positions,
    normals: join ? null : numbers('normal', 3),
    uvs: join ? [] : [numbers('uv', 2)].filter((uv) => uv !== null),
    colours: colours?.map((v) => Math.min(1, Math.max(0, v / full))) ?? null,
    indices,
  });
  return builder.finish();
}

/** Corners at exactly the same place become one vertex. */
export function joinPlaces(positions: Float32Array): { positions: Float32Array; indices: Uint32Array } {
  const count = positions.length / 3;
  const words = new Uint32Array(positions.buffer, positions.byteOffset, positions.length);
  let size = 1024;
  while (size < count * 2) size *= 2;
  const table = new Int32Array(size).fill(-1);
  const indices = new Uint32Array(count);
  const out = new Float32Array(positions.length);
  let made = 0;
  for (let v = 0; v < count; v++) {
    const o = v * 3;
    let h = (Math.imul(words[o], 73856093) ^ Math.imul(words[o + 1], 19349663) ^ Math.imul(words[o + 2], 83492791)) >>> 0;
    for (h &= size - 1; ; h = (h + 1) & (size - 1)) {
      const at = table[h];
      if (at < 0) {
        table[h] = made;
        out.set(positions.subarray(o, o + 3), made * 3);
        indices[v] = made++;
        break;
      }
      if (out[at * 3] === positions[o] && out[at * 3 + 1] === positions[o + 1] && out[at * 3 + 2] === positions[o + 2]) {
        indices[v] = at;
        break;
      }
    }
  }
  return { positions: out.slice(0, made * 3), indices };
}
