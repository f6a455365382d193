/**
 * A dab on the surface: a tip in space (a round one is a ball), evaluated at every texel's own place. UV seams do not exist
 * here. Far sides of thin parts are left out by the planes of their faces, neighbouring parts by connection.
 */
import type { SpaceFrame, SurfaceDabShape } from '../../kernels/dabs';
import { facingOfFace, facingOfNormal, givenInSpace } from '../../kernels/dabShares';
import { boxDistance2, distanceToFace2 } from '../../kernels/distances';
import { kernels } from '../kernels';
import { visitTriangle, surfacePoint } from '../mesh/surfaceMap/corners';
import { BLOCKS_PER_TILE, type SurfaceMap, type SurfaceTile } from '../mesh/surfaceMap/surfaceMap';
import type { SurfaceHit, SurfaceQuery } from '../mesh/surfaceQuery';
import { lasting, TILE, tileIndex } from '../tile/tiles';
import type { Imprint } from './imprint';
import { isPlain, prepareTip, reachInSpace, type DabTip, type TipFrame } from './tip';

export interface SurfaceDab {
  hit: SurfaceHit;
  /** Metres. */
  radius: number;
  reach: 'connected' | 'all';
  /** Left out: a plain ball. */
  tip?: DabTip;
  /** The tip's frame before it is turned: to the right and down as seen by the eye, unit. Only a tip needs it. */
  frame?: TipFrame;
}

/** Gutters are taken to be up to so many times as long on the model as those of the sheet's mean density. */
const GUTTER_STRETCH = 2;

const PLAIN: DabTip = { shape: 'round', roundness: 1, angle: 0 };

/** What of an offset in metres is across the tip, along it, out of it, in radii. */
function framed({ angle, roundness }: DabTip, { right, down, out }: TipFrame, radius: number): SpaceFrame {
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const short = radius * roundness;
  return [
    ...right.map((v, k) => (c * v + s * down[k]) / radius),
    ...right.map((v, k) => (c * down[k] - s * v) / short),
    ...out.map((v) => v / radius),
  ];
}

/** A dab as the kernels have it: where it looks from is the normal as shaded at its middle, and that of its face's plane. */
function shapeOf(
  dab: SurfaceDab,
  query: SurfaceQuery,
  texelsPerMetre: number,
  falloff: Float32Array,
): SurfaceDabShape & { included: number } {
  const { hit, radius, frame } = dab;
  const tip = dab.tip && frame && !isPlain(dab.tip) ? dab.tip : null;
  const [x, y, z] = hit.point;
  const { faceNormal, bent } = query;
  const o = hit.face * 3;
  const plane = [faceNormal[o], faceNormal[o + 1], faceNormal[o + 2]];
  let normal = plane;
  if (!bent[hit.face]) {
    const [w0, w1, w2] = hit.barycentric;
    surfacePoint(query.model, hit.face, w0, w1, w2, scratch);
    normal = [scratch[3], scratch[4], scratch[5]];
  }
  return {
    x,
    y,
    z,
    radius,
    plane,
    normal,
    reach: tip ? radius * reachInSpace(tip) : radius,
    tip: prepareTip(tip ?? PLAIN, radius * texelsPerMetre, falloff),
    frame: tip && framed(tip, frame!, radius),
    faces: query,
    included: 0,
  };
}
const scratch = new Float32Array(6);

export function dabSurface(imprint: Imprint, map: SurfaceMap, query: SurfaceQuery, dab: SurfaceDab, falloff: Float32Array): void {
  const shape = shapeOf(dab, query, map.texelsPerMetre, falloff);
  const { x, y, z, reach } = shape;
  const reach2 = reach * reach;
  const beyond = (GUTTER_STRETCH * map.gutterTexels) / map.texelsPerMetre;
  const included = dab.reach === 'connected' ? query.floodBall(dab.hit.face, x, y, z, reach, beyond) : 0;
  shape.included = included;
  for (const f of shadowedFaces(map))
    if (included ? query.stamp[f] === included : distanceToFace2(query.model, f, x, y, z) < reach2)
      dabOnSharedFace(imprint, map, query, shape, f);
  const k = kernels();
  for (const { tile, blocks } of blocksOf(map, query, shape)) {
    const target = imprint.tile(tile.x, tile.y);
    const touched = { x0: TILE, y0: TILE, x1: 0, y1: 0 };
    k.dabOnSurface(target.values, tile, blocks, shape, touched);
    blocks.length = 0;
    if (touched.x0 < touched.x1) imprint.touch(target, touched.x0, touched.y0, touched.x1, touched.y1);
    else imprint.forget(target);
  }
}

