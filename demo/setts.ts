/** The quay setts of Saltglass: a tileable pavement, 1024 texels to the metre. Every rule is periodic. */
import type { PieceBundle } from '../src/core/codec/pieceFile';
import { hexToSrgb } from '../src/core/colour/transfer';
import { newAdjustLayer, newCoatLayer, newGroup, newPaintedLayer, newPiece, newSheet } from '../src/core/document/factory';
import type { Layer } from '../src/core/document/schema';
import { TileStore } from '../src/core/raster/tiles';
import { fractal3, hash3, noise3, smoothstep } from './noise';
import { paintCanvas, type Dabs } from './paint';

const ROWS = 10;
const PER_ROW = 7;

interface Sett {
  /** Signed distance inside the stone in rows, positive inside. */
  inside: number;
  id: number;
  /** −1..1 across the stone. */
  u: number;
  v: number;
}

/** Rows of rounded stones of uneven width, each row shifted; the lattice wraps on both axes. */
function settAt(fx: number, fy: number): Sett {
  const wobbleX = (noise3(fx * 8, fy * 8, 0, 5, 8) - 0.5) * 0.016;
  const wobbleY = (noise3(fx * 8, fy * 8, 3, 9, 8) - 0.5) * 0.016;
  const y = (fy + wobbleY + 1) * ROWS;
  const row = Math.floor(y) % ROWS;
  const v = y - Math.floor(y);
  const x = (fx + wobbleX + 1 + ((row % 2) * 0.5) / PER_ROW + hash3(row, 0, 0, 77) * 0.05) * PER_ROW;
  const edge = (i: number) => i + (hash3(((i % PER_ROW) + PER_ROW) % PER_ROW, row, 1, 78) - 0.5) * 0.36;
  let i = Math.floor(x);
  if (x < edge(i)) i--;
  else if (x >= edge(i + 1)) i++;
  const left = edge(i);
  const right = edge(i + 1);
  // In row heights: stones are ROWS / PER_ROW times as wide as high, about.
  const aspect = ROWS / PER_ROW;
  const halfW = ((right - left) / 2) * aspect - 0.055;
  const halfH = 0.5 - 0.055;
  const px = (x - (left + right) / 2) * aspect;
  const py = v - 0.5;
  const corner = 0.17;
  const qx = Math.abs(px) - (halfW - corner);
  const qy = Math.abs(py) - (halfH - corner);
  const outside = Math.hypot(Math.max(qx, 0), Math.max(qy, 0)) + Math.min(Math.max(qx, qy), 0) - corner;
  return { inside: -outside, id: (((i % PER_ROW) + PER_ROW) % PER_ROW) + row * 31, u: px / halfW, v: py / halfH };
}

const STONES = ['#6f7178', '#7d7a74', '#5f646c', '#8a8378', '#6a6763', '#747c82'].map(hexToSrgb);

