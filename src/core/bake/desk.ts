/** Where a thread bakes: models that it has read, and what was made of them, kept while they are used. */
import { BAKE_VERSION, bakeSpecSchema, specText, type BakeSpec, type TwinUse } from '../kinds/bakes/spec';
import type { Model } from '../mesh/model';
import { buildSurfaceMap } from '../mesh/surfaceMap/build';
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import { buildIslands, buildTopology, type Islands } from '../mesh/topology';
import type { Bitmap } from '../tile/bitmap';
import type { TileIndex } from '../tile/tiles';
import { Baker, type BakedTile } from './bake';
import { fitTwin, type Fit } from './fit';
import { Ground } from '../rays/ground';
import { matchingOf } from './matching';
import { placed } from './place';
import { Projector, type Reach } from './project';
import { Share, type Painted } from './share';

/** Carries one sentence: what is asked cannot be baked, however often it is tried. */
export class BakeError extends Error {}

/** Models, and bakers, that are kept; of models those used last. */
export const MOST_MODELS = 4;
const MOST_BAKERS = 6;
export const MOST_SHARES = 16;
/** Texels of a surface map that is kept beside others, and how many of them are: 20 MiB together. */
const SMALL = 512 * 512;
const MOST_SMALL = 4;

interface Kept {
  model: Model;
  grounds: Map<string, Ground>;
  islands: Map<number, Islands>;
  maps: Map<string, SurfaceMap>;
}

export class BakeDesk {
  private models = new Map<string, Kept>();
  private shares = new Map<string, Share>();
  private bakers = new Map<string, { baker: Baker; tiles: TileIndex[] }>();

  has(address: string): boolean {
    return this.models.has(address);
  }

  take(address: string, model: Model): void {
    this.models.set(address, { model, grounds: new Map(), islands: new Map(), maps: new Map() });
    while (this.models.size > MOST_MODELS) {
      const oldest = this.models.keys().next().value!;
      this.models.delete(oldest);
      this.bakers.clear();
    }
  }

  /** A grey picture over a sheet. */
  takeShare(address: string, picture: Bitmap): void {
    this.shares.delete(address);
    this.shares.set(address, new Share(picture));
    if (this.shares.size > MOST_SHARES) this.shares.delete(this.shares.keys().next().value!);
  }

  hasShare(address: string): boolean {
    return this.shares.has(address);
  }

  /** Tiles that a bake has pixels in, rising. Throws BakeError. */
  tiles(spec: BakeSpec): TileIndex[] {
    return this.at(spec).tiles;
  }

  /** One tile, in steps: between them somebody may say that it is no longer wanted. Throws BakeError. */
  steps(spec: BakeSpec, tile: TileIndex): Generator<void, BakedTile | null> {
    return this.at(spec).baker.steps(tile);
  }

  tile(spec: BakeSpec, tile: TileIndex): BakedTile | null {
    return this.at(spec).baker.tile(tile);
  }

  /** Makes what bakes like these hang on, so that the first one is there sooner. What cannot be baked says so when it is asked for. */
  ready(specs: readonly BakeSpec[]): void {
    try {
      for (const spec of specs) this.tile(spec, this.tiles(spec)[0]);
    } catch (error) {
      if (!(error instanceof BakeError)) throw error;
    }
  }

  partsOf(address: string): string[] {
    return this.kept(address).model.parts;
  }

  /** How the twin would lie on the model; null: one of the two has no area. */
  fit({ model, twin }: BakeSpec): Fit | null {
    return twin && fitTwin(this.kept(model).model, this.kept(twin.file).model);
  }

  private share(use: TwinUse['reachBy']): Share | null {
    const found = use && this.shares.get(use.file);
    if (use && !found) throw new Error(`The picture ${use.file} was not handed in`);
    return found ?? null;
  }

  private kept(address: string): Kept {
    const kept = this.models.get(address);
    if (!kept) throw new Error(`The model ${address} was not handed in`);
    // Used last, let go last.
    this.models.delete(address);
    this.models.set(address, kept);
    return kept;
  }

