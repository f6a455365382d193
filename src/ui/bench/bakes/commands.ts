/** What is done to the bakes of a sheet. */
import { worthFitting, type Fit } from '@/core/bake/fit';
import { bakeOf, bakeState, specOf, TRIED_ID } from '@/core/document/bake';
import { batch, setSheetEdit } from '@/core/document/edits';
import { freeName, newCoatLayer } from '@/core/document/factory';
import { LIMITS, picturesUsed, type Picture, type Sheet } from '@/core/document/schema';
import { fencesOf } from '@/core/document/schema';
import { indexOfPlace } from '@/core/document/tree';
import { BAKE_TYPES, BAKES, type BakeSettings, type BakeType } from '@/core/kinds/bakes';
import { bakeRecordSchema, type BakeRecord } from '@/core/kinds/bakes/record';
import { specText, type TwinUse } from '@/core/kinds/bakes/spec';
import { COLOUR_MAP, mapInfo } from '@/core/kinds/maps';
import { BakeTry } from '@/engine/bakes/bakeTry';
import { newId } from '../layers/ids';
import { bench, currentLayer, currentSheet, edit, say, selectLayer, useBench } from '../store';
import * as server from './api';
import { sendMask } from './shares';
import { look, takeAgain, useBakes } from './watch';

/** Bakes are no larger than pictures; by themselves they are as large as the sheet, up to this. */
const START_SIDE = 2048;

const pictures = (sheet: Sheet, next: readonly Picture[], label: string) =>
  edit(setSheetEdit(sheet, { pictures: [...next] }), label);

/** A bake that is to be made; nothing is baked yet. */
function freshBake(sheet: Sheet, type: BakeType): Picture {
  const scale = Math.min(1, START_SIDE / Math.max(sheet.width, sheet.height));
  const { label, start, values, from, byItself } = BAKES[type];
  const taken = sheet.pictures.map((p) => p.name);
  // A twin that another bake of the sheet uses is used here too.
  const twin = from.twin && !byItself ? (sheet.pictures.map((p) => p.bake?.twin).find((t) => t) ?? null) : null;
  return {
    id: newId(),
    name: freeName(label, taken),
    width: Math.round(sheet.width * scale),
    height: Math.round(sheet.height * scale),
    encoding: values === 'colour' ? 'srgb' : 'linear',
    bake: bakeRecordSchema.parse({ settings: start, twin }),
  };
}

const refusal = (sheet: Sheet): string | null =>
  sheet.materialIndex === null
    ? 'A canvas has no model to bake from.'
    : sheet.pictures.length >= LIMITS.maxPictures
      ? `A sheet holds up to ${LIMITS.maxPictures} pictures: delete some first.`
      : null;

export function addBake(type: BakeType): void {
  const sheet = currentSheet();
  const no = refusal(sheet);
  if (no) return say(no);
  const picture = freshBake(sheet, type);
  pictures(sheet, [...sheet.pictures, picture], `Add the bake ${picture.name}`);
  choose(picture.id);
  void tryBake();
}

/** Makes sure that the sheet has a bake of a kind: what it is baked into follows. */
export function wantBake(type: BakeType): void {
  const sheet = currentSheet();
  const there = bakeOf(sheet, type);
  if (there) return bakeState(useBench.getState().document!, sheet, there) === 'none' ? void runBake(there.id) : undefined;
  const no = refusal(sheet);
  if (no) return say(no);
  const picture = freshBake(sheet, type);
  pictures(sheet, [...sheet.pictures, picture], `Add the bake ${picture.name}`);
  void runBake(picture.id);
}

const found = (id: string): { sheet: Sheet; picture: Picture & { bake: BakeRecord } } | null => {
  const sheet = currentSheet();
  const picture = sheet.pictures.find((p) => p.id === id);
  return picture?.bake ? { sheet, picture: picture as Picture & { bake: BakeRecord } } : null;
};

/** Its pixels stay until it is baked anew. */
export function setBake(id: string, after: Partial<BakeRecord> & { width?: number; height?: number }, label: string): void {
  const it = found(id);
  if (!it) return;
  pictures(it.sheet, replaced(it.sheet, id, after), `${it.picture.name}: ${label}`);
  void tryBake();
}

