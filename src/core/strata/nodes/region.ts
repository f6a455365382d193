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
    const texels = surface.tiles.get(tile);
    if (!texels) return { uniform: [0, 1], data: null };
    const chosen = chosenFaces(surface, this.region);
    const { face, span } = runsOf(texels);
    // Off the islands anything will do.
    let ones = 0;
    for (let n = 0; n < face.length; n++) ones += chosen[face[n]];
    if (ones === 0 || ones === face.length) return { uniform: [ones > 0 ? 1 : 0, 1], data: null };
    const data = new Float32Array(TILE_TEXELS * 2).fill(1, TILE_TEXELS);
    for (let n = 0; n < face.length; n++) {
      if (!chosen[face[n]]) continue;
      data.fill(1, span[n * 2], span[n * 2 + 1]);
    }
    return { uniform: null, data };
  }
}

/** Texels of a tile on one face, one behind the other: the face, and where they begin and end. */
interface Runs {
  face: Int32Array;
  span: Int32Array;
}

const runs = new WeakMap<object, Runs>();

function runsOf(texels: { face: Int32Array }): Runs {
  let out = runs.get(texels);
  if (!out) {
    const face: number[] = [];
    const span: number[] = [];
    for (let i = 0; i < TILE_TEXELS;) {
      const from = i;
      const one = texels.face[i];
      while (i < TILE_TEXELS && texels.face[i] === one) i++;
      if (one < 0) continue;
      face.push(one);
      span.push(from, i);
    }
    runs.set(texels, (out = { face: Int32Array.from(face), span: Int32Array.from(span) }));
  }
  return out;
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
