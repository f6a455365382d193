/** Puts the demo pieces into an empty house. */
import { count } from 'drizzle-orm';
import { readModel } from '../src/core/mesh/readModel';
import { ensureThumbnail } from '../src/core/piece/thumbnail';
import { database } from '../src/server/db';
import { insertPiece } from '../src/server/pieces';
import { pieces } from '../src/server/schema';
import { lanternBundle } from './lantern';
import { settsBundle } from './setts';

/** Does nothing if there is any piece, deleted ones included: a cleared house stays cleared. */
export async function seedDemo(say: (line: string) => void): Promise<void> {
  const [{ value }] = await database().select({ value: count() }).from(pieces);
  if (value > 0) return;
  for (const [name, make] of [['Quay setts', settsBundle], ['Harbour lantern', lanternBundle]] as const) {
    say(`Making the demo piece "${name}" …`);
    const bundle = await make();
    const model = bundle.modelGlb ? await readModel(new Map([['model.glb', bundle.modelGlb]])) : null;
    await insertPiece(ensureThumbnail(bundle, model), { keepId: true });
  }
}