function replaced(sheet: Sheet, id: string, { width, height, ...after }: Parameters<typeof setBake>[1]): Picture[] {
  return sheet.pictures.map((p) =>
    p.id === id ? { ...p, width: width ?? p.width, height: height ?? p.height, bake: { ...p.bake!, ...after } } : p,
  );
}

export function removeBake(id: string): void {
  const it = found(id);
  if (!it) return;
  const { sheet, picture } = it;
  if (picturesUsed(sheet.layers, [...sheet.masks, ...fencesOf(sheet)]).has(id))
    return say(`"${picture.name}" is used by a layer or a mask: take it off there first.`);
  pictures(
    sheet,
    sheet.pictures.filter((p) => p.id !== id),
    `Delete the bake ${picture.name}`,
  );
  if (useBench.getState().bakes.chosen === id) choose(null);
}

/** Opens a bake in the card, or closes it. */
export function choose(id: string | null): void {
  useBench.setState((s) => ({ bakes: { ...s.bakes, chosen: id } }));
  putTryAway();
}

// ── Baking ───────────────────────────────────────────────────────────────────────────────────────────────

/** The masks that a bake's reach is painted by count as they are when it is baked. false: it is gone. */
async function renewMasks(id: string): Promise<boolean> {
  const twin = found(id)?.picture.bake.twin;
  if (!twin?.reachBy && !twin?.splitBy) return true;
  const fresh = { ...twin };
  for (const key of ['reachBy', 'splitBy'] as const) fresh[key] = (await sendMask(twin[key]?.mask ?? '')) ?? twin[key];
  const changed = (['reachBy', 'splitBy'] as const).some((key) => fresh[key]?.file !== twin[key]?.file);
  if (changed) setBake(id, { twin: fresh }, 'its masks as they are now');
  return found(id) !== null;
}

/** Hands it to the workers of the server; it comes to the sheet when it is done. */
export async function runBake(id: string): Promise<void> {
  if (!(await renewMasks(id).catch((error: unknown) => (say((error as Error).message), false)))) return;
  const it = found(id);
  const piece = useBench.getState().document!;
  if (!it) return;
  const spec = specOf(piece, it.sheet, it.picture);
  if (!spec)
    return say(
      BAKES[it.picture.bake.settings.type].from.model
        ? `${it.picture.name} cannot be baked as it is set: check its size and reaches.`
        : `${it.picture.name} is baked from a dense model: choose its file first.`,
    );
  try {
    const status = await server.request(spec, piece.id, `${piece.name}, ${it.sheet.name}: ${it.picture.name}`);
    useBakes.setState((s) => ({ states: { ...s.states, [specText(spec)]: status } }));
    putTryAway();
    takeAgain(id);
    look();
  } catch (error) {
    say((error as Error).message);
  }
}

/** All of the sheet that are out of date or not there yet. */
export function runAll(): void {
  const sheet = currentSheet();
  const piece = useBench.getState().document!;
  const due = sheet.pictures.filter((p) => p.bake && ['none', 'stale'].includes(bakeState(piece, sheet, p)));
  if (due.length === 0) return say('Every bake of this sheet is up to date.');
  for (const p of due) void runBake(p.id);
}

export async function cancelBake(key: string): Promise<void> {
  await server.cancel(key).catch((error: unknown) => say((error as Error).message));
  look();
}

// ── Looking, and first tries ─────────────────────────────────────────────────────────────────────────────

export function lookAt(id: string): void {
  useBench.setState((s) => ({ bakeLook: s.bakeLook === id ? null : id, maskMode: null }));
}

const trying = new BakeTry((port) => bench().connectTries(port));
let shown = false;

/** A first try of the bake that is open, small and rough: it follows its sliders. `over`: settings on their way. */
export async function tryBake(over?: BakeSettings, twin?: TwinUse): Promise<void> {
  const { bakes, document, geometry } = useBench.getState();
  const it = bakes.open && bakes.chosen ? found(bakes.chosen) : null;
  if (!it || !geometry) return;
  const { bake } = it.picture;
  const record = { ...bake, settings: over ?? bake.settings, twin: twin ?? bake.twin };
  const picture = { ...it.picture, bake: { ...record, made: record.made === 'file' ? '' : record.made } };
  const spec = specOf(document!, it.sheet, picture);
  if (!spec) return;
  readyDenseModel();
  try {
    const expect = (id: number) => bench().send({ type: 'expect-try', id });
    await trying.ask(spec, geometry, expect, ({ width, height, missed }) => {
      if (useBench.getState().bakes.chosen !== it.picture.id) return;
      performance.mark('brindle:bake-tried');
      shown = true;
      const looked = { ...picture, id: TRIED_ID, width, height, bake: { ...record, missed } };
      useBench.setState({ bakeLook: looked, maskMode: null });
    });
  } catch (error) {
    say((error as Error).message);
  }
}

