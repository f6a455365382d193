/** Dabs: how fast strokes are, in the flat sheet and on the model. */
import { createCanvas } from '@napi-rs/canvas';
import { Coverage, falloffTable } from '../../src/core/hand/coverage';
import { dabFlat } from '../../src/core/hand/dabFlat';
import { dabSurface } from '../../src/core/hand/dabSurface';
import { drawnPicture } from '../../src/core/hand/pictures';
import { Imprint } from '../../src/core/hand/imprint';
import { Beside } from '../../src/core/hand/beside';
import { paint } from '../../src/core/hand/tools/paint';
import type { ToolContext } from '../../src/core/hand/tools/tool';
import { newSheet } from '../../src/core/document/factory';
import type { SurfaceHit } from '../../src/core/mesh/surfaceQuery';
import { PieceSurfaces } from '../../src/core/strata/pieceSurfaces';
import { TILE_TEXELS } from '../../src/core/tile/tiles';
import { seededRandom } from '../../src/core/testing/models';
import { lanternModel } from '../../demo/lantern';
import { result, type Result } from './result';
import { alternate } from './timing';

export const SIZE = 2048;
/** Dabs come in batches, as pointer events do; after each batch what they touched is laid onto the tiles. */
const BATCH = 16;

/** Places along wandering lines, as strokes are: neighbouring dabs overlap. */
function places(count: number): [number, number][] {
  const random = seededRandom(1);
  let [x, y, a] = [SIZE / 2, SIZE / 2, 0];
  return Array.from({ length: count }, () => {
    a += (random() - 0.5) * 0.4;
    x = Math.min(SIZE - 40, Math.max(40, x + Math.cos(a) * 8));
    y = Math.min(SIZE - 40, Math.max(40, y + Math.sin(a) * 8));
    if (x <= 40 || y <= 40 || x >= SIZE - 40 || y >= SIZE - 40) a += 2;
    return [x, y];
  });
}

const COLOUR = [0.8, 0.4, 0.1];

const sheet = newSheet('s', 'Sheet', SIZE, SIZE);
const context: ToolContext = {
  settings: {},
  maps: ['base-colour'],
  sheet,
  surface: null,
  beside: new Beside({ sheet, surface: null }),
  source: null,
  pattern: () => drawnPicture('made:rope')!,
  visible: () => ({ uniform: [0], data: null }),
  stored: () => null,
};

/** Dabs in batches, each batch laid onto 16-bit tiles: a stroke without its pointer. */
function strokeOf<T>(dabs: readonly T[], dab: (imprint: Imprint, at: T) => void): () => void {
  return () => {
    const coverage = new Coverage(SIZE, SIZE);
    const imprint = new Imprint(SIZE, SIZE);
    const tiles = new Map<number, Uint16Array>();
    const tool = paint.begin(context);
    dabs.forEach((at, n) => {
      dab(imprint, at);
      coverage.lay(imprint, 0.5, 1);
      imprint.clear();
      if (n % BATCH !== BATCH - 1) return;
      for (const t of coverage.dirty) {
        let after = tiles.get(t.index);
        if (!after) tiles.set(t.index, (after = new Uint16Array(TILE_TEXELS * 4)));
        const { x0, y0, x1, y1, values: coverage } = t;
        const what = {
          map: 'base-colour',
          tile: t.index,
          channels: 4,
          before: null,
          value: COLOUR,
          colours: null,
          amount: 1,
        } as const;
        tool.flush({ ...what, x0, y0, x1, y1, coverage, after });
      }
      coverage.clearDirty();
    });
  };
}

function flatDabs(): Result[] {
  const count = 4000;
  const at = places(count);
  const falloff = falloffTable(0);
  const subject = strokeOf(at, (imprint, [x, y]) =>
    dabFlat(imprint, { x, y, radiusTexels: 32 }, falloff, { wrapU: false, wrapV: false }),
  );
  // The same soft stamp, drawn by Skia at 8 bit.
  const stamp = createCanvas(64, 64);
  const pen = stamp.getContext('2d');
  const gradient = pen.createRadialGradient(32, 32, 0, 32, 32, 32);
  for (let i = 0; i <= 16; i++)
    gradient.addColorStop(i / 16, `rgba(204,102,26,${0.5 * falloff[Math.floor((i / 16) ** 2 * (falloff.length - 1))]})`);
  pen.fillStyle = gradient;
  pen.fillRect(0, 0, 64, 64);
  const canvas = createCanvas(SIZE, SIZE);
  const context = canvas.getContext('2d');
  const reference = () => {
    for (const [x, y] of at) context.drawImage(stamp, x - 32, y - 32);
    // Skia may put drawing off: reading a texel makes it happen.
    context.getImageData(0, 0, 1, 1);
  };
  const t = alternate(subject, reference);
  return [result('flat-dabs-r32', count / t.subject, 'dabs/s', '@napi-rs/canvas, same stamps, 8 bit', count / t.reference)];
}

export function lantern() {
  const model = lanternModel();
  const surfaces = new PieceSurfaces(model, 0);
  const sheet = newSheet('s', 'Metalwork', SIZE, SIZE, { materialIndex: 0 });
  return { model, surfaces, sheet };
}

function surfaceDabs(): Result[] {
  const { surfaces, sheet } = lantern();
  const { map, query } = surfaces.forSheet(sheet)!;
  const radius = 32 / map.texelsPerMetre;
  const random = seededRandom(2);
  const hits: SurfaceHit[] = [];
  // Wandering strokes, eight texels from dab to dab, a new one every 200: as a hand paints.
  const step = 8 / map.texelsPerMetre;
  for (let [a, y, turn] = [0, 0.2, 0]; hits.length < 3000;) {
    if (hits.length % 200 === 0) [a, y, turn] = [random() * Math.PI * 2, random() * 0.39, random() * Math.PI * 2];
    turn += (random() - 0.5) * 0.4;
    a += (Math.cos(turn) * step) / 0.1;
    y += Math.sin(turn) * step;
    const hit = query.raycast([Math.sin(a), y, Math.cos(a)], [-Math.sin(a), 0, -Math.cos(a)]);
    if (hit) hits.push(hit);
    else [a, y] = [random() * Math.PI * 2, random() * 0.39];
  }
  const falloff = falloffTable(0.3);
  const subject = strokeOf(hits, (imprint, hit) => dabSurface(imprint, map, query, { hit, radius, reach: 'connected' }, falloff));
  // The same number of dabs of the same size in the flat sheet: what the surface costs beside no surface.
  const at = places(hits.length);
  const reference = () => {
    const coverage = new Coverage(SIZE, SIZE);
    const imprint = new Imprint(SIZE, SIZE);
    for (const [x, y] of at) {
      dabFlat(imprint, { x, y, radiusTexels: 32 }, falloff, { wrapU: false, wrapV: false });
      coverage.lay(imprint, 0.5, 1);
      imprint.clear();
    }
  };
  const t = alternate(subject, reference);
  return [
    result(
      'surface-dabs-64',
      hits.length / t.subject,
      'dabs/s',
      'flat dabs without tiles, this machine',
      hits.length / t.reference,
    ),
  ];
}

export const DAB_MEASUREMENTS: Record<string, () => Result[]> = {
  'flat-dabs-r32': flatDabs,
  'surface-dabs-64': surfaceDabs,
};
