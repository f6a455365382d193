/** Pieces whose sheets do not name their material yet (documents before version 7): each is looked at beside its model. */
import { eq, sql } from 'drizzle-orm';
import { parsePiece } from '../core/document/schema';
import { settleMaterials } from '../core/document/settleMaterials';
import { readModel } from '../core/mesh/readModel';
import { database } from './db';
import { blobs, pieces } from './schema';

/** Sets right what can be told, and leaves a notice in the piece. What cannot be read stays as it is. Answers how many were changed. */
export async function settleServer(): Promise<number> {
  const open = await database()
    .select({ id: pieces.id, version: sql<number>`coalesce((${pieces.document}->>'version')::int, 0)` })
    .from(pieces)
    .where(
      sql`${pieces.document}->>'kind' = 'model' and ${pieces.document} @? '$.sheets[*] ? (!exists(@.materialName) || @.materialName == null)'`,
    );
  let changed = 0;
  for (const { id, version } of open) if (await settlePiece(id, version)) changed++;
  return changed;
}

/** Version 7 is the first that names materials: such a piece was looked at before. */
const NAMING_VERSION = 7;

async function settlePiece(id: string, version: number): Promise<boolean> {
  return database().transaction(async (tx) => {
    const [row] = await tx.select({ document: pieces.document }).from(pieces).where(eq(pieces.id, id)).for('update');
    const parsed = row && parsePiece(row.document);
    if (!parsed?.ok || !parsed.value.model) return false;
    const [blob] = await tx.select().from(blobs).where(eq(blobs.hash, parsed.value.model.blob));
    const model = blob && (await readModel(new Map([['model.glb', blob.bytes]])).catch(() => null));
    if (!model) return false;
    const settled = settleMaterials(parsed.value, model, { again: version >= NAMING_VERSION });
    if (settled === parsed.value) return false;
    await tx.update(pieces).set({ document: settled }).where(eq(pieces.id, id));
    return true;
  });
}