export async function settsBundle(size = 1024): Promise<PieceBundle> {
  const store = new TileStore();
  const sheet = newSheet('setts-canvas', 'Canvas', size, size, { wrapU: true, wrapV: true, heightSpan: 0.03 });
  sheet.layers = [
    newCoatLayer('qs-ground', 'Mortar bed', { 'base-colour': hexToSrgb('#57503f'), roughness: [0.93], height: [0.36] }),
  ];
  const add = (id: string, name: string, rule: (fx: number, fy: number) => Dabs | null, over: Partial<Layer> = {}) => {
    const layer = newPaintedLayer(id, name, []);
    paintCanvas(store, id, sheet, (x, y) => rule((x + 0.5) / size, (y + 0.5) / size));
    for (const map of sheet.maps) layer.cells[map] = { on: store.tilesOf(`${id}/${map}`).size > 0 };
    sheet.layers.push({ ...layer, ...over });
  };
  add('qs-sand', 'Sand in the joints', (fx, fy) => {
    const v = fractal3(fx * 64, fy * 64, 0, 15, 4, 64);
    return { cover: 1, 'base-colour': [0.36 + 0.16 * v, 0.32 + 0.14 * v, 0.25 + 0.1 * v], height: [0.5 + (v - 0.5) * 0.12] };
  });
  add('qs-stones', 'Setts', (fx, fy) => {
    const s = settAt(fx, fy);
    const ragged = s.inside + (fractal3(fx * 40, fy * 40, 1, 21, 3, 40) - 0.5) * 0.05;
    const cover = smoothstep(0, 0.03, ragged);
    const dome = smoothstep(0, 0.24, ragged);
    const grain = fractal3(fx * 90, fy * 90, 2, 25, 4, 90);
    const large = fractal3(fx * 12, fy * 12, 4, 27, 3, 12);
    const tilt = (hash3(s.id, 2, 0, 3) - 0.5) * 0.07 * s.u + (hash3(s.id, 3, 0, 3) - 0.5) * 0.07 * s.v;
    const level = (hash3(s.id, 1, 0, 3) - 0.5) * 0.1;
    const base = STONES[Math.floor(hash3(s.id, 4, 0, 3) * STONES.length) % STONES.length];
    const shade = 0.72 + 0.22 * grain + 0.22 * large + 0.1 * (hash3(s.id, 5, 0, 3) - 0.5);
    return {
      cover,
      'base-colour': base.map((c) => c * shade),
      height: [0.56 + 0.22 * dome + level + tilt + (grain - 0.5) * 0.07 + (large - 0.5) * 0.08],
      roughness: [0.66 + 0.2 * grain - 0.16 * dome],
    };
  });
  add(
    'qs-edges',
    'Worn edges',
    (fx, fy) => {
      const s = settAt(fx, fy);
      const ring = smoothstep(0.03, 0.09, s.inside) * smoothstep(0.2, 0.1, s.inside);
      return {
        cover: ring * smoothstep(0.35, 0.65, fractal3(fx * 30, fy * 30, 6, 33, 4, 30)),
        'base-colour': [0.72, 0.71, 0.68],
      };
    },
    { opacity: 0.45, blend: 'soft-light' },
  );
  add('qs-moss', 'Moss in the joints', (fx, fy) => {
    const s = settAt(fx, fy);
    const damp = smoothstep(0.46, 0.62, fractal3(fx * 5, fy * 5, 8, 41, 4, 5));
    const joint = smoothstep(0.075, -0.02, s.inside);
    const tuft = fractal3(fx * 120, fy * 120, 9, 43, 3, 120);
    const cover = damp * joint * smoothstep(0.25, 0.5, tuft + joint * 0.3);
    return {
      cover,
      'base-colour': [0.24 + 0.16 * tuft, 0.31 + 0.2 * tuft, 0.13 + 0.07 * tuft],
      roughness: [0.97],
      height: [0.5 + 0.12 * tuft],
    };
  });
  add(
    'qs-wet',
    'Spray, still wet',
    (fx, fy) => {
      const s = settAt(fx, fy);
      const wet = smoothstep(0.52, 0.68, fractal3(fx * 4, fy * 4, 11, 51, 4, 4));
      return { cover: wet * smoothstep(-0.06, 0.12, s.inside), roughness: [0.22], 'base-colour': [0.3, 0.32, 0.36] };
    },
    { opacity: 0.55, blend: 'multiply' },
  );
  const byId = (id: string) => sheet.layers.find((l) => l.id === id)!;
  const within = (group: Layer, ...members: Layer[]): Layer[] => [...members.map((l) => ({ ...l, parent: group.id })), group];
  const contrast = newAdjustLayer(
    'qs-contrast',
    'Deeper tones',
    {
      type: 'curve',
      points: [
        [0, 0],
        [0.3, 0.24],
        [0.7, 0.76],
        [1, 1],
      ],
    },
    sheet.maps,
  );
  contrast.cells = { 'base-colour': { on: true } };
  sheet.layers = [
    ...within({ ...newGroup('qs-bed', 'Bed'), passThrough: true }, byId('qs-ground'), byId('qs-sand')),
    ...within(newGroup('qs-stone', 'Stone'), byId('qs-stones'), byId('qs-edges'), contrast),
    ...within({ ...newGroup('qs-damp', 'Damp'), passThrough: true, tag: 4 }, byId('qs-moss'), byId('qs-wet')),
    newPaintedLayer('qs-hand', 'Hand'),
  ];
  const piece = newPiece('demo-setts', 'Quay setts', 'canvas', [sheet], {
    palette: ['#6f7178', '#8a8378', '#57503f', '#46512c', '#3b4046', '#b7b2a4'],
    planeRepeats: 2,
  });
  return { piece, store, modelGlb: null, thumbnailPng: null };
}
