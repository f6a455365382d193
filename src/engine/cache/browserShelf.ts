/** What is kept in the browser's own private files (origin private file system, WHATWG File System). */
import { Shelf, type BrowserShelves, type ShelfFile } from './shelf';

const FOLDER = 'drawn';
/** Of all pieces together: some ten of 2048², as they are seldom all drawn. */
const BUDGET_BYTES = 1024 ** 3;
/** Which build made it: another one may make it differently. */
export const BUILD = process.env.BRINDLE_BUILD ?? '';

/** What the type library of pages leaves out, since only workers have it. */
interface Openable {
  createSyncAccessHandle(): Promise<ShelfFile>;
}

async function open(name: string): Promise<ShelfFile | null> {
  // A build under development changes all the time.
  if (!BUILD) return null;
  try {
    const root = await navigator.storage.getDirectory();
    const folder = await root.getDirectoryHandle(FOLDER, { create: true });
    const file = (await folder.getFileHandle(`${BUILD}.${name}`, { create: true })) as unknown as Openable;
    tidied ??= new Promise((resolve) => setTimeout(resolve, TIDY_MS)).then(() => tidy(folder)).catch(() => undefined);
    return await file.createSyncAccessHandle();
  } catch {
    // No such files in this browser, no room, or another tab has it: everything is made anew.
    return null;
  }
}

let tidied: Promise<void> | null = null;
/** After a piece is open. */
const TIDY_MS = 20_000;

export const browserKeeping: BrowserShelves = {
  file: open,
  shelf: async (pieceId, sheetId) => {
    const file = await open(`${encodeURIComponent(pieceId)}.${encodeURIComponent(sheetId)}`);
    return file && new Shelf(file);
  },
};

/** Takes away what other builds made, and of this one's the oldest beyond the budget; what is in use stays. */
async function tidy(folder: FileSystemDirectoryHandle): Promise<void> {
  const files: { name: string; bytes: number; at: number }[] = [];
  const remove = (name: string) => folder.removeEntry(name).catch(() => undefined);
  for await (const handle of folder.values()) {
    if (handle.kind !== 'file') continue;
    if (!handle.name.startsWith(`${BUILD}.`)) await remove(handle.name);
    else {
      const { size, lastModified } = await handle.getFile();
      files.push({ name: handle.name, bytes: size, at: lastModified });
    }
  }
  files.sort((a, b) => b.at - a.at);
  let sum = 0;
  for (const { name, bytes } of files) if ((sum += bytes) > BUDGET_BYTES) await remove(name);
}
