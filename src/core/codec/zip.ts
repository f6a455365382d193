/** Zip archives through fflate; names and declared sizes are checked before anything is unpacked. */
import { unzipSync, zipSync, type Zippable } from 'fflate';

export const ZIP_LIMITS = {
  maxEntries: 20_000,
  maxEntryBytes: 768 * 1024 * 1024,
  maxTotalBytes: 3 * 1024 * 1024 * 1024,
  /** Deflate cannot do better than 1032 : 1; real pictures stay far below this. */
  maxRatio: 1000,
} as const;

export class ArchiveError extends Error {}

/** Unpacks everything. Throws ArchiveError with one sentence on anything hostile or damaged. */
export function readZip(bytes: Uint8Array, what: string): Map<string, Uint8Array> {
  if (bytes.length === 0) throw new ArchiveError(`${what} is empty: copy or export it again.`);
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b)
    throw new ArchiveError(`${what} is not a zip archive: check that it is the right file.`);
  checkPlaces(bytes, what);
  let entries = 0;
  let total = 0;
  let unpacked;
  try {
    unpacked = unzipSync(bytes, {
      filter: ({ name, size, originalSize }) => {
        if (name.endsWith('/')) return false;
        if (/(^|[/\\])\.\.([/\\]|$)|^[/\\]|^[A-Za-z]:|\\|\0/.test(name))
          throw new ArchiveError(
            `${what} holds a file named "${printed(name)}", which points outside the archive: it is refused.`,
          );
        total += originalSize;
        if (++entries > ZIP_LIMITS.maxEntries)
          throw new ArchiveError(`${what} holds more than ${ZIP_LIMITS.maxEntries} files: it is refused.`);
        if (
          originalSize > ZIP_LIMITS.maxEntryBytes ||
          total > ZIP_LIMITS.maxTotalBytes ||
          originalSize > 65536 + size * ZIP_LIMITS.maxRatio
        )
          throw new ArchiveError(`${what} would unpack to far more than it should ("${printed(name)}"): it is refused.`);
        return true;
      },
    });
  } catch (error) {
    if (error instanceof ArchiveError) throw error;
    throw new ArchiveError(`${what} is damaged or cut short: copy or export it again.`);
  }
  return new Map(Object.entries(unpacked));
}

/**
 * Entries lie one after another in a zip (PKWARE APPNOTE 6.3.10, 4.3): two that share bytes, or lie outside, are a trick or damage.
 * Throws ArchiveError.
 */
function checkPlaces(bytes: Uint8Array, what: string): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const damaged = () => new ArchiveError(`${what} is damaged or cut short: copy or export it again.`);
  // The end record is 22 bytes and a comment of up to 65,535.
  let end = bytes.length - 22;
  while (end >= 0 && end >= bytes.length - 22 - 65_535 && view.getUint32(end, true) !== 0x06054b50) end--;
  if (end < 0 || view.getUint32(end, true) !== 0x06054b50) throw damaged();
  const [disk, directoryDisk, here] = [4, 6, 8].map((o) => view.getUint16(end + o, true));
  const count = view.getUint16(end + 10, true);
  const directorySize = view.getUint32(end + 12, true);
  let at = view.getUint32(end + 16, true);
  if (count === 0xffff || at === 0xffffffff)
    throw new ArchiveError(`${what} is a zip of the 64-bit kind, which is not read: export the piece again.`);
  if (disk !== 0 || directoryDisk !== 0 || here !== count)
    throw new ArchiveError(`${what} says that it is one of several parts, which are not read: pack it as one file.`);
  const directory = at;
  // What lies between the directory and its end would be read by some and not by others.
  if (directory + directorySize !== end) throw damaged();
  const places: [number, number][] = [];
  for (let n = 0; n < count; n++) {
    if (at + 46 > end || view.getUint32(at, true) !== 0x02014b50) throw damaged();
    const size = view.getUint32(at + 20, true);
    const from = view.getUint32(at + 42, true);
    if (from + 30 > bytes.length || view.getUint32(from, true) !== 0x04034b50) throw damaged();
    places.push([from, from + 30 + view.getUint16(from + 26, true) + view.getUint16(from + 28, true) + size]);
    at += 46 + view.getUint16(at + 28, true) + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
  }
  if (at !== end) throw damaged();
  places.sort((a, b) => a[0] - b[0]);
  places.forEach(([, to], n) => {
    if (to > (places[n + 1]?.[0] ?? directory))
      throw new ArchiveError(`${what} holds files that lie over each other: it is refused.`);
  });
}

/** A name out of an archive, fit to be read. */
export const printed = (name: string): string => name.slice(0, 60).replace(/[\u0000-\u001f\u007f-\u009f]/g, '?');

/** Packs files. PNG and GLB are compressed already or nearly so: they are stored. */
export function writeZip(files: Iterable<[string, Uint8Array]>): Uint8Array {
  const zippable: Zippable = {};
  // A fixed time keeps the same input the same bytes; zip knows no year before 1980.
  for (const [name, bytes] of files)
    zippable[name] = [bytes, { level: /\.(png|glb)$/.test(name) ? 0 : 6, mtime: new Date(1980, 0, 2) }];
  return zipSync(zippable);
}
