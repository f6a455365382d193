/** Maps baked elsewhere: known by their names, in their own depth, made as large as pictures may be. */
import { normalY, UNSURE } from '@/core/bake/normalY';
import type { Bitmap } from '@/core/tile/bitmap';
import { batch } from '@/core/document/edits';
import { freeName } from '@/core/document/factory';
import { BAKES, BAKE_TYPES, type BakeType } from '@/core/kinds/bakes';
import { bakeRecordSchema } from '@/core/kinds/bakes/record';
import { newId } from '../layers/ids';
import { readFile } from '../pictures/pictureSet';
import { currentSheet, say, work } from '../store';

/** What a file is a bake of, by the words of its name, the last that says anything. */
export function bakeNamed(file: string): BakeType | null {
  const words = file
    .replace(/\.[^.]*$/, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z]+/)
    .filter(Boolean);
  for (let end = words.length; end > 0; end--)
    for (const length of [3, 2, 1]) {
      if (length > end) continue;
      const text = words.slice(end - length, end).join(' ');
      const type = BAKE_TYPES.find((t) => BAKES[t].fileWords.test(text));
      if (type) return type;
    }
  return null;
}

export function dropBakes(files: readonly File[]): void {
  void take(files).catch((error: unknown) => say((error as Error).message));
}

/** Turns a normal map whose Y points down, where its slopes say so. */
function turnUp(picture: Bitmap): boolean {
  const told = normalY(picture);
  if (!told || told.y === 'up' || told.sure < UNSURE) return false;
  const full = picture.bits === 16 ? 65535 : 255;
  for (let i = 1; i < picture.data.length; i += picture.channels) picture.data[i] = full - picture.data[i];
  return true;
}

async function take(files: readonly File[]): Promise<void> {
  const known = files.map((file) => ({ file, type: bakeNamed(file.name) }));
  const strange = known.filter((k) => k.type === null).map((k) => k.file.name);
  const good = known.filter((k): k is { file: File; type: BakeType } => k.type !== null);
  if (good.length === 0)
    return say(
      `${strange[0] ?? 'That'} is not known as a baked map by its name: have it end in one, such as _occlusion, _curvature or _normal.`,
    );
  const sheet = currentSheet();
  const taken = sheet.pictures.map((p) => p.name);
  const pictures = [];
  let turned = false;
  for (const { file, type } of good) {
    const name = freeName(BAKES[type].label, taken);
    taken.push(name);
    const picture = await readFile(file, BAKES[type].values === 'colour' ? 'colour' : 'data');
    if (!picture) return;
    if (picture.width * sheet.height !== picture.height * sheet.width)
      return say(
        `${file.name} is ${picture.width} × ${picture.height}, which is another shape than the sheet’s ${sheet.width} × ${sheet.height}: bake it in that shape.`,
      );
    if (BAKES[type].tangentSpace && turnUp(picture)) turned = true;
    pictures.push({
      id: newId(),
      name,
      encoding: BAKES[type].values === 'colour' ? ('srgb' as const) : ('linear' as const),
      picture,
      bake: bakeRecordSchema.parse({ settings: BAKES[type].start, made: 'file' }),
    });
  }
  const label = good.length === 1 ? `Take in ${good[0].file.name}` : `Take in ${good.length} baked maps`;
  work({ do: 'pictures', sheetId: sheet.id, pictures, then: batch([]), label });
  if (turned)
    say(
      'Y points down in that normal map, by its own slopes: it was turned up, as glTF has it. It can be turned back in its settings.',
    );
  if (strange.length) say(`${strange.join(', ')} ${strange.length === 1 ? 'is' : 'are'} left out: the name says no map.`);
}
