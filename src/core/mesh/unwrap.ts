/** An automatic unwrap: charts, and where they lie in the square, by xatlas (the npm package watlas), for each material by itself. */
import { MODEL_LIMITS, ModelError, type Model } from './model';

/** As much of watlas as is used; whoever unwraps hands it in, begun. */
export interface AtlasMaker {
  new (): {
    addMesh(mesh: object): void;
    generate(charts: object, pack: object): void;
    getMesh(n: number): {
      getIndexArray(into: Uint32Array): boolean;
      getVertex(n: number): { atlasIndex: number; uv: [number, number]; xref: number };
      readonly vertexCount: number;
      readonly indexCount: number;
    };
    readonly width: number;
    readonly height: number;
    readonly atlasCount: number;
    delete(): void;
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
    charts += unwrapFaces(model, list, new Atlas(), { size, padding }, out);
  }
  if (out.vertices > MODEL_LIMITS.maxVertices)
    throw new ModelError('The unwrap has more vertices than are read: reduce the model.');
  return { model: out.finish(), charts };
}

function unwrapFaces(
  model: Model,
  list: readonly number[],
  atlas: InstanceType<AtlasMaker>,
  { size, padding }: { size: number; padding: number },
  out: Gathered,
): number {
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
  try {
    atlas.addMesh({
      ...{ vertexPositionData: take(model.positions, 3), vertexNormalData: take(model.normals, 3) },
      vertexUvData: uv?.every(Number.isFinite) ? uv : new Float32Array(0),
      ...{ vertexCount: from.length, vertexPositionStride: 12, vertexNormalStride: 12, vertexUvStride: uv ? 8 : 0 },
      ...{ indexData, indexCount: indexData.length, indexOffset: 0, faceCount: list.length, epsilon: 1.192092896e-7 },
      ...{ faceMaterialData: new Uint32Array(0), faceVertexCount: new Uint32Array(0) },
    });
    atlas.generate({}, { resolution: size, padding, bilinear: true, rotateCharts: false, rotateChartsToAxis: true });
    const mesh = atlas.getMesh(0);
    const indices = new Uint32Array(mesh.indexCount);
    mesh.getIndexArray(indices);
    // One measure for both axes: squares stay squares. Its V runs up. Charts are not turned by quarters: that would mirror some.
    const side = Math.max(atlas.width, atlas.height) || 1;
    const vertices = Array.from({ length: mesh.vertexCount }, (_, n) => mesh.getVertex(n));
    if (indices.length !== indexData.length || vertices.some((v) => v.atlasIndex > 0))
      throw new ModelError('The model could not be unwrapped: its faces do not fit into one square. Unwrap it elsewhere.');
    const charts = new Set(vertices.map((v) => (v as { chartIndex?: number }).chartIndex)).size;
    out.add(
      list,
      indices,
      vertices.map((v) => ({ from: from[v.xref], u: v.uv[0] / side, v: 1 - v.uv[1] / side })),
    );
    return charts;
  } finally {
    atlas.delete();
  }
}

/** Puts the parts together again, each face at its old number. */
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
    return {
      ...model,
      positions: take(model.positions, 3),
      normals: take(model.normals, 3),
      ...(model.colours ? { colours: take(model.colours, 3) } : {}),
      uvs: [Float32Array.from(this.uv)],
      indices: this.corners,
    };
  }
}