  private at(given: BakeSpec): { baker: Baker; tiles: TileIndex[] } {
    if (Number(given.version) !== BAKE_VERSION)
      throw new BakeError('It was asked for by another version of Brindle, which bakes differently: bake it again.');
    const key = specText(given);
    const known = this.bakers.get(key);
    if (known) return known;
    const spec = bakeSpecSchema.parse(given);
    const low = this.kept(spec.model);
    const islands = this.islandsOf(low, spec.uvSet);
    const map = this.mapOf(low, spec, islands);
    if (map.tiles.size === 0)
      throw new BakeError('There is nothing to bake: no face of this material has an area in the UVs. Unwrap the model first.');
    const ground = groundOf(low, `uv ${spec.uvSet}`, () => new Ground(low.model, { uvSet: spec.uvSet, islands: islands.island }));
    const baker = new Baker({
      settings: spec.settings,
      low: ground,
      map,
      supersample: spec.supersample,
      twin: spec.twin && this.twinOf(spec.twin, ground, map),
    });
    const made = { baker, tiles: [...map.tiles.keys()].sort((a, b) => a - b) };
    this.bakers.set(key, made);
    if (this.bakers.size > MOST_BAKERS) this.bakers.delete(this.bakers.keys().next().value!);
    return made;
  }

  private islandsOf(low: Kept, uvSet: number): Islands {
    const uv = low.model.uvs[uvSet];
    if (!uv) throw new BakeError(`The model has no UV set ${uvSet + 1}: unwrap it first.`);
    let islands = low.islands.get(uvSet);
    if (!islands) low.islands.set(uvSet, (islands = buildIslands(low.model, buildTopology(low.model), uv)));
    return islands;
  }

  private mapOf(low: Kept, { uvSet, material, width, height }: BakeSpec, islands: Islands): SurfaceMap {
    const key = [uvSet, material, width, height].join();
    let map = low.maps.get(key);
    if (!map) {
      const { model } = low;
      map = buildSurfaceMap({ model, islands, uv: model.uvs[uvSet], materialIndex: material, width, height });
      // Of those for first tries a few are kept, of large ones none beside another.
      const small = width * height <= SMALL;
      if (!small) low.maps.clear();
      low.maps.set(key, map);
      if (low.maps.size > MOST_SMALL) low.maps.delete(low.maps.keys().next().value!);
    }
    return map;
  }

  private twinOf(use: TwinUse, low: Ground, map: SurfaceMap) {
    const twin = this.kept(use.file);
    const ground = groundOf(twin, `place ${JSON.stringify(use.place)}`, () => {
      const model = use.place ? placed(twin.model, use.place) : twin.model;
      return new Ground(model, { colours: model.colours });
    });
    const matching = matchingOf(use, low.model.parts, ground.model.parts);
    if (matching && matching.every((list) => list?.length === 0))
      throw new BakeError(
        `None of the dense model’s parts (${ground.model.parts.slice(0, 3).join(', ')} …) has the name of one of the model’s: match them by hand, or take the whole of it.`,
      );
    const reach: Reach = { outward: use.outward * low.size, inward: use.inward * low.size, split: use.split };
    const painted = { reach: this.share(use.reachBy), split: this.share(use.splitBy) };
    if (painted.reach || painted.split) reach.at = paintedReach(painted, use.split, map);
    return { ground, projector: new Projector(low, ground, reach, matching) };
  }
}

/** The shares at a point's place on the sheet. */
function paintedReach({ reach, split }: Painted, otherwise: number, map: SurfaceMap): Reach['at'] {
  const { cornersTexels: c, width, height } = map;
  return ({ face, weights }, n) => {
    let [u, v] = [0, 0];
    for (let k = 0; k < 3; k++) {
      const w = weights[n * 3 + k];
      u += (w * c[face[n] * 6 + k * 2]) / width;
      v += (w * c[face[n] * 6 + k * 2 + 1]) / height;
    }
    return { reach: reach?.at(u, v) ?? 1, split: split?.at(u, v) ?? otherwise };
  };
}

function groundOf(kept: Kept, key: string, make: () => Ground): Ground {
  let ground = kept.grounds.get(key);
  if (!ground) kept.grounds.set(key, (ground = make()));
  return ground;
}
