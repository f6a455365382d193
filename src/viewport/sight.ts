/** From points of the model pane into space and back. Pane pixels run from its upper left corner. */
import { Matrix4, Vector3 } from 'three';
import type { Piece } from '../core/document/schema';
import type { View } from '../core/hand/view';
import type { SurfaceHit } from '../core/mesh/surfaceQuery';
import type { Geometry } from '../engine/protocol';
import type { ModelCamera } from './modelCamera';
import type { ModelScene } from './modelScene';

export interface Ray {
  origin: [number, number, number];
  direction: [number, number, number];
  pixelSpread: number;
  /** Where the screen's right is, unit. */
  right: [number, number, number];
}

export type Hit = SurfaceHit & { sheetId: string; part: string; pixelSpread: number };

interface Size {
  width: number;
  height: number;
}

/** The view ray through a point. */
export function rayThrough(camera: ModelCamera, pane: Size, x: number, y: number): Ray {
  const eye = camera.camera;
  const far = new Vector3((x / pane.width) * 2 - 1, 1 - (y / pane.height) * 2, 0.5).unproject(eye);
  return {
    origin: eye.position.toArray(),
    direction: far.sub(eye.position).normalize().toArray(),
    pixelSpread: camera.pixelSpread(pane.height),
    right: new Vector3().setFromMatrixColumn(eye.matrixWorld, 0).normalize().toArray(),
  };
}

/** World space to pane pixels. */
export function viewOf({ camera }: ModelCamera, { width, height }: Size): View {
  const m = new Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse).elements;
  // Columns of four; three's clip space has Y up and the eye's distance in w.
  const row = (r: number) => [m[r], m[r + 4], m[r + 8], m[r + 12]];
  const [x, y, w] = [row(0), row(1), row(3)];
  const across = x.map((v, k) => ((v + w[k]) * width) / 2);
  const down = y.map((v, k) => ((w[k] - v) * height) / 2);
  return { matrix: [...across, ...down, ...w], eye: camera.position.toArray(), width, height };
}

/** What a ray meets first of what is shown. */
export function hitOf(ray: Omit<Ray, 'right'>, model: ModelScene, piece: Piece, geometry: Geometry | null): Hit | null {
  const hit = model.query?.raycast(ray.origin, ray.direction);
  if (!hit) return null;
  const material = geometry?.faceMaterial[hit.face] ?? null;
  const sheet = piece.sheets.find((s) => s.materialIndex === material) ?? piece.sheets[0];
  const part = geometry ? geometry.parts[geometry.facePart[hit.face]] : 'Canvas';
  return { ...hit, sheetId: sheet.id, part, pixelSpread: ray.pixelSpread };
}

/** The texel of a canvas where its plane is hit. Beyond the first repeat it goes on counting. */
export function planeTexel(hit: Hit, planeHeight: number, piece: Piece): { x: number; y: number; texelsPerPixel: number } {
  const [sheet] = piece.sheets;
  const repeats = piece.planeRepeats;
  const u = (hit.point[0] + 0.5) * (sheet.wrapU ? repeats : 1);
  const v = (0.5 - hit.point[1] / planeHeight) * (sheet.wrapV ? repeats : 1);
  return { x: u * sheet.width, y: v * sheet.height, texelsPerPixel: hit.pixelSpread * hit.distance * sheet.width * repeats };
}

export function projected({ camera }: ModelCamera, pane: Size, point: readonly number[]): { x: number; y: number } {
  const v = new Vector3(...(point as [number, number, number])).project(camera);
  return { x: ((v.x + 1) / 2) * pane.width, y: ((1 - v.y) / 2) * pane.height };
}

/** The point under pane pixels that is as far from the eye as another point. */
export function unprojected(
  { camera }: ModelCamera,
  pane: Size,
  like: readonly number[],
  x: number,
  y: number,
): [number, number, number] {
  const depth = new Vector3(...(like as [number, number, number])).project(camera).z;
  return new Vector3((x / pane.width) * 2 - 1, 1 - (y / pane.height) * 2, depth).unproject(camera).toArray();
}
