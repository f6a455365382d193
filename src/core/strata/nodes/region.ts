/** 1 on some parts, islands or faces of the model; nothing on a canvas. */
import type { Region } from '../../kinds/steps/step';
import { TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import type { Surface } from '../surface';
import type { TileValue } from '../tileCache';
import { PlaceNode } from './place';

export class RegionNode extends PlaceNode {
  constructor(private readonly region: Region) {
    super(`region ${JSON.stringify(region)}`);
  }

  protected tile(surface: Surface, tile: TileIndex): TileValue {
    const faces = surface.tiles.get(tile)?.face;
    if (!faces) return { uniform: [0, 1], data: null };
    const { region } = this;
    const chosen = new Set(region.type === 'parts' ? region.names.map((n) => surface.parts.indexOf(n)) : region.ids);
    const of = { parts: surface.facePart, islands: surface.faceIsland, faces: null }[region.type];
    const data = new Float32Array(TILE_TEXELS * 2).fill(1, TILE_TEXELS);
    // Faces that are the same as the texel before are not looked up again; off the islands anything will do.
    let [last, value, ones, zeros] = [-1, 0, 0, 0];
    for (let i = 0; i < TILE_TEXELS; i++) {
      const face = faces[i];
      if (face < 0) continue;
      if (face !== last) value = chosen.has(of ? of[face] : face) ? 1 : 0;
      last = face;
      data[i] = value;
      if (value) ones++;
      else zeros++;
    }
    if (ones === 0 || zeros === 0) return { uniform: [ones > 0 ? 1 : 0, 1], data: null };
    return { uniform: null, data };
  }
}
