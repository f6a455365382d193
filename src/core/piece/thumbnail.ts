/**
 * The picture on a piece's card, drawn without a graphics card: one ray a pixel (four for models), a sky and a
 * key light. Small and the same everywhere; the bench has the good view.
 */
import { COLOUR_MAP } from '../kinds/maps';
import { mapOn } from '../kinds/shown';
import { srgbToLinear, linearToSrgb } from '../colour/transfer';
import { encodePng } from '../codec/png';
import type { PieceBundle } from './pieceFile';
import type { Piece, Sheet } from '../document/schema';
import { boundsOf, type Model } from '../mesh/model';
import type { TileStore } from '../tile/tiles';
import { valueAt } from '../strata/evaluate';
import { Evaluator } from '../strata/evaluator';
import { TileCache } from '../strata/tileCache';
import { normalRegion } from '../strata/displayPlanes';
import { attachSurfaces, PieceSurfaces } from '../strata/pieceSurfaces';

export const THUMBNAIL = { width: 320, height: 240 } as const;
/** Plaster grey of the interface, linear. */
const BACKGROUND = srgbToLinear(0.55);
const KEY = unit([0.5, 0.75, 0.55]);

type Vec = [number, number, number];
function unit(v: Vec): Vec {
  const l = Math.hypot(...v) || 1;
  return [v[0] / l, v[1] / l, v[2] / l];
}
const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

interface Material {
  linear: Vec;
  roughness: number;
  metallic: number;
}

/** In glTF's places. */
const [ROUGHNESS, METALLIC] = [mapOn('surface', 1), mapOn('surface', 2)];

/** Rays meet texels in no order: the evaluated tiles of all sheets are kept. */
const KEEP_BYTES = 1 << 30;

function evaluatorsFor(piece: Piece, store: TileStore): Map<string, Evaluator> {
  const cache = new TileCache(KEEP_BYTES);
  return new Map(piece.sheets.map((sheet) => [sheet.id, new Evaluator({ sheet, store, cache })]));
}

function materialAt(sheet: Sheet, store: TileStore, u: number, v: number, evaluator: Evaluator): Material {
  const wrap = (t: number, size: number) => Math.min(size - 1, Math.floor((t - Math.floor(t)) * size));
  const x = wrap(u, sheet.width);
  const y = wrap(v, sheet.height);
  const source = { sheet, store };
  const srgb = valueAt(source, COLOUR_MAP, x, y, evaluator);
  return {
    linear: srgb.map(srgbToLinear) as Vec,
    roughness: valueAt(source, ROUGHNESS, x, y, evaluator)[0],
    metallic: valueAt(source, METALLIC, x, y, evaluator)[0],
  };
}

/** A sky from below (dim, warm) to above (bright), with a soft bright band for metals to reflect. */
function sky(direction: Vec): number {
  const t = direction[1] * 0.5 + 0.5;
  const band = Math.exp(-((direction[1] - 0.45) ** 2) / 0.02);
  return 0.25 + 0.75 * t + 0.9 * band;
}

function shade(m: Material, n: Vec, view: Vec): Vec {
  const diffuse = Math.max(0, dot(n, KEY)) * 0.9 + 0.45 * (n[1] * 0.5 + 0.5) + 0.12;
  const d = 2 * dot(n, view);
  const mirror: Vec = [d * n[0] - view[0], d * n[1] - view[1], d * n[2] - view[2]];
  const gloss = 1 - m.roughness;
  const reflected = sky(mirror) * gloss + (0.25 + 0.75 * (n[1] * 0.5 + 0.5)) * m.roughness;
  const spark = Math.pow(Math.max(0, dot(mirror, KEY)), 4 + 60 * gloss * gloss) * gloss * 0.8;
  const fresnel = 0.04 + 0.5 * Math.pow(1 - Math.max(0, dot(n, view)), 5) * gloss;
  return m.linear.map(
    (c) => c * diffuse * (1 - m.metallic) + (c * m.metallic + fresnel * (1 - m.metallic)) * (reflected + spark),
  ) as Vec;
}

function encode(linear: Float32Array): Uint8Array {
  const data = new Uint8Array(linear.length);
  for (let i = 0; i < linear.length; i++) data[i] = Math.round(linearToSrgb(Math.min(1, linear[i])) * 255);
  return encodePng({ ...THUMBNAIL, channels: 3, bits: 8, data }, 'srgb');
}

