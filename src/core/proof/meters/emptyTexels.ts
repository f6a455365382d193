/** Texels that the model or the canvas shows, and that no layer covers: there the map's ground shows through. */
import { COLOUR_MAP } from '../../kinds/maps';
import { programOfLayers } from '../../strata/program';
import { islandsOf } from '../../mesh/texels';
import { TILE, TILE_TEXELS, tilesOf, tileX, tileY, type TileIndex } from '../../tile/tiles';
import { largestPatches } from '../places';
import type { Meter, ModelUnder } from './meter';

/** Covered by less than a step of 8 bits: nothing of it is left in what is delivered. */
const EMPTY = 1 / 255;

/**
 * For each texel of a tile the island that its middle lies in, −1 for none: gutters, which nobody sees, do not count. null: no part of
 * the model lies on the tile.
 */
function islandsOn({ surface: { map, islands } }: ModelUnder, tile: TileIndex): Int32Array | null {
  const there = map.tiles.get(tile);
  return there ? islandsOf(map, islands.island, there) : null;
}

export const emptyTexels: Meter = {
  id: 'empty-texels',
  label: 'Empty texels',
  hint: 'Share of the texels on the model, or on the canvas, that no layer covers.',
  unit: '%',
  limit: 0,
  // In other maps an unpainted texel is right: nothing is raised, nothing leans, and roughness has its ground.
  maps: (sheet) => sheet.maps.filter((map) => map === COLOUR_MAP),
  remedy: 'Lay a coat below all other layers.',
  measure: ({ source, evaluator, under }, map) => {
    const { sheet } = source;
    const { width, height, wrapU, wrapV } = sheet;
    const scope = programOfLayers(
      sheet,
      map,
      sheet.layers.map((l) => l.id),
    );
    const marks = new Uint8Array(width * height);
    let [there, empty] = [0, 0];
    for (const tile of tilesOf(width, height)) {
      const onSurface = under && islandsOn(under, tile);
      if (under && !onSurface) continue;
      const value = evaluator.tile(scope, tile);
      const alphas = value.data?.subarray(scope.channels * TILE_TEXELS);
      const [left, top] = [tileX(tile) * TILE, tileY(tile) * TILE];
      for (let i = 0; i < TILE_TEXELS; i++) {
        const [x, y] = [left + (i % TILE), top + ((i / TILE) | 0)];
        if (x >= width || y >= height || (onSurface && onSurface[i] < 0)) continue;
        there++;
        if ((alphas ? alphas[i] : value.uniform!.at(-1)!) >= EMPTY) continue;
        empty++;
        marks[y * width + x] = 255;
      }
    }
    return {
      figure: there ? (100 * empty) / there : 0,
      picture: { width, height, channels: 1, bits: 8, data: marks },
      places: largestPatches({ width, height, marks, wrapU, wrapV }, under),
    };
  },
};
