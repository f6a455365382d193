/** What a map's picture hangs on: which painted planes, how far it looks around, and a signature of each tile as drawn. */
import { type Sheet } from '../document/schema';
import { tileIndex, tilesAcross, tileX, tileY, type TileIndex } from '../tile/tiles';
import type { Look } from './displayPlanes';
import type { PlaneId } from '../kinds/shown';
import { FENCE_LOOK, maskOf } from './displayPlanes';
import { NORMAL_FROM, PLANES } from '../kinds/shown';
import type { Evaluator } from './evaluator';
import { programOf, programOfBake } from './program';
import { reachOf, type Scope } from './scope';
import { mixSignature, numberSignature, textSignature, type Signature } from './signature';

export interface Dependence {
  planes: ReadonlySet<string>;
  /** Texels that a change spreads at most. */
  reach: number;
}

const known = new WeakMap<Scope, Dependence>();

export function dependenceOf(scope: Scope): Dependence {
  let found = known.get(scope);
  if (found) return found;
  const planes = new Set<string>();
  let reach = 0;
  let inner = 0;
  const take = (other: Scope, around = 0) => {
    const below = dependenceOf(other);
    below.planes.forEach((p) => planes.add(p));
    inner = Math.max(inner, below.reach + around);
  };
  for (const op of scope.ops) {
    if (op.mask?.painted) planes.add(op.mask.painted.plane);
    else if (op.mask) take(op.mask.scope);
    if (op.type === 'adjust' && op.passes) {
      const { rx, ry, dx, dy } = reachOf(op.passes);
      reach += Math.max(rx + Math.abs(dx), ry + Math.abs(dy));
      if (op.aux) take(op.aux);
    }
    if (op.type !== 'blend') continue;
    for (const plane of op.source.planes) planes.add(plane);
    for (const { scope: other, around } of op.source.scopes) take(other, around);
  }
  known.set(scope, (found = { planes, reach: reach + inner }));
  return found;
}

/** Equal signatures: the plane looks the same on this tile. */
export function planeSignature(
  evaluator: Evaluator,
  sheet: Sheet,
  plane: PlaneId,
  tile: TileIndex,
  look: Look | null,
): Signature {
  const of = (map: Parameters<typeof programOf>[1], t: TileIndex) => {
    const scope = programOf(sheet, map);
    return evaluator.signature(scope, scope.ops.length, t);
  };
  if (plane === 'normal') {
    let out = mixSignature(of(NORMAL_FROM.directions, tile), textSignature(`${sheet.heightSpan} ${sheet.normalKernel}`));
    for (const near of neighbours(sheet, tile)) out = mixSignature(out, of(NORMAL_FROM.relief, near));
    return out;
  }
  if (plane === 'fence') {
    const use = maskOf(sheet, FENCE_LOOK.maskId, FENCE_LOOK.layerId);
    return use ? evaluator.maskSignature(use, tile) : numberSignature(3);
  }
  if (plane !== 'view') return PLANES[plane].maps.reduce((s, map) => mixSignature(s, of(map, tile)), numberSignature(1));
  if (!look) return numberSignature(0);
  if (look.kind === 'map') return mixSignature(of(look.map, tile), 2);
  if (look.kind === 'bake') {
    const scope = programOfBake(sheet, look.picture);
    return mixSignature(evaluator.signature(scope, scope.ops.length, tile), 4);
  }
  const use = maskOf(sheet, look.maskId, look.layerId);
  return use ? evaluator.maskSignature(use, tile) : numberSignature(3);
}

/** The tile and the eight around it; beyond the border only where the sheet wraps. */
function neighbours(sheet: Sheet, tile: TileIndex): TileIndex[] {
  const across = tilesAcross(sheet.width);
  const down = tilesAcross(sheet.height);
  const out: TileIndex[] = [];
  for (let dy = -1; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++) {
      let x = tileX(tile) + dx;
      let y = tileY(tile) + dy;
      if (sheet.wrapU) x = (x + across) % across;
      if (sheet.wrapV) y = (y + down) % down;
      if (x >= 0 && y >= 0 && x < across && y < down) out.push(tileIndex(x, y));
    }
  return out;
}
