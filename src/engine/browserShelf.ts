/** Shelves in the browser's own private files (origin private file system, WHATWG File System). */
import { Shelf, type OpenShelf, type ShelfFile } from './shelf';

const FOLDER = 'drawn';
/** Of all pieces together: some ten of 2048², as they are seldom all drawn. */
const BUDGET_BYTES = 1024 ** 3;
/** Which build drew it: another one may draw it differently. */
const BUILD = process.env.BRINDLE_BUILD ?? '';

/** What the type library of pages leaves out, since only workers have it. */
interface Openable {
  createSyncAccessHandle(): Promise<ShelfFile>;
}

export const browserShelf: OpenShelf = async (pieceId, sheetId) => {
  // A build under development changes all the time.
  if (!BUILD) return null;
  try {
    const root = await navigator.storage.getDirectory();
    const folder = await root.getDirectoryHandle(FOLDER, { create: true });
    const name = `${BUILD}.${encodeURIComponent(pieceId)}.${encodeURIComponent(sheetId)}`;
    const file = (await folder.getFileHandle(name, { create: true })) as unknown as Openable;
    const shelf = new Shelf(await file.createSyncAccessHandle());
    void tidy(folder, name).catch(() => undefined);
    return shelf;
  } catch {
    // No such files in this browser, no room, or another tab has it: everything is drawn anew.
    return null;
  }
};

/** Takes away what other builds drew, and of this one's the oldest beyond the budget. */
async function tidy(folder: FileSystemDirectoryHandle, except: string): Promise<void> {
  const files: { name: string; bytes: number; at: number }[] = [];
  for await (const handle of folder.values()) {
    if (handle.kind !== 'file' || handle.name === except) continue;
    if (!handle.name.startsWith(`${BUILD}.`)) {
      // In use by a tab that still runs the older build: another time.
      await folder.removeEntry(handle.name).catch(() => undefined);
      continue;
    }
    const { size, lastModified } = await (handle as FileSystemFileHandle).getFile();
    files.push({ name: handle.name, bytes: size, at: lastModified });
  }
  files.sort((a, b) => b.at - a.at);
  let sum = 0;
  for (const { name, bytes } of files) if ((sum += bytes) > BUDGET_BYTES) await folder.removeEntry(name).catch(() => undefined);
}
