/** Strokes on a small canvas and on a cube, for tests of brushes and tools. */
import { shareMemory } from '../compute';
import { brushSchema, type Brush } from '../hand/brush';
import type { FlatSample, ModelSample, Sample } from '../hand/sample';
import { Stroke } from '../hand/stroke';
import type { StrokeContext } from '../hand/context';
import { newPaintedLayer, newSheet } from '../document/factory';
import type { Sheet } from '../document/schema';
import { storedChannels, type MapId } from '../kinds/maps';
import type { Model } from '../mesh/model';
import { PieceSurfaces } from '../strata/pieceSurfaces';
import { newTexels, TILE, tileIndex, TILE_TEXELS, TileStore } from '../tile/tiles';

// As the engine has it: kernels work on strokes in place.
shareMemory(() => 0);

export const flatSample = (x: number, y: number, over: Partial<FlatSample> = {}): FlatSample => ({
  ...{ pane: 'flat', x, y, texelsPerPixel: 1, pressure: 1, tiltX: 0, tiltY: 0, time: 0 },
  ...over,
});

/** A ray from `eye` to a place. */
export function rayTo(eye: [number, number, number], place: readonly number[], over: Partial<ModelSample> = {}): ModelSample {
  const d = place.map((v, k) => v - eye[k]);
  const direction = d.map((v) => v / Math.hypot(...d)) as [number, number, number];
  return { pane: 'model', origin: eye, direction, pixelSpread: 0.001, pressure: 1, tiltX: 0, tiltY: 0, time: 0, ...over };
}

export const brushFor = (over: object): Brush =>
  brushSchema.parse({ smoothing: 0, flow: 1, hardness: 1, size: 20, vary: [], ...over });

export interface Easel {
  sheet: Sheet;
  store: TileStore;
  surface: StrokeContext['surface'];
}

export function canvasEasel(side: number, wrap = false): Easel {
  const sheet = newSheet('s', 'Sheet', side, side, { wrapU: wrap, wrapV: wrap });
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  return { sheet, store: new TileStore(), surface: null };
}

export function modelEasel(model: Model, side: number): Easel {
  const sheet = newSheet('s', 'Sheet', side, side, { materialIndex: 0 });
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  return { sheet, store: new TileStore(), surface: new PieceSurfaces(model, 0).forSheet(sheet) };
}

/** Strokes, sample by sample. `parts`: laid down after each sample. */
export function strokeOn(easel: Easel, brush: Brush, samples: readonly Sample[], seed = 1, parts = false): Stroke {
  const stroke = new Stroke({ ...easel, layerId: 'l', seed }, brush);
  for (const sample of samples) {
    stroke.add([sample]);
    if (parts) stroke.flush();
  }
  stroke.end();
  stroke.flush();
  return stroke;
}

/** A stored texel, 0 … 1 a channel. */
export function texel({ store }: Easel, map: MapId, x: number, y: number): number[] {
  const channels = storedChannels(map);
  const data = store.data(`l/${map}`, tileIndex(x >> 7, y >> 7));
  const o = ((y & 127) * TILE + (x & 127)) * channels;
  return Array.from({ length: channels }, (_, k) => (data ? data[o + k] / 65535 : 0));
}

/** Paints a map texel by texel; all channels 0 … 1. */
export function fillWith({ sheet, store }: Easel, map: MapId, at: (x: number, y: number) => readonly number[]): void {
  const channels = storedChannels(map);
  for (let ty = 0; ty * TILE < sheet.height; ty++)
    for (let tx = 0; tx * TILE < sheet.width; tx++) {
      const data = newTexels(TILE_TEXELS * channels);
      for (let i = 0; i < TILE_TEXELS; i++) {
        const [x, y] = [tx * TILE + (i % TILE), ty * TILE + Math.floor(i / TILE)];
        if (x < sheet.width && y < sheet.height)
          data.set(
            at(x, y).map((v) => Math.round(v * 65535)),
            i * channels,
          );
      }
      store.set(`l/${map}`, tileIndex(tx, ty), { data, hash: null });
    }
}

/** All stored texels of a map, row by row, as they are stored. */
export function texelsOf({ sheet, store }: Easel, map: MapId): Uint16Array {
  const channels = storedChannels(map);
  const out = new Uint16Array(sheet.width * sheet.height * channels);
  for (let y = 0; y < sheet.height; y++)
    for (let x = 0; x < sheet.width; x += TILE) {
      const data = store.data(`l/${map}`, tileIndex(x >> 7, y >> 7));
      const columns = Math.min(TILE, sheet.width - x);
      if (data)
        out.set(
          data.subarray((y & 127) * TILE * channels, ((y & 127) * TILE + columns) * channels),
          (y * sheet.width + x) * channels,
        );
    }
  return out;
}
