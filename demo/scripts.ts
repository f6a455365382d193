/** The scripts that paint the demo pieces, by size: texels a side of the largest sheet. The buoy's size is fixed. */
import type { PieceBundle } from '../src/core/piece/pieceFile';
import type { TwinFile } from './bakes';
import { buoyBundle } from './buoy';
import { lanternBundle } from './lantern';
import type { DemoName } from './list';
import { settsBundle } from './setts';
import { tortoiseBundle } from './tortoise';

export type DemoBundle = PieceBundle & { twins?: TwinFile[] };

export const PAINT: Record<DemoName, (size: number) => Promise<DemoBundle>> = {
  buoy: () => buoyBundle(),
  setts: settsBundle,
  lantern: lanternBundle,
  tortoise: tortoiseBundle,
};
