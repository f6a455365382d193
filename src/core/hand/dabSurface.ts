/**
 * A dab on the surface: a tip in space (a round one is a ball), evaluated at every texel's own place. UV seams do not exist
 * here. Far sides of thin parts are left out by the planes of their faces, neighbouring parts by connection.
 */
import {
  visitTriangle,
  BLOCK,
  BLOCKS_PER_SIDE,
  BLOCKS_PER_TILE,
  type SurfaceMap,
  type SurfaceTile,
  surfacePoint,
} from '../mesh/surfaceMap';
import { distanceToFace2, type SurfaceHit, type SurfaceQuery } from '../mesh/surfaceQuery';
import { TILE, tileIndex } from '../tile/tiles';
import { FALLOFF_STEPS } from './coverage';
import type { Imprint, ImprintTile } from './imprint';
import { isPlain, prepareTip, reachInSpace, tipShare, type DabTip, type PreparedTip, type TipFrame } from './tip';

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

/** The tip of the dab at hand, turned and in radii: what of an offset in metres is across it, along it, out of it. */
interface Turned {
  tip: PreparedTip;
  u: readonly [number, number, number];
  v: readonly [number, number, number];
  w: readonly [number, number, number];
}

function turned({ tip, frame, radius }: SurfaceDab, falloff: Float32Array, texelsPerMetre: number): Turned | null {
  if (!tip || !frame || isPlain(tip)) return null;
  const { right, down, out } = frame;
  const c = Math.cos(tip.angle);
  const s = Math.sin(tip.angle);
  const of = (k: number, a: number, b: number) => a * right[k] + b * down[k];
  const vector = (make: (k: number) => number): [number, number, number] => [make(0), make(1), make(2)];
  return {
    tip: prepareTip(tip, radius * texelsPerMetre, falloff),
    u: vector((k) => of(k, c, s) / radius),
    v: vector((k) => of(k, -s, c) / (radius * tip.roundness)),
    w: vector((k) => out[k] / radius),
  };
}

/**
 * Facing, by normals as they are shaded: a right-angled edge (cosine 0) still gets all; between −0.1 and −0.5 it fades, so
 * that round rods have no hard line.
 */
const FACING_FULL = -0.1;
const FACING_NONE = -0.5;
/**
 * Facing, by the planes of faces: however its normals are shaded, the back of a sheet (cosine −1) gets nothing, nor does
 * that of a wedge up to 30°.
 */
const PLANES_FULL = -0.6;
const PLANES_NONE = -0.85;
/** Gutters are taken to be up to so many times as long on the model as those of the sheet's mean density. */
const GUTTER_STRETCH = 2;

/** Added to the shares of faces whose texels need not be asked for their normals. */
const BENT = 2;

/** What a face gets of the dab at hand, and where the dab looks from. */
class Facing {
  /** Shares of faces, where their stamp is the dab's turn. */
  turn = 0;
  readonly stamp: Uint32Array;
  readonly shares: Float32Array;
  /** The dab's normal as shaded, and that of its face's plane. */
  nx = 0;
  ny = 0;
  nz = 0;
  private px = 0;
  private py = 0;
  private pz = 0;

  constructor(private query: SurfaceQuery) {
    this.stamp = new Uint32Array(query.bent.length);
    this.shares = new Float32Array(query.bent.length);
  }

  aim({ face, barycentric: [w0, w1, w2] }: SurfaceHit): void {
    const { query } = this;
    this.turn++;
    this.nx = this.px = query.faceNormal[face * 3];
    this.ny = this.py = query.faceNormal[face * 3 + 1];
    this.nz = this.pz = query.faceNormal[face * 3 + 2];
    if (query.bent[face]) return;
    surfacePoint(query.model, face, w0, w1, w2, scratch);
    this.nx = scratch[3];
    this.ny = scratch[4];
    this.nz = scratch[5];
  }

  /** 0 … 1 by the planes; of a bent face by its own normal alone, and BENT more; 0 of what is hidden. */
  ofFace(f: number): number {
    if (this.stamp[f] === this.turn) return this.shares[f];
    this.stamp[f] = this.turn;
    return (this.shares[f] = this.query.isHidden(f) ? 0 : this.worked(f));
  }

