/** Run by the server: reads an EXR or a TIFF of other numbers than 8 or 16 bits; 16 bits into a file, what it is to the output. */
import { open, writeFile } from 'node:fs/promises';
import { fitColours, fitValues, isExr, readExr, readRangedTiff } from '../src/server/rangedPictures';
import { tiffHead } from '../src/server/tiffHead';

const [path, as, texels] = process.argv.slice(2);

async function firstBytes(): Promise<Uint8Array> {
  const file = await open(path);
  const head = new Uint8Array(4);
  await file.read(head, 0, 4);
  await file.close();
  return head;
}

async function run(): Promise<void> {
  const picture = isExr(await firstBytes()) ? await readExr(path) : await readRangedTiff(path, await tiffHead(path));
  const { data, rule } = as === 'colour' ? fitColours(picture) : fitValues(picture);
  await writeFile(texels, new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
  const { width, height, channels } = picture;
  process.stdout.write(JSON.stringify({ width, height, channels, rule }));
}

// A damaged file is no fault of ours: nobody need read of it.
run().catch(() => (process.exitCode = 1));
