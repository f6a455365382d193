/** A change as a file: what was asked for, as JSON; numbers by the thousand (pictures, tiles) as files beside it. */
import { writeZip } from '@/core/codec/zip';
import { fileSafe } from '@/core/text';
import type { Recorded } from '@/engine/keeping/journal/journal';

export function asideFile(entry: Recorded): [bytes: Uint8Array<ArrayBuffer>, name: string] {
  const files: [string, Uint8Array][] = [];
  const { intent, samples, id, label, at, aside, pieceId } = entry;
  const json = JSON.stringify(
    {
      brindle: 'change',
      id,
      piece: pieceId,
      label,
      at: at ? new Date(at).toISOString() : null,
      why: aside?.why ?? null,
      intent,
      samples,
    },
    (_key, value: unknown) => {
      if (!ArrayBuffer.isView(value)) return value;
      const name = `data-${files.length + 1}.bin`;
      files.push([name, new Uint8Array(value.buffer, value.byteOffset, value.byteLength).slice()]);
      return { file: name, type: value.constructor.name };
    },
    1,
  );
  files.unshift(['change.json', new TextEncoder().encode(json)]);
  return [writeZip(files) as Uint8Array<ArrayBuffer>, `${fileSafe(label || 'change')}.zip`];
}
