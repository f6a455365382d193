/**
 * Where the texels of a tile read a picture that is placed there. It hangs on the place and on the size of the picture
 * only, so that all maps of a material share it: worked out once a tile, read by each.
 *
 * With hidden repeats (strata/hidden.ts) the picture is cut into patches on a triangle grid, each turned and shifted at
 * random, and a texel reads three of them.
 */
import { kernels } from '../kernels';
import type { Kernels } from '../../kernels/kernels';
import type { TapSet } from '../../kernels/taps';
import type { TileIndex } from '../tile/tiles';
import type { Sheet } from '../document/schema';
import { type Placement } from '../kinds/placement';
import { projectionsOf } from './projections';
import type { Surface } from '../mesh/surface';

/** Patches a repeat: each shows about half of the picture. */
const PATCHES = 2;

export interface TapPlace {
  sheet: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>;
  surface: Surface | null;
  tile: TileIndex;
}

export interface Taps {
  set: TapSet;
  /** How far the placement turns the picture's own X (radians). */
  turned: number;
}

interface Kept extends Taps {
  key: string;
  of: Kernels;
}

/** The last ones, newest first: maps of one layer, and a layer above or below that is placed in the same way. */
let kept: Kept[] = [];
const KEPT = 3;

/** Valid until other places have been asked for. `width`, `height`: of the picture's level. */
export function tapsOf(placement: Placement, place: TapPlace, width: number, height: number): Taps {
  const { sheet, surface, tile } = place;
  const extent = `${sheet.width} ${sheet.height} ${sheet.wrapU} ${sheet.wrapV}`;
  const key = `${JSON.stringify(placement)} ${extent} ${surface?.stamp} ${tile} ${width} ${height}`;
  const known = kept.find((k) => k.key === key && k.of === kernels());
  if (known) {
    kept = [known, ...kept.filter((k) => k !== known)];
    return known;
  }
  const own = kept.filter((k) => k.of === kernels());
  const taps = own.length < KEPT ? { key, of: kernels(), set: kernels().pictures.tapSet(), turned: 0 } : own.at(-1)!;
  // Not to be found while it is half-made.
  taps.key = '';
  kept = [taps, ...kept.filter((k) => k !== taps)];
  const { hide } = placement;
  kernels().pictures.clearTaps(taps.set, hide === 0 ? 1 : hide === 1 ? 3 : 4);
  const mark = kernels().mark();
  try {
    for (const { field, weight, turned } of projectionsOf(placement, sheet, surface, tile)) {
      taps.turned = turned;
      if (placement.by === 'decal' && surface) {
        keepWithin(field.x, width);
        keepWithin(field.y, height);
      }
      const places = { x: field.x, y: field.y, weight };
      if (hide === 0) kernels().pictures.addPlain(taps.set, places, width, height);
      else {
        const cells = field.period.map((p) => (p === 0 ? 0 : Math.max(2, Math.round(p * PATCHES)))) as [number, number];
        const per = cells.map((c, n) => (c ? c / field.period[n] : PATCHES)) as [number, number];
        kernels().pictures.addPatches(taps.set, places, width, height, { cells, per, strength: hide });
      }
    }
    taps.key = key;
    return taps;
  } finally {
    kernels().release(mark);
  }
}

/** Places beside a picture read its rim, not its other end. */
function keepWithin(places: Float32Array, texels: number): void {
  const [least, most] = [0.5 / texels, 1 - 0.5 / texels];
  for (let i = 0; i < places.length; i++) places[i] = Math.min(most, Math.max(least, places[i]));
}
