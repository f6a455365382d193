/** Pictures from the disk: read by the server, laid down by a coat or taken as a mask. Several files are one material. */
import { answeredPicture } from '@/engine/reading/decodePicture';
import type { Bitmap } from '@/core/tile/bitmap';
import { batch, setLayerEdit, type Edit } from '@/core/document/edits';
import { freeName, newCoatLayer, newMask } from '@/core/document/factory';
import { COLOUR_MAP, mapInfo, mapKind, type MapId } from '@/core/kinds/maps';
import { cleanName } from '@/core/document/names';
import { guessMaps, setName } from '@/core/document/pictureNames';
import { stepSchema, type Layer, type Mask, type Sheet, type Step } from '@/core/document/schema';
import { indexOfPlace } from '@/core/document/tree';
import type { Grey } from '@/core/kinds/grey';
import type { NewPicture } from '@/core/document/work/fill';
import { placeForNew } from '../layers/adding';
import { newId } from '../layers/ids';
import { setRecipe } from '../mask/steps';
import type { PictureSet, SetRow } from '../top/openThings';
import { decalPlacement, modelBox, startPlacement } from '../sources/presets';
import { currentSheet, say, useBench, work } from '../store';

export const PICTURE_TYPES =
  'image/png,image/jpeg,image/tiff,image/webp,image/x-exr,.png,.jpg,.jpeg,.tif,.tiff,.webp,.exr,.hdr,.tga,.bmp,.dds';
const MOST_FILES = 24;

export function chooseFiles(multiple: boolean, then: (files: File[]) => void, accept = PICTURE_TYPES): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.accept = accept;
  input.multiple = multiple;
  input.onchange = () => {
    const files = [...(input.files ?? [])];
    if (files.length) then(files);
  };
  input.click();
}

export function askForSet(layer: Layer | null): void {
  chooseFiles(true, (files) => offerSet(files, layer));
}

/** Pictures for a decal. */
export function askForDecal(): void {
  if (!modelBox()) return say('A decal lies on a model, and this piece is a canvas: use a stencil over the sheet instead.');
  chooseFiles(true, (files) => offerSet(files, null, undefined, true));
}

/** Guesses what each file is for and asks; several rows where one file holds several maps. */
export function offerSet(files: readonly File[], layer: Layer | null, only?: MapId, decal = false): void {
  const sheet = currentSheet();
  if (files.length > MOST_FILES)
    return say(`These are ${files.length} files, and up to ${MOST_FILES} are taken at once: choose fewer.`);
  const rows = files.flatMap((file): SetRow[] => {
    if (only) return [{ file, map: only, take: 'luminance' }];
    const guesses = guessMaps(file.name, sheet.maps);
    if (guesses.length) return guesses.map((g) => ({ file, ...g }));
    // A single picture that says nothing is most likely a colour.
    return [{ file, map: files.length === 1 ? sheet.maps[0] : null, take: 'luminance' }];
  });
  useBench.setState({ pictureSet: { layerId: layer?.id ?? null, rows, decal } });
}

/** Has the server read a file. Says in one sentence what is wrong, and then gives null. */
export async function readFile(file: File, as: 'colour' | 'data'): Promise<Bitmap | null> {
  const response = await fetch(`/api/pictures?name=${encodeURIComponent(file.name)}&as=${as}`, {
    method: 'POST',
    body: file,
  }).catch(() => null);
  if (!response) {
    say('The server does not answer: the picture is read again when it is back.');
    return null;
  }
  if (!response.ok) {
    const { message } = (await response.json().catch(() => ({}))) as { message?: string };
    say(message ?? `"${file.name}" could not be read.`);
    return null;
  }
  const picture = await answeredPicture(response);
  const note = response.headers.get('x-note');
  if (note) say(decodeURIComponent(note));
  if (Math.max(picture.width, picture.height) > 4096)
    say(`"${file.name}" is ${picture.width} × ${picture.height}: it is kept at 4096 on its longer side.`);
  return picture;
}

/** Reads each file once for each way it is used (colour, data), and gives them ids. Null if one could not be read. */
async function readAll(rows: readonly SetRow[]): Promise<Map<SetRow, NewPicture> | null> {
  const known = new Map<string, NewPicture>();
  const out = new Map<SetRow, NewPicture>();
  for (const row of rows) {
    const as = mapKind(row.map!) === 'colour' ? 'colour' : 'data';
    const key = `${row.file.name} ${row.file.size} ${as}`;
    let picture = known.get(key);
    if (!picture) {
      const read = await readFile(row.file, as);
      if (!read) return null;
      picture = {
        id: newId(),
        name: cleanName(row.file.name, 'Picture'),
        encoding: as === 'colour' ? 'srgb' : 'linear',
        picture: read,
      };
      known.set(key, picture);
    }
    out.set(row, picture);
  }
  return out;
}