  private worked(f: number): number {
    const { faceNormal: n, bent } = this.query;
    const [x, y, z] = [n[f * 3], n[f * 3 + 1], n[f * 3 + 2]];
    const planes = fade(x * this.px + y * this.py + z * this.pz, PLANES_FULL, PLANES_NONE);
    if (planes === 0 || !bent[f]) return planes;
    const share = Math.min(planes, this.ofNormal(x, y, z));
    return share === 0 ? 0 : share + BENT;
  }

  /** 0 … 1 by a normal as shaded. */
  ofNormal(x: number, y: number, z: number): number {
    const cosine = x * this.nx + y * this.ny + z * this.nz;
    return cosine >= FACING_FULL ? 1 : fade(cosine, FACING_FULL, FACING_NONE);
  }
}
const scratch = new Float32Array(6);

function fade(cosine: number, full: number, none: number): number {
  if (cosine >= full) return 1;
  if (cosine <= none) return 0;
  const t = (cosine - none) / (full - none);
  return t * t * (3 - 2 * t);
}

const facings = new WeakMap<SurfaceQuery, Facing>();
function facingOf(query: SurfaceQuery): Facing {
  let facing = facings.get(query);
  if (!facing) facings.set(query, (facing = new Facing(query)));
  return facing;
}

export function dabSurface(imprint: Imprint, map: SurfaceMap, query: SurfaceQuery, dab: SurfaceDab, falloff: Float32Array): void {
  const [x, y, z] = dab.hit.point;
  const tip = turned(dab, falloff, map.texelsPerMetre);
  const reach = tip ? dab.radius * reachInSpace(dab.tip!) : dab.radius;
  const radius2 = reach * reach;
  const facing = facingOf(query);
  facing.aim(dab.hit);
  const beyond = (GUTTER_STRETCH * map.gutterTexels) / map.texelsPerMetre;
  const included = dab.reach === 'connected' ? query.floodBall(dab.hit.face, x, y, z, reach, beyond) : 0;
  const sharing = shadowedFaces(map).filter((f) =>
    included ? query.stamp[f] === included : !query.isHidden(f) && distanceToFace2(query.model, f, x, y, z) < radius2,
  );
  for (const f of sharing) dabOnSharedFace(imprint, map, query, dab, tip, falloff, facing, f);
  const { tileList, faceBlockStart, faceBlocks } = map;
  if (included) {
    const { turn, stamp } = nextTurn(map);
    for (const f of query.included) facing.ofFace(f);
    for (const f of query.included) {
      if (facing.ofFace(f) === 0) continue;
      for (let n = faceBlockStart[f]; n < faceBlockStart[f + 1]; n++) {
        const id = faceBlocks[n];
        if (stamp[id] === turn) continue;
        stamp[id] = turn;
        const tile = tileList[(id / BLOCKS_PER_TILE) | 0];
        const b = id % BLOCKS_PER_TILE;
        if (boxDistance2(tile.blockBounds, b * 6, x, y, z) < radius2)
          dabInBlock(imprint, tile, b, dab, tip, reach, falloff, facing, true);
      }
    }
  } else
    for (const tile of tileList) {
      if (boxDistance2(tile.bounds, 0, x, y, z) >= radius2) continue;
      for (let b = 0; b < BLOCKS_PER_TILE; b++)
        if (boxDistance2(tile.blockBounds, b * 6, x, y, z) < radius2)
          dabInBlock(imprint, tile, b, dab, tip, reach, falloff, facing, false);
    }
}

