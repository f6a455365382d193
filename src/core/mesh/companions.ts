/** A model's file, and the pictures that it names and that lie beside it. */
import { plainPicture, type ModelPicture } from './model';

/** File name (may hold folders, forward slashes) → bytes. */
export type FileSet = ReadonlyMap<string, Uint8Array>;

/** Extensions of what is read. */
export const MODEL_FILE = /\.(glb|gltf|obj|ply|stl|dae)$/i;

const MIMES: Record<string, string> = { png: 'image/png', tga: 'image/x-tga', webp: 'image/webp' };

/** A picture file by its name; which reader takes it is decided by its content, but for TGA, which has no signature. */
export const namedPicture = (path: string, bytes: Uint8Array): ModelPicture =>
  plainPicture(MIMES[/\.(\w+)$/.exec(path)?.[1].toLowerCase() ?? ''] ?? 'image/jpeg', bytes);

/** By the whole path, else by the name alone, in either case of letters. */
export function findCompanion(files: FileSet, path: string): Uint8Array | undefined {
  let plain = path
    .replace(/^file:\/*/i, '')
    .replaceAll('\\', '/')
    .replace(/^\.\//, '');
  try {
    plain = decodeURIComponent(plain);
  } catch {
    // The percent escapes are invalid, so the name is used as it is.
  }
  const exact = files.get(plain);
  if (exact) return exact;
  const wanted = plain.split('/').pop()!.toLowerCase();
  for (const [name, bytes] of files) if (name.split('/').pop()!.toLowerCase() === wanted) return bytes;
  return undefined;
}
