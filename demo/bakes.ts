/** Bakes of the demo pieces, made while they are: from the model itself, and from its dense twin. */
import { createHash } from 'node:crypto';
import { BakeDesk } from '../src/core/bake/desk';
import { specOf } from '../src/core/document/bake';
import { planeKey } from '../src/core/document/planes';
import type { Picture, Sheet } from '../src/core/document/schema';
import { BAKES, type BakeSettings, type BakeType } from '../src/core/kinds/bakes';
import { bakeRecordSchema } from '../src/core/kinds/bakes/record';
import { specText, type TwinUse } from '../src/core/kinds/bakes/spec';
import { readModel } from '../src/core/mesh/readModel';
import type { TileStore } from '../src/core/tile/tiles';

/** The file of a dense twin, as the server keeps it. */
export interface TwinFile {
  name: string;
  bytes: Uint8Array;
}

interface Wanted {
  type: BakeType;
  over?: Partial<BakeSettings>;
  /** Taken from the twin. */
  twin?: boolean;
}

const addressOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/** Puts baked pictures on a sheet, half as large as the sheet, as if they had been asked for on the server. */
export async function bakeOnto(
  sheet: Sheet,
  store: TileStore,
  { modelGlb, twin, wanted, prefix }: { modelGlb: Uint8Array; twin: TwinFile; wanted: readonly Wanted[]; prefix: string },
): Promise<void> {
  const desk = new BakeDesk();
  const piece = { model: { blob: addressOf(modelGlb), uvSet: 0 } };
  desk.take(piece.model.blob, await readModel(new Map([['model.glb', modelGlb]])));
  const use: TwinUse = {
    ...{ file: addressOf(twin.bytes), name: twin.name, outward: 0.012, inward: 0.012, split: 0 },
    ...{ match: 'names', pairs: [], place: null, reachBy: null, splitBy: null },
  };
  desk.take(use.file, await readModel(new Map([[twin.name, twin.bytes]])));
  for (const { type, over = {}, twin: dense = false } of wanted) {
    const { label, start, values } = BAKES[type];
    const picture: Picture = {
      id: `${prefix}-${type}`,
      name: label,
      width: Math.max(16, sheet.width / 2),
      height: Math.max(16, sheet.height / 2),
      encoding: values === 'colour' ? 'srgb' : 'linear',
      bake: bakeRecordSchema.parse({ settings: { ...start, ...over }, twin: dense ? use : null }),
    };
    const spec = specOf(piece, sheet, picture)!;
    let missed = 0;
    for (const tile of desk.tiles(spec)) {
      const baked = desk.tile(spec, tile);
      if (!baked) continue;
      missed += baked.missed;
      store.set(planeKey(picture.id, 'picture'), tile, { data: baked.data, hash: null });
    }
    picture.bake = { ...picture.bake!, made: specText(spec), missed };
    sheet.pictures.push(picture);
  }
}
