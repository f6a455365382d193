/** Gathers parts into one `Model`, with the checks that hold for every file format. */
import { soundText } from '../text';
import { computeNormals, MODEL_LIMITS, ModelError, normalise, type Model, type ModelMaterial } from './model';

export interface Triangles {
  part: number;
  /** −1: the file gives none; a material "Surface" is made for it. */
  materialIndex: number;
  positions: Float32Array;
  normals: Float32Array | null;
  uvs: (Float32Array | null)[];
  indices: Uint32Array;
  /** 3 × float32 a vertex, sRGB. */
  colours?: Float32Array | null;
  /** The transform mirrors, so the winding has to be turned. */
  flipped?: boolean;
}

export function plainMaterial(name: string): ModelMaterial {
  return {
    name,
    baseColourLinear: [0.5, 0.5, 0.5, 1],
    metallic: 0,
    roughness: 0.6,
    seeThrough: false,
    emissiveLinear: [0, 0, 0],
    emissiveStrength: 1,
    doubleSided: false,
    alphaMode: 'OPAQUE',
    alphaCutoff: 0.5,
    normalScale: 1,
    occlusionStrength: 1,
    baseColourPicture: null,
    metallicRoughnessPicture: null,
    normalPicture: null,
    emissivePicture: null,
    occlusionPicture: null,
  };
}

export function checkParts(count: number): void {
  if (count > MODEL_LIMITS.maxParts)
    throw new ModelError(`The model has more than ${MODEL_LIMITS.maxParts} parts: join some of them.`);
}

export function checkMaterials(count: number): void {
  if (count > MODEL_LIMITS.maxMaterials)
    throw new ModelError(`The model uses more than ${MODEL_LIMITS.maxMaterials} materials, the most that are read: merge some.`);
}

/** ModelError in one sentence where these are more than is read. */
export function checkCounts(vertices: number, triangles: number): void {
  const over = (count: number, most: number, what: string) => {
    if (count > most)
      throw new ModelError(
        `The model has ${Math.round(count).toLocaleString('en')} ${what}, at most ${most.toLocaleString('en')} are read: reduce it.`,
      );
  };
  over(triangles, MODEL_LIMITS.maxTriangles, 'triangles');
  over(vertices, MODEL_LIMITS.maxVertices, 'vertices');
}

export class ModelBuilder {
  private parts: string[] = [];
  private readonly taken = new Set<string>();
  /** The next number to try after a name, so that many equal names cost no more than others. */
  private readonly numbers = new Map<string, number>();
  private vertices = 0;
  private corners = 0;
  private pieces: Triangles[] = [];
  private fallback = -1;

  constructor(
    private materials: ModelMaterial[],
    private notes: string[],
  ) {}

  /** Adds a part; names are made unique so that each can be hidden by name. */
  addPart(given: string): number {
    const name = soundText(given, MODEL_LIMITS.maxNameLength) || 'Part';
    checkParts(this.parts.length + 1);
    let unique = name;
    let n = this.numbers.get(name) ?? 2;
    while (this.taken.has(unique)) unique = `${name} ${n++}`;
    this.numbers.set(name, n);
    this.taken.add(unique);
    return this.parts.push(unique) - 1;
  }

  addTriangles(piece: Triangles): void {
    if (piece.materialIndex < 0) {
      if (this.fallback < 0) this.fallback = this.materials.push(plainMaterial('Surface')) - 1;
      piece.materialIndex = this.fallback;
    }
    const vertices = piece.positions.length / 3;
    const fit = (of: Float32Array | null | undefined, size: number) => !of || of.length === vertices * size;
    if (!fit(piece.normals, 3) || !fit(piece.colours, 3) || !piece.uvs.every((uv) => fit(uv, 2)))
      throw new ModelError(
        'The model has more of one thing (positions, normals, UVs, colours) than of another: export it again.',
      );
    this.room(vertices, piece.indices.length);
    this.pieces.push(piece);
  }

  /** Counts so many more vertices and corners; ModelError as soon as there are too many. */
  private room(vertices: number, corners: number): void {
    this.vertices += vertices;
    this.corners += corners;
    checkCounts(this.vertices, this.corners / 3);
  }

  finish(): Model {
    const { vertices, corners } = this;
    if (corners === 0)
      throw new ModelError('The model has no triangles, so there is nothing to paint: export it with its meshes.');
    const sets = Math.max(0, ...this.pieces.map((p) => p.uvs.length));
    const positions = new Float32Array(vertices * 3);
    const normals = new Float32Array(vertices * 3);
    const uvs = Array.from({ length: sets }, () => new Float32Array(vertices * 2).fill(NaN));
    const indices = new Uint32Array(corners);
    const facePart = new Uint16Array(corners / 3);
    const faceMaterial = new Uint16Array(corners / 3);
    // Parts without colours are white.
    const colours = this.pieces.some((p) => p.colours) ? new Float32Array(vertices * 3).fill(1) : undefined;
    let v = 0;
    let c = 0;
    for (const p of this.pieces) {
      positions.set(p.positions, v * 3);
      normals.set(p.normals ?? computeNormals(p.positions, p.indices), v * 3);
      if (p.colours) colours!.set(p.colours, v * 3);
      p.uvs.forEach((uv, set) => uv && uvs[set].set(uv, v * 2));
      for (let i = 0; i < p.indices.length; i += 3) {
        indices[c + i] = p.indices[i] + v;
        indices[c + i + 1] = p.indices[i + (p.flipped ? 2 : 1)] + v;
        indices[c + i + 2] = p.indices[i + (p.flipped ? 1 : 2)] + v;
      }
      facePart.fill(p.part, c / 3, (c + p.indices.length) / 3);
      faceMaterial.fill(p.materialIndex, c / 3, (c + p.indices.length) / 3);
      v += p.positions.length / 3;
      c += p.indices.length;
    }
    let bad = 0;
    for (let i = 0; i < vertices; i++)
      if (!Number.isFinite(positions[i * 3] + positions[i * 3 + 1] + positions[i * 3 + 2])) bad++;
    if (bad > 0)
      throw new ModelError(
        `The model has ${bad} ${bad === 1 ? 'vertex whose position is' : 'vertices whose positions are'} not a finite number: repair the mesh and export it again.`,
      );
    normalise(normals);
    const used = [...new Set(faceMaterial)].sort((a, b) => a - b);
    checkMaterials(used.length);
    const renumber = new Map(used.map((old, n) => [old, n]));
    for (let f = 0; f < faceMaterial.length; f++) faceMaterial[f] = renumber.get(faceMaterial[f])!;
    const materials = used.map((old, n) => ({
      ...this.materials[old],
      name: soundText(this.materials[old].name, MODEL_LIMITS.maxNameLength) || `Material ${n + 1}`,
    }));
    return {
      positions,
      normals,
      uvs,
      indices,
      facePart,
      faceMaterial,
      parts: this.parts,
      materials,
      ...(colours ? { colours } : {}),
      fileVertices: vertices,
      notes: this.notes,
    };
  }
}
