/** Which map a picture is meant for, guessed from its file name: the words that the trade uses. */
import type { Grey } from '../kinds/grey';
import { MAP_ROWS, PACKED_MAPS, type MapId } from '../kinds/maps';

export interface PictureGuess {
  map: MapId;
  /** Which number of the picture; value maps only. */
  take: Grey;
}

const PACKED: Record<string, readonly MapId[]> = {
  orm: PACKED_MAPS,
  arm: PACKED_MAPS,
};
const CHANNELS: Grey[] = ['red', 'green', 'blue'];

/** Words of a name, from the last to the first: what it is for comes last. */
function wordsOf(name: string): string[] {
  const stem = name.replace(/\.[a-z0-9]+$/i, '');
  const parts = stem
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z]+/)
    .filter(Boolean);
  // Pairs too: "base_color".
  const pairs = parts.slice(1).map((w, n) => `${parts[n]} ${w}`);
  return [...pairs.toReversed(), ...parts.toReversed()];
}

/** What a file name says, for the maps that a sheet carries; empty where it says nothing. */
export function guessMaps(name: string, maps: readonly MapId[]): PictureGuess[] {
  const words = wordsOf(name);
  for (const word of words) {
    const packed = PACKED[word.replace(/ /g, '')];
    if (packed) return packed.flatMap((map, n) => (maps.includes(map) ? [{ map, take: CHANNELS[n] }] : []));
    const found = MAP_ROWS.find((m) => m.fileWords?.test(word))?.id;
    if (found) return maps.includes(found) ? [{ map: found, take: 'luminance' }] : [];
  }
  return [];
}

/** What the files of a set have in common, as a name for their layer. */
export function setName(names: readonly string[]): string {
  if (names.length === 0) return 'Pictures';
  const stems = names.map((n) => n.replace(/\.[a-z0-9]+$/i, ''));
  let common = stems[0];
  for (const s of stems) while (!s.startsWith(common)) common = common.slice(0, -1);
  if (names.length === 1) {
    const words = stems[0].split(/[_\- .]+/);
    const last = words.at(-1)!.toLowerCase();
    if (words.length > 1 && MAP_ROWS.some((m) => m.fileWords?.test(last))) common = words.slice(0, -1).join(' ');
  }
  const clean = common.replace(/[_\-. ]+/g, ' ').trim();
  return clean ? clean[0].toUpperCase() + clean.slice(1) : 'Pictures';
}
