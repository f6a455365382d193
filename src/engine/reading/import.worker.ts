/** Reads a model or makes a canvas in a worker that lives only for one new piece: a hostile file cannot reach the bench. */
import { sha256 } from '../../core/codec/tileBlob';
import { writePieceFile } from '../../core/piece/pieceFile';
import type { Model } from '../../core/mesh/model';
import { readModel } from '../../core/mesh/readModel';
import { buildIslands, buildTopology, type Topology } from '../../core/mesh/topology';
import { firstUsableUvSet, reportUvs, type UvReport } from '../../core/mesh/uvReport';
import { writeGlb } from '../../core/mesh/writeGlb';
import { canvasThumbnail, modelThumbnail } from '../../core/piece/thumbnail';
import { createCanvasPiece, createModelPiece } from '../../core/piece/create';
import { decodePicture } from './decodePicture';
import { uvEdges } from '../opening/geometry';
import { askServer, BROWSER_READING } from './modelReading';

export type ImportRequest =
  | { type: 'read'; files: [string, Uint8Array][] }
  | { type: 'report'; uvSet: number }
  | { type: 'unwrap'; size: number }
  | { type: 'make-model'; name: string; uvSet: number; size: number }
  | { type: 'make-canvas'; name: string; width: number; height: number; wrapU: boolean; wrapV: boolean };

export interface ReadResult {
  fileVertices: number;
  triangles: number;
  parts: string[];
  materials: string[];
  uvSets: number;
  uvSet: number;
  positions: Float32Array;
  normals: Float32Array;
  indices: Uint32Array;
  faceMaterial: Uint16Array;
}

export type ImportEvent =
  | { type: 'read'; result: ReadResult }
  | { type: 'reported'; uvSet: number; report: UvReport; wires: Float32Array[] }
  | { type: 'made'; file: Uint8Array<ArrayBuffer>; notes: string[] }
  | { type: 'failed'; message: string };

const scope = self as unknown as {
  postMessage(message: ImportEvent, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<ImportRequest>) => void) | null;
};

let model: Model | null = null;
let topology: Topology | null = null;
const newId = () => crypto.randomUUID().slice(0, 13);

async function handle(request: ImportRequest): Promise<void> {
  switch (request.type) {
    case 'read': {
      model = await readModel(new Map(request.files), BROWSER_READING);
      topology = buildTopology(model);
      const uvSet = firstUsableUvSet(model);
      tellRead(uvSet);
      return report(uvSet);
    }
    case 'report':
      return report(request.uvSet);
    case 'unwrap': {
      if (!model) throw new Error('no model has been read');
      model = await unwrapped(model, request.size);
      topology = buildTopology(model);
      tellRead(0);
      return report(0);
    }
    case 'make-model': {
      if (!model) throw new Error('no model has been read');
      const glb = await writeGlb(model);
      // Read back: the piece holds the model as the GLB has it, face for face.
      const stored = await readModel(new Map([['model.glb', glb]]));
      const { piece, store, notes } = await createModelPiece(
        { ...model },
        { ...request, newId, modelBlob: await sha256(glb), decodePicture },
      );
      const thumbnailPng = modelThumbnail(piece, store, stored);
      return made(writePieceFile({ piece, store, modelGlb: glb, thumbnailPng }), notes);
    }
    case 'make-canvas': {
      const { piece, store } = createCanvasPiece({ ...request, newId });
      return made(writePieceFile({ piece, store, modelGlb: null, thumbnailPng: canvasThumbnail(piece, store) }), []);
    }
  }
}

/** New UVs, made by the server. */
async function unwrapped(of: Model, size: number): Promise<Model> {
  const glb = await askServer(`/api/unwrap?size=${size}`, await writeGlb(of), 'unwrap it');
  return readModel(new Map([['model.glb', glb]]));
}

function tellRead(uvSet: number): void {
  const { fileVertices, parts, positions, normals, indices, faceMaterial } = model!;
  scope.postMessage({
    type: 'read',
    result: {
      fileVertices,
      triangles: indices.length / 3,
      parts,
      materials: model!.materials.map((m) => m.name),
      uvSets: model!.uvs.length,
      uvSet,
      positions,
      normals,
      indices,
      faceMaterial,
    },
  });
}

function made(file: Uint8Array, notes: string[]): void {
  const out = file as Uint8Array<ArrayBuffer>;
  scope.postMessage({ type: 'made', file: out, notes }, [out.buffer]);
}

function report(uvSet: number): void {
  const uv = uvSet >= 0 ? model!.uvs[uvSet] : undefined;
  const islands = uv ? buildIslands(model!, topology!, uv) : null;
  const wires = model!.materials.map((_, m) => {
    if (!uv) return new Float32Array(0);
    const corners = new Float32Array(model!.indices.length * 2).fill(NaN);
    model!.indices.forEach((v, c) => {
      if (model!.faceMaterial[Math.floor(c / 3)] === m) corners.set([uv[v * 2], uv[v * 2 + 1]], c * 2);
    });
    // A thousandth of the square is fine enough to tell edges apart on a small picture.
    return uvEdges(
      corners.map((v) => v * 1000),
      1000,
      1000,
    );
  });
  scope.postMessage({ type: 'reported', uvSet, report: reportUvs(model!, topology!, islands, uvSet), wires });
}

scope.onmessage = (event) =>
  void handle(event.data).catch((error: unknown) => scope.postMessage({ type: 'failed', message: (error as Error).message }));
