/** How much of something counts at each place of a sheet: a grey picture laid over it, as reaches and directions are painted. */
import type { Bitmap } from '../tile/bitmap';

export class Share {
  private readonly scale: number;

  constructor(private readonly picture: Bitmap) {
    this.scale = 1 / (picture.bits === 8 ? 255 : 65535);
  }

  /** 0 … 1, between texels mixed; u and v in shares of the sheet, v downwards. Beyond the border what lies at it. */
  at(u: number, v: number): number {
    const { width, height } = this.picture;
    const x = Math.min(width - 1, Math.max(0, u * width - 0.5));
    const y = Math.min(height - 1, Math.max(0, v * height - 0.5));
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    const [x1, y1] = [Math.min(width - 1, x0 + 1), Math.min(height - 1, y0 + 1)];
    const [fx, fy] = [x - x0, y - y0];
    const top = this.texel(x0, y0) * (1 - fx) + this.texel(x1, y0) * fx;
    const low = this.texel(x0, y1) * (1 - fx) + this.texel(x1, y1) * fx;
    return top * (1 - fy) + low * fy;
  }

  private texel(x: number, y: number): number {
    const { width, channels, data } = this.picture;
    return data[(y * width + x) * channels] * this.scale;
  }
}

/** Shares of a reach and a direction at a place of the sheet; null: the same everywhere. */
export interface Painted {
  reach: Share | null;
  split: Share | null;
}
