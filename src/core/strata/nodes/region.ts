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
    const chosen = chosenFaces(surface, region);
    const data = new Float32Array(TILE_TEXELS * 2).fill(1, TILE_TEXELS);
    // Off the islands anything will do.
    let ones = 0;
    let zeros = 0;
    for (let i = 0; i < TILE_TEXELS; i++) {
      const face = faces[i];
      if (face < 0) continue;
      const value = chosen[face];
      data[i] = value;
      ones += value;
      zeros += 1 - value;
    }
    if (ones === 0 || zeros === 0) return { uniform: [ones > 0 ? 1 : 0, 1], data: null };
    return { uniform: null, data };
  }
}

const known = new WeakMap<Surface, Map<string, Uint8Array>>();

/** 1 for each face of the model that belongs to a region. */
function chosenFaces(surface: Surface, region: Region): Uint8Array {
  const all = known.get(surface) ?? known.set(surface, new Map()).get(surface)!;
  const key = JSON.stringify(region);
  let out = all.get(key);
  if (!out) {
    const ids = new Set(region.type === 'parts' ? region.names.map((n) => surface.parts.indexOf(n)) : region.ids);
    const of = { parts: surface.facePart, islands: surface.faceIsland, faces: null }[region.type];
    out = Uint8Array.from({ length: surface.facePart.length }, (_, f) => (ids.has(of ? of[f] : f) ? 1 : 0));
    if (all.size >= MOST_KNOWN) all.delete(all.keys().next().value!);
    all.set(key, out);
  }
  return out;
}

/** Regions of a document are few; those of a selection that grows come and go. */
const MOST_KNOWN = 32;
