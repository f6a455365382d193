/** A picture from the disk for a coat: the server reads any common format and gives it back as 16-bit texels. */
import { mapKind, type MapId } from '@/core/document/maps';
import type { Layer, Sheet } from '@/core/document/schema';
import type { Picture } from '@/core/codec/png';
import { say, work } from './store';

export function askForPicture(sheet: Sheet, layer: Layer, map: MapId): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.accept = 'image/png,image/jpeg,image/tiff,image/webp,.png,.jpg,.jpeg,.tif,.tiff,.webp';
  input.onchange = () => {
    const file = input.files?.[0];
    if (file) void layFile(sheet, layer, map, file);
  };
  input.click();
}

export async function layFile(sheet: Sheet, layer: Layer, map: MapId, file: File): Promise<void> {
  const kind = mapKind(map) === 'colour' ? 'colour' : 'data';
  const response = await fetch(`/api/pictures?name=${encodeURIComponent(file.name)}&as=${kind}`, {
    method: 'POST',
    body: file,
  }).catch(() => null);
  if (!response) return say('The server does not answer: the picture is read again when it is back.');
  if (!response.ok) {
    const { message } = (await response.json().catch(() => ({}))) as { message?: string };
    return say(message ?? `"${file.name}" could not be read.`);
  }
  const header = response.headers;
  const picture: Picture = {
    width: Number(header.get('x-width')),
    height: Number(header.get('x-height')),
    channels: Number(header.get('x-channels')) as Picture['channels'],
    bits: 16,
    data: new Uint16Array(await response.arrayBuffer()),
  };
  const name = file.name.replace(/[/\\\u0000-\u001f]+/g, '-').slice(0, 120) || 'Picture';
  work({ do: 'picture', sheetId: sheet.id, layerId: layer.id, map, name, picture });
}
