/** The rack: the brushes that Brindle comes with, as the server has changed them, and the server's own. */
import { randomUUID } from 'node:crypto';
import { eq, sql } from 'drizzle-orm';
import { picturesOf, withPictures, writeBrushFile } from '../core/hand/rack/file';
import { rackBrushSchema, type RackBrush, type RackEntry } from '../core/hand/rack/brushes';
import { SHIPPED, shippedBrush } from '../core/hand/rack/shipped';
import { database } from './db';
import { readBrushesApart } from './readers';
import { brushes } from './schema';
import { takeTip, tipPngs } from './tips';

export const MOST_BRUSHES = 2000;

/** Shipped ones first, in their order; then the server's own by age. What cannot be read any more is left out. */
export async function listBrushes(): Promise<RackEntry[]> {
  const rows = await database().select().from(brushes).orderBy(brushes.createdAt, brushes.id);
  const own = new Map(rows.map((row) => [row.id, row]));
  const more = (id: string) => ({ favourite: own.get(id)?.favourite ?? false, usedAt: own.get(id)?.usedAt?.getTime() ?? null });
  const entries: RackEntry[] = SHIPPED.map((brush) => {
    const changed = parsed(own.get(brush.id));
    return { ...(changed ?? brush), ...more(brush.id), shipped: true, changed: changed !== null };
  });
  for (const row of rows) {
    const brush = shippedBrush(row.id) ? null : parsed(row);
    if (brush) entries.push({ ...brush, ...more(row.id), shipped: false, changed: false });
  }
  return entries;
}

function parsed(row: { id: string; name: string | null; group: string | null; brush: unknown } | undefined): RackBrush | null {
  if (!row?.brush) return null;
  const result = rackBrushSchema.safeParse(row);
  return result.success ? result.data : null;
}

export type SaveResult = { ok: true } | { ok: false; message: string };

/** Keeps a brush under its id: a new one, or changed. */
export async function saveBrush({ id, name, group, brush }: RackBrush): Promise<SaveResult> {
  const [{ count }] = await database()
    .select({ count: sql<number>`count(*)::int` })
    .from(brushes);
  if (count >= MOST_BRUSHES)
    return { ok: false, message: `The rack holds ${MOST_BRUSHES} brushes, which is all it can: delete some.` };
  await database()
    .insert(brushes)
    .values({ id, name, group, brush })
    .onConflictDoUpdate({ target: brushes.id, set: { name, group, brush } });
  return { ok: true };
}

/** Favourite or not, or used now. */
export async function markBrush(id: string, change: { favourite?: boolean; used?: true }): Promise<void> {
  const set = {
    ...(change.favourite !== undefined && { favourite: change.favourite }),
    ...(change.used && { usedAt: new Date() }),
  };
  if (Object.keys(set).length === 0) return;
  if (shippedBrush(id))
    await database()
      .insert(brushes)
      .values({ id, ...set })
      .onConflictDoUpdate({ target: brushes.id, set });
  else await database().update(brushes).set(set).where(eq(brushes.id, id));
}

/** One's own is gone; a shipped one is again as it came. */
export async function dropBrush(id: string): Promise<void> {
  if (shippedBrush(id)) await database().update(brushes).set({ name: null, group: null, brush: null }).where(eq(brushes.id, id));
  else await database().delete(brushes).where(eq(brushes.id, id));
}

/** `ids`: those that are named; none: all of the server's own. null: there is nothing to export. */
export async function exportBrushes(ids: readonly string[]): Promise<Uint8Array | null> {
  const all = await listBrushes();
  const chosen = ids.length > 0 ? all.filter(({ id }) => ids.includes(id)) : all.filter((b) => !b.shipped || b.changed);
  if (chosen.length === 0) return null;
  const tips = await tipPngs(chosen.flatMap(picturesOf));
  return writeBrushFile({ brushes: chosen.map(({ id, name, group, brush }) => ({ id, name, group, brush })), tips });
}

export type ImportResult = { ok: true; added: string[] } | { ok: false; message: string };

/** Takes the brushes of a file in beside those that are there: nothing is replaced. All of them, or none. */
export async function importBrushes(path: string, what: string): Promise<ImportResult> {
  const file = await readBrushesApart(path, what);
  if (!file.ok) return file;
  const names = new Map<string, string>();
  for (const [name, picture] of file.tips) {
    const tip = await takeTip(picture, `${what}, tip`, true);
    if (!tip.ok) return tip;
    names.set(name, tip.id);
  }
  const here = await listBrushes();
  if (here.length + file.brushes.length > MOST_BRUSHES)
    return { ok: false, message: `${what} holds more brushes than the rack has room for (${MOST_BRUSHES}): delete some.` };
  const rows = file.brushes.map((brush) => {
    const { name, group, brush: settings } = withPictures(brush, names);
    return { id: `own:${randomUUID()}`, name: freeName(name, here), group, brush: settings };
  });
  await database().insert(brushes).values(rows);
  return { ok: true, added: rows.map(({ id }) => id) };
}

/** "Leaf", "Leaf 2" … */
function freeName(name: string, here: readonly RackBrush[]): string {
  const taken = new Set(here.map((brush) => brush.name));
  if (!taken.has(name)) return name;
  for (let n = 2; ; n++) {
    const next = `${name.slice(0, 55)} ${n}`;
    if (!taken.has(next)) return next;
  }
}
