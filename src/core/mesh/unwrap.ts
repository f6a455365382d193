/** An automatic unwrap: charts, and where they lie in the square, by xatlas (the npm package watlas), for each material by itself. */
import { withoutPictures } from './carried';
import { boundsOf, MODEL_LIMITS, ModelError, type Model } from './model';

interface AtlasMesh {
  getIndexArray(into: Uint32Array): boolean;
  getVertex(n: number): { atlasIndex: number; chartIndex: number; uv: [number, number]; xref: number };
  readonly vertexCount: number;
  readonly indexCount: number;
}

/**
 * The part of watlas that is used. The caller passes it in, initialised. Atlases are never deleted: xatlas drops faces at random
 * when its memory still holds what a deleted atlas left there. Their memory is freed when the process or worker ends.
 */
export interface AtlasMaker {
  new (): {
    addMesh(mesh: object): void;
    addUvMesh(mesh: object): void;
    computeCharts(options: object): void;
    packCharts(options: object): void;
    getMesh(n: number): AtlasMesh;
    readonly width: number;
    readonly height: number;
    readonly atlasCount: number;
  };
}

export interface UnwrapOptions {
  /** Texels a side that the sheet is meant for: charts are padded in these. */
  size: number;
  /** Texels between charts, at least; left out: as wide as gutters of that size are, on both sides. */
  padding?: number;
}

export interface Unwrapped {
  model: Model;
  charts: number;
}

/** More would take minutes. */
const MOST_TRIANGLES = 200_000;

/**
 * The same triangles in the same order, with UVs that do not overlap; vertices are split along the seams. Where the file has UVs,
 * their seams and hard edges are kept as seams before others are made. Throws a ModelError.
 */
export function unwrap(
  model: Model,
  Atlas: AtlasMaker,
  { size, padding = Math.max(2, Math.round(size / 128)) }: UnwrapOptions,
): Unwrapped {
  const faces = model.indices.length / 3;
  if (faces > MOST_TRIANGLES)
    throw new ModelError(
      `The model has ${faces.toLocaleString('en')} triangles, an unwrap takes up to ${MOST_TRIANGLES.toLocaleString('en')}: reduce it first.`,
    );
  const out = new Gathered(model);
  let charts = 0;
  for (let material = 0; material < model.materials.length; material++) {
    const list: number[] = [];
    for (let f = 0; f < faces; f++) if (model.faceMaterial[f] === material) list.push(f);
    if (list.length === 0) continue;
    const cut = chartsOf(model, list, Atlas, { size, padding });
    turnToFront(cut);
    const packed = pack(cut, Atlas, { size, padding });
    out.add(list, packed.indices, packed.vertices);
    charts += packed.charts;
  }
  if (out.vertices > MODEL_LIMITS.maxVertices)
    throw new ModelError('The unwrap has more vertices than are read: reduce the model.');
  return { model: out.finish(), charts };
}

/** The charts of one material. */
interface Charts {
  /** Corners of its faces, in their order, as numbers of vertices. */
  indices: Uint32Array;
  vertices: { from: number; chart: number; u: number; v: number }[];
}

interface Packing {
  size: number;
  padding: number;
}

/**
 * The diagonal at which a model is cut, whatever its size. xatlas leaves out triangles with an area below 10⁻⁷: at this size that
 * takes the slivers with which its charts would fold over themselves, and nothing that one would paint on.
 */
const CUT_SIZE = 2;

/** One measure for both axes, V up. Charts are turned along their longest side, not by quarters. */
const PACKING = { bilinear: true, rotateCharts: false } as const;

function chartsOf(model: Model, list: readonly number[], Atlas: AtlasMaker, { size, padding }: Packing): Charts {
  const known = new Map<number, number>();
  const from: number[] = [];
  const indexData = new Uint32Array(list.length * 3);
  list.forEach((f, n) => {
    for (let k = 0; k < 3; k++) {
      const v = model.indices[f * 3 + k];
      let at = known.get(v);
      if (at === undefined) known.set(v, (at = from.push(v) - 1));
      indexData[n * 3 + k] = at;
    }
  });
  const take = (source: Float32Array, width: number) =>
    Float32Array.from(from.flatMap((v) => [...source.subarray(v * width, v * width + width)]));
  const uv = model.uvs[0] && take(model.uvs[0], 2);
  const positions = take(model.positions, 3);
  const scale = CUT_SIZE / (boundsOf(positions).diagonal || 1);
  const atlas = new Atlas();
  atlas.addMesh({
    ...{ vertexPositionData: positions.map((p) => p * scale), vertexNormalData: take(model.normals, 3) },
    ...(uv?.every(Number.isFinite) ? { vertexUvData: uv, vertexUvStride: 8 } : {}),
    ...{ vertexCount: from.length, vertexPositionStride: 12, vertexNormalStride: 12 },
    ...{ indexData, indexCount: indexData.length, indexOffset: 0, faceCount: list.length, epsilon: 1.192092896e-7 },
  });
  atlas.computeCharts({});
  atlas.packCharts({ ...PACKING, resolution: size, padding, rotateChartsToAxis: true });
  const { indices, vertices } = read(atlas.getMesh(0), indexData.length);
  return { indices, vertices: vertices.map((v) => ({ from: from[v.xref], chart: v.chartIndex, u: v.uv[0], v: v.uv[1] })) };
}