interface Blocks {
  tile: SurfaceTile;
  /** Numbers within the tile. */
  blocks: number[];
}

/** What dabs on a map look blocks up with. */
interface Visiting {
  turn: number;
  lists: Blocks[];
  /** The map's blocks. `seen`: for each block, the last turn that looked at it. `near`: numbers of the blocks that this turn has found. */
  scratch: Pick<SurfaceMap, 'faceBlockStart' | 'faceBlocks' | 'blockBounds'> & { seen: Uint32Array; near: Uint32Array };
}
const visitings = new WeakMap<SurfaceMap, Visiting>();

function newVisiting({ tileList, faceBlockStart, faceBlocks, blockBounds }: SurfaceMap): Visiting {
  const blocks = tileList.length * BLOCKS_PER_TILE;
  const seen = lasting(Uint32Array, blocks).fill(0);
  const near = lasting(Uint32Array, blocks);
  const lists = tileList.map((tile) => ({ tile, blocks: [] }));
  return { turn: 0, lists, scratch: { faceBlockStart, faceBlocks, blockBounds, seen, near } };
}

/** Blocks that a dab may reach, each once, tile by tile. */
function blocksOf(map: SurfaceMap, query: SurfaceQuery, { included, x, y, z, reach }: SurfaceDabShape): Blocks[] {
  let visiting = visitings.get(map);
  if (!visiting) visitings.set(map, (visiting = newVisiting(map)));
  const { lists, scratch } = visiting;
  const found: Blocks[] = [];
  const note = (id: number) => {
    const list = lists[(id / BLOCKS_PER_TILE) | 0];
    if (list.blocks.length === 0) found.push(list);
    list.blocks.push(id % BLOCKS_PER_TILE);
  };
  if (included) {
    const count = kernels().nearBlocks(scratch, query.reached, query.reachedCount, ++visiting.turn, x, y, z, reach);
    for (let n = 0; n < count; n++) note(scratch.near[n]);
    return found;
  }
  const reach2 = reach * reach;
  map.tileList.forEach(({ bounds }, n) => {
    if (boxDistance2(bounds, 0, x, y, z) >= reach2) return;
    for (let id = n * BLOCKS_PER_TILE; id < (n + 1) * BLOCKS_PER_TILE; id++)
      if (boxDistance2(map.blockBounds, id * 6, x, y, z) < reach2) note(id);
  });
  return found;
}

const shadowedLists = new WeakMap<SurfaceMap, number[]>();
function shadowedFaces(map: SurfaceMap): number[] {
  let list = shadowedLists.get(map);
  if (!list) {
    list = [];
    for (let f = 0; f < map.shadowed.length; f++) if (map.shadowed[f]) list.push(f);
    shadowedLists.set(map, list);
  }
  return list;
}

/** Faces that share their texels with others (overlapping or mirrored UVs) have no entry of their own in the map. */
function dabOnSharedFace(imprint: Imprint, map: SurfaceMap, query: SurfaceQuery, dab: SurfaceDabShape, f: number): void {
  const ofFace = facingOfFace(dab, f);
  if (ofFace === 0) return;
  const point = new Float32Array(6);
  const reach2 = dab.reach * dab.reach;
  visitTriangle(map, f, (tx, ty, w0, w1, w2) => {
    surfacePoint(query.model, f, w0, w1, w2, point);
    const [dx, dy, dz] = [point[0] - dab.x, point[1] - dab.y, point[2] - dab.z];
    if (!(dx * dx + dy * dy + dz * dz < reach2)) return;
    const i = (ty % TILE) * TILE + (tx % TILE);
    const owner = map.tiles.get(tileIndex((tx / TILE) | 0, (ty / TILE) | 0));
    if (owner?.face[i] === f) return;
    const share = query.bent[f] ? ofFace : Math.min(ofFace, facingOfNormal(dab, point[3], point[4], point[5]));
    const given = givenInSpace(dab, dx, dy, dz) * share;
    if (given === 0) return;
    const tile = imprint.tile((tx / TILE) | 0, (ty / TILE) | 0);
    if (given > tile.values[i]) tile.values[i] = given;
    imprint.touch(tile, tx % TILE, ty % TILE, (tx % TILE) + 1, (ty % TILE) + 1);
  });
}
