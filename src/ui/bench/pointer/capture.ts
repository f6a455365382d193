/** A tip out of what is seen: a rectangle is dragged over either pane. */
import { create } from 'zustand';
import { importTip, say } from '../store';
import type { Gesture, Pane, PaneName } from './pane';
import { panePoint } from './samples';

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

interface Capture {
  /** The next drag over a pane says what. */
  on: boolean;
  /** The drag at hand, pane pixels. */
  box: (Box & { pane: PaneName }) | null;
}
export const useCapture = create<Capture>(() => ({ on: false, box: null }));

export const endCapture = (): void => useCapture.setState({ on: false, box: null });

/** Pixels of the screen; less is a slip of the hand. */
const LEAST_SIDE = 4;
/** Of 255: what differs by less is the same to the eye. */
const LEAST_CONTRAST = 6;

/** Luma of ITU-R BT.709, on the stored values. */
const lumaAt = (d: ArrayLike<number>, o: number): number => 0.2126 * d[o] + 0.7152 * d[o + 1] + 0.0722 * d[o + 2];

/**
 * How much each pixel paints, 0 … 255: what stands out against the rim of the rectangle, the most of it in full; nothing
 * where only the pane's ground is seen. `pixels`: RGBA row by row. null: all of it looks the same.
 */
export function standsOut(
  pixels: ArrayLike<number>,
  width: number,
  height: number,
  ground: readonly number[],
): Uint8ClampedArray | null {
  const isGround = (o: number) => [0, 1, 2].every((k) => Math.abs(pixels[o + k] - ground[k]) <= 1);
  let [sum, count] = [0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x += y === 0 || y === height - 1 ? 1 : Math.max(1, width - 1)) {
      const o = (y * width + x) * 4;
      if (isGround(o)) continue;
      sum += lumaAt(pixels, o);
      count++;
    }
  const rim = count > 0 ? sum / count : null;
  const off = new Float32Array(width * height);
  let most = 0;
  for (let i = 0; i < off.length; i++) {
    if (isGround(i * 4)) continue;
    // With nothing but ground around it, the thing itself is the tip.
    off[i] = rim === null ? 255 : Math.abs(lumaAt(pixels, i * 4) - rim);
    if (off[i] > most) most = off[i];
  }
  return most < LEAST_CONTRAST ? null : Uint8ClampedArray.from(off, (v) => (v / most) * 255);
}

export function capture(pane: Pane, start: PointerEvent): Gesture {
  const from = panePoint(start, pane.box);
  const boxTo = (e: PointerEvent): Box => {
    const to = panePoint(e, pane.box);
    const [x, y] = [Math.max(0, Math.min(from.x, to.x)), Math.max(0, Math.min(from.y, to.y))];
    const { clientWidth, clientHeight } = pane.box;
    return {
      ...{ x, y },
      width: Math.min(clientWidth, Math.max(from.x, to.x)) - x,
      height: Math.min(clientHeight, Math.max(from.y, to.y)) - y,
    };
  };
  return {
    hidesRing: true,
    move: (e) => useCapture.setState({ box: { ...boxTo(e), pane: pane.name } }),
    up: (e) => {
      const box = boxTo(e);
      endCapture();
      void take(pane, box).catch((error: unknown) => say((error as Error).message));
    },
    cancel: endCapture,
    lost: endCapture,
  };
}

async function take({ name, box, viewport }: Pane, { x, y, width, height }: Box): Promise<void> {
  const seen = viewport.readPixels(name);
  if (!seen || Math.min(width, height) < LEAST_SIDE) return say('That is too small for a tip: drag over a larger piece.');
  const ratio = seen.width / box.clientWidth;
  const [left, top, w, h] = [x, y, width, height].map((v) => Math.round(v * ratio));
  const [columns, rows] = [Math.min(w, seen.width - left), Math.min(h, seen.height - top)];
  const cut = new Uint8ClampedArray(columns * rows * 4);
  for (let row = 0; row < rows; row++) {
    const at = ((top + row) * seen.width + left) * 4;
    cut.set(seen.data.subarray(at, at + columns * 4), row * columns * 4);
  }
  const paints = standsOut(cut, columns, rows, viewport.ground);
  if (!paints) return say('All of it looks the same: drag over something that stands out.');
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [columns, rows];
  const image = new ImageData(columns, rows);
  for (let i = 0; i < paints.length; i++) image.data.set([255, 255, 255, paints[i]], i * 4);
  canvas.getContext('2d')!.putImageData(image, 0, 0);
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
  if (blob && (await importTip(new File([blob], 'From the view.png')))) say('What stands out there is the tip now.');
}