function read(mesh: AtlasMesh, corners: number) {
  const indices = new Uint32Array(mesh.indexCount);
  mesh.getIndexArray(indices);
  const vertices = Array.from({ length: mesh.vertexCount }, (_, n) => mesh.getVertex(n));
  if (indices.length !== corners || vertices.some((v) => v.atlasIndex > 0))
    throw new ModelError('The model could not be unwrapped: its faces do not fit into one square. Unwrap it elsewhere.');
  return { indices, vertices };
}

/** Mirrors each chart that shows its back: xatlas mirrors some when it turns them along their longest side. */
function turnToFront({ indices, vertices }: Charts): void {
  const areas = new Map<number, number>();
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [vertices[indices[i]], vertices[indices[i + 1]], vertices[indices[i + 2]]];
    const area = (b.u - a.u) * (c.v - a.v) - (c.u - a.u) * (b.v - a.v);
    areas.set(a.chart, (areas.get(a.chart) ?? 0) + area);
  }
  for (const vertex of vertices) if (areas.get(vertex.chart)! < 0) vertex.u = -vertex.u;
}

/** Lays charts into the square as they are, without turning any. */
function pack(
  { indices, vertices }: Charts,
  Atlas: AtlasMaker,
  { size, padding }: Packing,
): { indices: Uint32Array; vertices: { from: number; u: number; v: number }[]; charts: number } {
  const atlas = new Atlas();
  atlas.addUvMesh({
    ...{
      vertexUvData: Float32Array.from(vertices.flatMap(({ u, v }) => [u, v])),
      vertexCount: vertices.length,
      vertexStride: 8,
    },
    ...{ indexData: indices, indexCount: indices.length, indexOffset: 0 },
    // Charts of different materials stay apart, wherever they lie.
    faceMaterialData: Uint32Array.from({ length: indices.length / 3 }, (_, f) => vertices[indices[f * 3]].chart),
  });
  atlas.computeCharts({});
  atlas.packCharts({ ...PACKING, resolution: size, padding, rotateChartsToAxis: false });
  const packed = read(atlas.getMesh(0), indices.length);
  const side = Math.max(atlas.width, atlas.height) || 1;
  return {
    indices: packed.indices,
    vertices: packed.vertices.map((v) => ({ from: vertices[v.xref].from, u: v.uv[0] / side, v: 1 - v.uv[1] / side })),
    charts: new Set(packed.vertices.map((v) => v.chartIndex)).size,
  };
}

/** Joins the materials' faces into one model again, each face at its former number. */
class Gathered {
  private readonly corners: Uint32Array;
  private readonly from: number[] = [];
  private readonly uv: number[] = [];

  constructor(private readonly model: Model) {
    this.corners = new Uint32Array(model.indices.length);
  }

  get vertices(): number {
    return this.from.length;
  }

  add(faces: readonly number[], indices: Uint32Array, vertices: readonly { from: number; u: number; v: number }[]): void {
    const base = this.from.length;
    for (const { from, u, v } of vertices) {
      this.from.push(from);
      this.uv.push(u, v);
    }
    faces.forEach((f, n) => {
      for (let k = 0; k < 3; k++) this.corners[f * 3 + k] = base + indices[n * 3 + k];
    });
  }

  finish(): Model {
    const { model, from } = this;
    const take = (source: Float32Array, width: number) => {
      const out = new Float32Array(from.length * width);
      from.forEach((v, n) => out.set(source.subarray(v * width, v * width + width), n * width));
      return out;
    };
    const left = model.materials.filter(({ carried }) => carried?.pictures.length).map(({ name }) => name);
    return {
      ...model,
      // Their pictures lie on UVs that are no more.
      materials: model.materials.map((m) => (m.carried ? { ...m, carried: withoutPictures(m.carried) } : m)),
      notes: left.length
        ? [
            ...model.notes,
            `Pictures that only go along (clear coat, sheen and the like) are left out of ${left.join(', ')}: its UVs are new.`,
          ]
        : model.notes,
      positions: take(model.positions, 3),
      normals: take(model.normals, 3),
      ...(model.colours ? { colours: take(model.colours, 3) } : {}),
      uvs: [Float32Array.from(this.uv)],
      indices: this.corners,
    };
  }
}