/** Lays the pictures of a set down: on the coat that asked, or on a new one. */
export async function layDown({ layerId, rows, decal }: PictureSet): Promise<boolean> {
  const wanted = rows.filter((r) => r.map !== null);
  const read = await readAll(wanted);
  if (!read) return false;
  const sheet = currentSheet();
  const old = sheet.layers.find((l) => l.id === layerId);
  const base =
    old ??
    newSetLayer(
      sheet,
      wanted.map((r) => r.file.name),
    );
  const cells: Layer['cells'] = { ...base.cells };
  for (const [row, picture] of read) {
    const map = row.map!;
    const cell = cells[map] ?? { on: true, value: [...mapInfo(map).start] };
    cells[map] = {
      ...cell,
      on: true,
      value: cell.value ?? [...mapInfo(map).start],
      picture: undefined,
      placed: { picture: picture.id, take: row.take, neutral: 0 },
    };
  }
  const pictures = [...new Set(read.values())];
  const { width, height } = pictures[0].picture;
  const placement = decal ? decalPlacement(width / height) : (base.placement ?? startPlacement('picture'));
  const after = { cells, placement };
  const then: Edit = old ? setLayerEdit(sheet, old, after) : addLayerEdit(sheet, { ...base, ...after });
  work({
    do: 'pictures',
    sheetId: sheet.id,
    pictures,
    then,
    label: `${base.name}: ${pictures.length === 1 ? pictures[0].name : `${pictures.length} pictures`}`,
    select: [base.id],
  });
  return true;
}

function newSetLayer(sheet: Sheet, names: string[]): Layer {
  const name = freeName(
    setName(names).slice(0, 110),
    sheet.layers.map((l) => l.name),
  );
  return newCoatLayer(newId(), name, {}, sheet.maps);
}

function addLayerEdit(sheet: Sheet, layer: Layer): Edit {
  const place = placeForNew();
  return {
    type: 'add-layer',
    sheetId: sheet.id,
    index: indexOfPlace(sheet.layers, place),
    layer: { ...layer, parent: place.parent },
  };
}

/** A new coat of the active colour that shows where one channel of a picture is light: highlights, folds, dirt. */
export async function layChannel(file: File, take: Grey): Promise<boolean> {
  const picture = await readFile(file, take === 'alpha' ? 'colour' : 'data');
  if (!picture) return false;
  if (take === 'alpha' && picture.channels !== 2 && picture.channels !== 4) {
    say(`"${file.name}" has no alpha: choose another channel of it.`);
    return false;
  }
  if (['green', 'blue'].includes(take) && picture.channels < 3) {
    say(`"${file.name}" is grey and has no ${take} channel: take its luminance.`);
    return false;
  }
  const sheet = currentSheet();
  const fresh: NewPicture = { id: newId(), name: cleanName(file.name, 'Picture'), encoding: 'linear', picture };
  const name = freeName(
    setName([file.name]).slice(0, 100),
    sheet.layers.map((l) => l.name),
  );
  const step: Step = stepSchema.parse({
    id: newId(),
    source: { type: 'picture', use: { picture: fresh.id, take }, placement: startPlacement('picture') },
    filters: [{ type: 'levels', black: 0.5, white: 0.95, gamma: 1, outBlack: 0, outWhite: 1 }],
  });
  const mask: Mask = newMask(newId(), `Mask of ${name}`, 0, { steps: [step] });
  const layer: Layer = {
    ...newCoatLayer(newId(), name, { [COLOUR_MAP]: [1, 1, 1] }, sheet.maps),
    mask: { id: mask.id, on: true },
  };
  const then = batch([{ type: 'add-mask', sheetId: sheet.id, index: sheet.masks.length, mask }, addLayerEdit(sheet, layer)]);
  work({ do: 'pictures', sheetId: sheet.id, pictures: [fresh], then, label: `${name}: ${take} as alpha`, select: [layer.id] });
  return true;
}

/** A picture as a step of a mask, after those that are there. */
export async function addPictureStep(mask: Mask, file: File): Promise<void> {
  const picture = await readFile(file, 'data');
  if (!picture) return;
  const sheet = currentSheet();
  const fresh: NewPicture = { id: newId(), name: cleanName(file.name, 'Picture'), encoding: 'linear', picture };
  const step: Step = stepSchema.parse({
    id: newId(),
    blend: mask.steps.length ? 'multiply' : 'normal',
    source: { type: 'picture', use: { picture: fresh.id }, placement: startPlacement('picture') },
  });
  const then = setRecipe(mask, { steps: [...mask.steps, step] });
  work({ do: 'pictures', sheetId: sheet.id, pictures: [fresh], then, label: `${mask.name}: ${fresh.name}` });
}