/** Blocks that the current dab has visited already: two faces often share one. */
const seenLists = new WeakMap<SurfaceMap, { turn: number; stamp: Uint32Array }>();
function nextTurn(map: SurfaceMap): { turn: number; stamp: Uint32Array } {
  let seen = seenLists.get(map);
  if (!seen) seenLists.set(map, (seen = { turn: 0, stamp: new Uint32Array(map.tileList.length * BLOCKS_PER_TILE) }));
  seen.turn++;
  return seen;
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

function boxDistance2(b: Float32Array, o: number, x: number, y: number, z: number): number {
  // An empty box (min > max) is infinitely far: Infinity − x stays Infinity.
  const dx = x < b[o] ? b[o] - x : x > b[o + 3] ? x - b[o + 3] : 0;
  const dy = y < b[o + 1] ? b[o + 1] - y : y > b[o + 4] ? y - b[o + 4] : 0;
  const dz = z < b[o + 2] ? b[o + 2] - z : z > b[o + 5] ? z - b[o + 5] : 0;
  return dx * dx + dy * dy + dz * dz;
}

/** `connected`: only faces whose shares are known already may be touched, else all that are not hidden. */
function dabInBlock(
  imprint: Imprint,
  tile: SurfaceTile,
  b: number,
  dab: SurfaceDab,
  tip: Turned | null,
  reach: number,
  falloff: Float32Array,
  facing: Facing,
  connected: boolean,
): void {
  const { point } = dab.hit;
  const x = point[0];
  const y = point[1];
  const z = point[2];
  const radius2 = reach * reach;
  const scale = FALLOFF_STEPS / radius2;
  const { position, normal, face } = tile;
  const { stamp: shareStamp, shares, turn } = facing;
  const nx = facing.nx / 127;
  const ny = facing.ny / 127;
  const nz = facing.nz / 127;
  const column = (b % BLOCKS_PER_SIDE) * BLOCK;
  const top = ((b / BLOCKS_PER_SIDE) | 0) * BLOCK;
  let target: ImprintTile | null = null;
  for (let row = top; row < top + BLOCK; row++) {
    const end = row * TILE + column + BLOCK;
    for (let i = row * TILE + column; i < end; i++) {
      const o = i * 3;
      const dx = position[o] - x;
      const dy = position[o + 1] - y;
      const dz = position[o + 2] - z;
      const d2 = dx * dx + dy * dy + dz * dz;
      // Also false for NaN, which is where no face is.
      if (!(d2 < radius2)) continue;
      const f = face[i];
      let share = 0;
      if (shareStamp[f] === turn) share = shares[f];
      else if (!connected) share = facing.ofFace(f);
      if (share === 0) continue;
      if (share >= BENT) share -= BENT;
      else {
        const cosine = normal[o] * nx + normal[o + 1] * ny + normal[o + 2] * nz;
        if (cosine < FACING_FULL) {
          const round = fade(cosine, FACING_FULL, FACING_NONE);
          if (round === 0) continue;
          if (round < share) share = round;
        }
      }
      const given = share * (tip === null ? falloff[(d2 * scale) | 0] : placeInTip(tip, dx, dy, dz));
      if (target === null) target = imprint.tile(tile.x, tile.y);
      if (given > target.values[i]) target.values[i] = given;
    }
  }
  if (target !== null) imprint.touch(target, column, top, column + BLOCK, top + BLOCK);
}

/** What a tip gives at an offset in metres. */
const placeInTip = ({ tip, u, v, w }: Turned, x: number, y: number, z: number): number =>
  tipShare(tip, x * u[0] + y * u[1] + z * u[2], x * v[0] + y * v[1] + z * v[2], x * w[0] + y * w[1] + z * w[2]);

/** Faces that share their texels with others (overlapping or mirrored UVs) have no entry of their own in the map. */
function dabOnSharedFace(
  imprint: Imprint,
  map: SurfaceMap,
  query: SurfaceQuery,
  dab: SurfaceDab,
  tip: Turned | null,
  falloff: Float32Array,
  facing: Facing,
  f: number,
): void {
  const ofFace = facing.ofFace(f);
  if (ofFace === 0) return;
  const point = new Float32Array(6);
  const [x, y, z] = dab.hit.point;
  const scale = 1 / (dab.radius * dab.radius);
  visitTriangle(map, f, (tx, ty, w0, w1, w2) => {
    surfacePoint(query.model, f, w0, w1, w2, point);
    const [dx, dy, dz] = [point[0] - x, point[1] - y, point[2] - z];
    const d2 = (dx * dx + dy * dy + dz * dz) * scale;
    const inTip = tip ? placeInTip(tip, dx, dy, dz) : d2 < 1 ? falloff[(d2 * FALLOFF_STEPS) | 0] : 0;
    if (inTip === 0) return;
    const i = (ty % TILE) * TILE + (tx % TILE);
    const owner = map.tiles.get(tileIndex((tx / TILE) | 0, (ty / TILE) | 0));
    if (owner?.face[i] === f) return;
    const share = ofFace >= BENT ? ofFace - BENT : Math.min(ofFace, facing.ofNormal(point[3], point[4], point[5]));
    const given = inTip * share;
    if (given === 0) return;
    const tile = imprint.tile((tx / TILE) | 0, (ty / TILE) | 0);
    if (given > tile.values[i]) tile.values[i] = given;
    imprint.touch(tile, tx % TILE, ty % TILE, (tx % TILE) + 1, (ty % TILE) + 1);
  });
}
