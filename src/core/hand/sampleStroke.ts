/** What a brush looks like: one calm stroke, pressed lightly at its ends and hard in its middle. */
import { COLOUR_MAP } from '../kinds/maps';
import { newPaintedLayer, newSheet } from '../document/factory';
import { planeKey } from '../document/planes';
import { TILE, TileStore, tileX } from '../tile/tiles';
import type { Brush } from './brush';
import type { FlatSample } from './sample';
import { drawnPicture, type Pictures } from './pictures';
import { Stroke } from './stroke';

/** Texels of the picture. */
export const SAMPLE_WIDTH = 320;
export const SAMPLE_HEIGHT = 64;
/** A tip larger than this is shown smaller, so that its stroke is still seen as one. */
const MOST_SIZE = 36;
const LEAST_SIZE = 3;
const POINTS = 48;
const MARGIN = 22;

function way(): FlatSample[] {
  return Array.from({ length: POINTS }, (_, n) => {
    const t = n / (POINTS - 1);
    const x = MARGIN + t * (SAMPLE_WIDTH - 2 * MARGIN);
    const y = SAMPLE_HEIGHT / 2 + Math.sin(t * Math.PI * 2) * (SAMPLE_HEIGHT / 2 - MARGIN);
    const tilt = 20 + 40 * t;
    return { pane: 'flat', x, y, texelsPerPixel: 1, pressure: Math.sin(Math.PI * t), tiltX: tilt, tiltY: 0, time: n * 16 };
  });
}

/** Lengths on the surface as they are beside the tip's size, which is the same in the picture. */
function inDiameters(brush: Brush): Brush['vary'] {
  return brush.vary.map((line) =>
    line.unit === 'millimetres' && brush.sizeUnit === 'model'
      ? { ...line, unit: 'diameters', over: Math.max(0.1, line.over / brush.size) }
      : line,
  );
}

/** Of a texture so much of the picture is one repeat: the picture has no size on a surface. */
const TEXTURE_TEXELS = 72;

function besideTip({ texture }: Brush): Brush['texture'] {
  if (!texture || texture.fix === 'tip') return texture;
  return { ...texture, fix: 'sheet', size: (TEXTURE_TEXELS / SAMPLE_WIDTH) * 1000 };
}

/** RGBA, straight alpha, 8 bit in the sRGB curve, row by row. */
export function sampleStroke(brush: Brush, seed = 1, pictures: Pictures = drawnPicture): Uint8ClampedArray<ArrayBuffer> {
  const sheet = newSheet('sample', 'Sample', SAMPLE_WIDTH, SAMPLE_HEIGHT, { wrapU: false, wrapV: false });
  sheet.layers = [newPaintedLayer('l', 'Sample')];
  const store = new TileStore();
  const value = brush.writes[COLOUR_MAP]?.value ?? [0.2, 0.2, 0.2];
  const shown: Brush = {
    ...brush,
    mode: 'paint',
    size: Math.min(MOST_SIZE, Math.max(LEAST_SIZE, brush.size)),
    sizeUnit: 'screen',
    vary: inDiameters(brush),
    texture: besideTip(brush),
    mirror: undefined,
    source: undefined,
    writes: { [COLOUR_MAP]: { on: true, value, amount: 1 } },
  };
  const stroke = new Stroke({ sheet, layerId: 'l', store, surface: null, seed, pictures }, shown);
  stroke.add(way());
  stroke.end();
  stroke.flush();
  const out = new Uint8ClampedArray(SAMPLE_WIDTH * SAMPLE_HEIGHT * 4);
  // It is one tile high.
  for (const [tile, { data }] of store.tilesOf(planeKey('l', COLOUR_MAP))) {
    const left = tileX(tile) * TILE;
    const columns = Math.min(TILE, SAMPLE_WIDTH - left);
    for (let y = 0; y < SAMPLE_HEIGHT; y++)
      for (let n = 0, from = y * TILE * 4, to = (y * SAMPLE_WIDTH + left) * 4; n < columns * 4; n++)
        out[to + n] = data![from + n] / 257;
  }
  return out;
}
