/** A pinned picture as what clone and heal take from: it comes onto the sheet, whose strokes need it for good. */
import { setSheetEdit } from '@/core/document/edits';
import type { Pin } from '@/core/document/pin';
import { LIMITS } from '@/core/document/schema';
import { newId } from '../layers/ids';
import { readFile } from '../pictures/pictureSet';
import { currentSheet, say, setSource, work } from '../store';

/** Pictures of sheets by the pins they came from, while this page is open. */
const known = new Map<string, string>();

/** `x`, `y`: in pixels of the picture. Says in one sentence what is wrong. */
export async function takeFromPin(pin: Pin, x: number, y: number): Promise<void> {
  const id = (await pictureOfPin(pin)) ?? null;
  if (id === null) return;
  const pen = { pressure: 1, tiltX: 0, tiltY: 0, time: 0 };
  setSource({ pane: 'flat', x, y, texelsPerPixel: 1, ...pen }, null, id);
}

async function pictureOfPin(pin: Pin): Promise<string | null> {
  const sheet = currentSheet();
  const key = `${sheet.id} ${pin.picture}`;
  const before = known.get(key);
  if (before && sheet.pictures.some((p) => p.id === before)) return before;
  if (sheet.pictures.length >= LIMITS.maxPictures)
    return (say(`A sheet holds up to ${LIMITS.maxPictures} pictures: take some off before you clone from another.`), null);
  const response = await fetch(`/api/pins/${pin.picture}`).catch(() => null);
  if (!response) return (say('The server does not answer: try again when it is back.'), null);
  if (!response.ok) return (say(`"${pin.name}" is lost: take it down and pin it again.`), null);
  const picture = await readFile(new File([await response.blob()], pin.name), 'colour');
  if (!picture) return null;
  const id = newId();
  work({
    do: 'pictures',
    sheetId: sheet.id,
    pictures: [{ id, name: pin.name, encoding: 'srgb', picture }],
    then: setSheetEdit(sheet, {}),
    label: `Clone from ${pin.name}`,
  });
  known.set(key, id);
  return id;
}
