/** The scripts that paint the demo pieces, by size: texels a side of the largest sheet. The buoy's size is fixed. */
import type { Model } from '../src/core/mesh/model';
import { readModel } from '../src/core/mesh/readModel';
import type { PieceBundle } from '../src/core/piece/pieceFile';
import type { TwinFile } from './bakes';
import { buoyBundle } from './buoy';
import { lanternBundle } from './lantern';
import type { DemoName } from './list';
import { settsBundle } from './setts';
import { tortoiseBundle } from './tortoise';

export type DemoBundle = PieceBundle & { twins?: TwinFile[] };

/** The model of a piece, read from its GLB; null for a canvas. */
export const modelOf = async ({ modelGlb }: DemoBundle): Promise<Model | null> =>
  modelGlb ? readModel(new Map([['model.glb', modelGlb]])) : null;

export const PAINT: Record<DemoName, (size: number) => Promise<DemoBundle>> = {
  buoy: () => buoyBundle(),
  setts: settsBundle,
  lantern: lanternBundle,
  tortoise: tortoiseBundle,
};