/** What is to be asked of a bake's dense model; null: there is none. */
function askable(id: string) {
  const { document, geometry } = useBench.getState();
  const it = found(id);
  const spec = it && specOf(document!, it.sheet, { ...it.picture, bake: { ...it.picture.bake, made: '' } });
  if (!spec?.twin || !geometry) return null;
  return { spec: { ...spec, twin: { ...spec.twin, place: null, reachBy: null, splitBy: null } }, geometry };
}

/** How the dense model of a bake would lie on the model, if that is worth offering; null: it lies well, or is not there. */
export async function askFit(id: string): Promise<Fit | null> {
  const asked = askable(id);
  const fit = asked && (await trying.fit(asked.spec, asked.geometry));
  return fit && worthFitting(fit) ? fit : null;
}

/** Names of the parts of a bake's dense model. */
export async function askParts(id: string): Promise<string[]> {
  const asked = askable(id);
  return asked ? trying.parts(asked.spec, asked.geometry) : [];
}

/** Reading a dense model takes seconds: it waits until nothing was tried for so long. */
const IDLE_MS = 1500;
let readyDense: ReturnType<typeof setTimeout> | null = null;

/** While the card is open the first try of any bake is soon there. */
export function readyTries(): void {
  makeReady(false);
  readyDenseModel();
}

/** What a new bake of the sheet hangs on; `dense`: the dense model that it would be taken from too. */
function makeReady(dense: boolean): void {
  const { document, geometry } = useBench.getState();
  const sheet = currentSheet();
  const spec = geometry && !refusal(sheet) ? specOf(document!, sheet, freshBake(sheet, BAKE_TYPES[0])) : null;
  if (spec && (!dense || spec.twin)) trying.warm(dense ? spec : { ...spec, twin: null }, geometry!);
}

function readyDenseModel(): void {
  if (readyDense) clearTimeout(readyDense);
  readyDense = setTimeout(() => makeReady(true), IDLE_MS);
}

export function putTryAway(): void {
  if (shown) bench().send({ type: 'expect-try', id: null });
  shown = false;
  useBench.setState((s) => (typeof s.bakeLook === 'object' ? { bakeLook: null } : {}));
}

export function endTries(): void {
  if (readyDense) clearTimeout(readyDense);
  trying.end();
  shown = false;
}

// ── Use ──────────────────────────────────────────────────────────────────────────────────────────────────

/** A coat that lays the bake down, above the layer at work: paint goes over it, and stays when it is baked anew. */
export function layBake(id: string): void {
  const it = found(id);
  if (!it) return;
  const { sheet, picture } = it;
  const { laidOn, values } = BAKES[picture.bake.settings.type];
  const map = laidOn && sheet.maps.includes(laidOn) ? laidOn : COLOUR_MAP;
  if (!sheet.maps.includes(map))
    return say(`This sheet carries no ${mapInfo(map).label.toLowerCase()} to lay it on: add the map first.`);
  const coat = newCoatLayer(
    newId(),
    freeName(
      picture.name,
      sheet.layers.map((l) => l.name),
    ),
    { [map]: mapInfo(map).start as number[] },
    sheet.maps,
  );
  const cell = { ...coat.cells[map]!, placed: { picture: id, take: 'luminance' as const, neutral: 0 } };
  const grey = map === COLOUR_MAP && values === 'value';
  const layer = { ...coat, cells: { ...coat.cells, [map]: cell }, ...(grey ? { blend: 'multiply' as const } : {}) };
  const at = currentLayer();
  const index = at ? indexOfPlace(sheet.layers, { parent: at.parent, above: at.id }) : sheet.layers.length;
  edit(
    batch([{ type: 'add-layer', sheetId: sheet.id, index, layer: { ...layer, parent: at?.parent ?? null } }]),
    `Lay ${picture.name} down`,
  );
  selectLayer(layer.id);
}
