/** Files from a drop or a chooser, folders walked, with their paths. */
export const DROP_LIMITS = { maxFiles: 500, maxBytes: 768 * 1024 * 1024 } as const;

export type NamedFile = [path: string, file: File];

export function chosenFiles(list: FileList): NamedFile[] {
  return [...list].map((f) => [f.webkitRelativePath || f.name, f]);
}

export async function droppedFiles(transfer: DataTransfer): Promise<NamedFile[]> {
  const entries = [...transfer.items].map((i) => i.webkitGetAsEntry()).filter((e): e is FileSystemEntry => e !== null);
  if (entries.length === 0) return chosenFiles(transfer.files);
  const out: NamedFile[] = [];
  for (const entry of entries) await walk(entry, out);
  return out;
}

async function walk(entry: FileSystemEntry, out: NamedFile[]): Promise<void> {
  if (out.length >= DROP_LIMITS.maxFiles) return;
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
    out.push([entry.fullPath.replace(/^\//, ''), file]);
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  // readEntries hands out at most 100 at a time.
  for (;;) {
    const batch = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (batch.length === 0) return;
    for (const child of batch) await walk(child, out);
  }
}

/** Reads them all, or says in one sentence why not. */
export async function readFiles(files: NamedFile[]): Promise<[string, Uint8Array<ArrayBuffer>][]> {
  const total = files.reduce((n, [, f]) => n + f.size, 0);
  if (files.length >= DROP_LIMITS.maxFiles)
    throw new Error(`These are more than ${DROP_LIMITS.maxFiles} files: drop only the model with its own files.`);
  if (total > DROP_LIMITS.maxBytes)
    throw new Error(
      `These files are ${Math.round(total / 1048576)} MiB together, at most ${DROP_LIMITS.maxBytes >> 20} are taken: reduce the model.`,
    );
  return Promise.all(
    files.map(async ([path, f]): Promise<[string, Uint8Array<ArrayBuffer>]> => [path, new Uint8Array(await f.arrayBuffer())]),
  );
}