export function canvasThumbnail(piece: Piece, store: TileStore): Uint8Array {
  const sheet = piece.sheets[0];
  const evaluator = evaluatorsFor(piece, store).get(sheet.id)!;
  const { width, height } = THUMBNAIL;
  const out = new Float32Array(width * height * 3);
  // The canvas repeats once over the card's width, cropped to the card's height.
  const scale = sheet.width / width;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const tx = Math.floor(x * scale) % sheet.width;
      const ty = Math.floor(y * scale) % sheet.height;
      const n = normalRegion({ sheet, store }, { x: tx, y: ty, width: 1, height: 1 }, evaluator);
      // Light from the upper left, as on a desk.
      const lit = 0.35 + Math.max(0, -0.45 * n[0] + 0.45 * n[1] + 0.77 * n[2]) * 0.85;
      materialAt(sheet, store, tx / sheet.width, ty / sheet.height, evaluator).linear.forEach(
        (c, k) => (out[(y * width + x) * 3 + k] = c * lit),
      );
    }
  return encode(out);
}

export function modelThumbnail(piece: Piece, store: TileStore, model: Model): Uint8Array {
  const { width, height } = THUMBNAIL;
  const surfaces = new PieceSurfaces(model, piece.model!.uvSet);
  attachSurfaces(store, model, piece.model!.uvSet, surfaces);
  const uv = model.uvs[piece.model!.uvSet];
  const { min, max, diagonal } = boundsOf(model.positions);
  const centre = min.map((v, k) => (v + max[k]) / 2) as Vec;
  const toEye = unit([0.45, 0.28, 1]);
  // A field of 24°, with the model's ball filling the card's height.
  const distance = (diagonal / 2 / Math.sin((12 * Math.PI) / 180)) * 0.92;
  const eye = centre.map((v, k) => v + toEye[k] * distance) as Vec;
  const right = unit([toEye[2], 0, -toEye[0]]);
  const up: Vec = [
    toEye[1] * right[2] - toEye[2] * right[1],
    toEye[2] * right[0] - toEye[0] * right[2],
    toEye[0] * right[1] - toEye[1] * right[0],
  ];
  const half = Math.tan((12 * Math.PI) / 180);
  const glass = piece.sheets.filter((s) => s.preview.alpha < 1).map((s) => s.materialIndex);
  const seeThroughParts = model.parts.filter((_, p) =>
    model.facePart.some((q, f) => q === p && glass.includes(model.faceMaterial[f])),
  );
  surfaces.query.hide([...piece.hiddenParts, ...seeThroughParts], piece.hiddenFaces);
  const evaluators = evaluatorsFor(piece, store);
  const sheetOf = new Map(piece.sheets.map((s) => [s.materialIndex, s]));
  const out = new Float32Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const o = (y * width + x) * 3;
      for (const [jx, jy] of [
        [0.25, 0.25],
        [0.75, 0.25],
        [0.25, 0.75],
        [0.75, 0.75],
      ]) {
        const px = ((x + jx) / width - 0.5) * 2 * half * (width / height);
        const py = (0.5 - (y + jy) / height) * 2 * half;
        const direction = unit(toEye.map((v, k) => -v + right[k] * px + up[k] * py) as Vec);
        const hit = surfaces.query.raycast(eye, direction);
        const sheet = hit && sheetOf.get(model.faceMaterial[hit.face]);
        let colour: Vec = [BACKGROUND, BACKGROUND, BACKGROUND];
        if (hit && sheet) {
          const corner = (k: number) => model.indices[hit.face * 3 + k] * 2;
          const at = (k: number) => hit.barycentric.reduce((sum, w, c) => sum + w * uv[corner(c) + k], 0);
          const back = direction.map((v) => -v) as Vec;
          colour = shade(materialAt(sheet, store, at(0), at(1), evaluators.get(sheet.id)!), hit.normal, back);
        }
        for (let k = 0; k < 3; k++) out[o + k] += colour[k] / 4;
      }
    }
  return encode(out);
}

/** Adds a thumbnail to a bundle that has none. */
export function ensureThumbnail(bundle: PieceBundle, model: Model | null): PieceBundle {
  if (bundle.thumbnailPng) return bundle;
  const { piece, store } = bundle;
  return { ...bundle, thumbnailPng: model && piece.model ? modelThumbnail(piece, store, model) : canvasThumbnail(piece, store) };
}
