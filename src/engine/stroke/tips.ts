/** Pictures of tips that came to the server, fetched once each; those that Brindle draws are there anyway. */
import { decodePng } from '../../core/codec/png';
import { picturesOf } from '../../core/hand/rack/file';
import { drawnPicture, type Pictures } from '../../core/hand/pictures';
import { fittedPicture, type TipPicture } from '../../core/hand/tipPicture';
import type { Brush } from '../../core/hand/brush';
import type { Remote } from '../remote';

type Named = Parameters<typeof picturesOf>[0]['brush'];

/** 8-bit grey PNG, white paints. */
export function tipOfPng(png: Uint8Array): TipPicture {
  const { width, height, channels, bits, data } = decodePng(png, 'The picture of the tip');
  const values = new Float32Array(width * height);
  for (let i = 0; i < values.length; i++) values[i] = data[i * channels] / (bits === 8 ? 255 : 65535);
  return fittedPicture(width, height, values);
}

export class Tips {
  private known = new Map<string, TipPicture | null>();

  constructor(private remote: Pick<Remote, 'tip'>) {}

  readonly pictures: Pictures = (id) => drawnPicture(id) ?? this.known.get(id) ?? null;

  /** Pictures of a brush that are not here yet. */
  missing(brush: Brush | Named): string[] {
    return picturesOf({ brush: brush as Named }).filter((id) => !this.known.has(id));
  }

  /** Throws where the server does not answer. One that it does not have is said to be lost, and is painted round. */
  async fetch(ids: readonly string[]): Promise<boolean> {
    let all = true;
    for (const id of ids) {
      const png = await this.remote.tip(id);
      this.known.set(id, png && tipOfPng(png));
      all &&= png !== null;
    }
    return all;
  }
}
