/** What a pinboard shows and what is done to it, in the bench and in a window of its own that follows it. */
import { LIMITS } from '@/core/document/schema';
import type { Pin } from '@/core/document/pin';
import { ask } from '../../common/api';

/** Who shows a board: the bench, which has the piece, or a window that asks it. */
export interface BoardOwner {
  pins: readonly Pin[];
  /** `label`: what the trail says. */
  change: (pins: Pin[], label: string) => void;
  colour: (hex: string) => void;
  /** A tool that takes from elsewhere is to take from there, in pixels of the picture; false: none is in hand. */
  source?: (pin: Pin, x: number, y: number) => boolean;
  say: (message: string) => void;
}

const newId = () => crypto.randomUUID().slice(0, 13);

/** A new pin is no larger than this on the board, and lies beside the last. */
const START_SIDE = 260;
const GAP = 12;

/** Hangs pictures up, one after another; what is wrong with one is said, and the others hang all the same. */
export async function pinFiles(owner: BoardOwner, files: readonly File[]): Promise<void> {
  const fresh: Pin[] = [];
  for (const file of files) {
    if (owner.pins.length + fresh.length >= LIMITS.maxPins) {
      owner.say(`A pinboard holds up to ${LIMITS.maxPins} pictures: take some down first.`);
      break;
    }
    try {
      const name = file.name.replace(/[/\\]/g, ' ').trim().slice(0, LIMITS.maxNameLength) || 'Picture';
      const answer = await ask<{ picture: string; width: number; height: number }>(`/api/pins?name=${encodeURIComponent(name)}`, {
        method: 'POST',
        body: file,
      });
      const all = [...owner.pins, ...fresh];
      const right = Math.max(0, ...all.map((p) => p.x + p.width * p.scale + GAP));
      const scale = Math.min(1, START_SIDE / Math.max(answer.width, answer.height));
      fresh.push({
        id: newId(),
        name,
        ...answer,
        x: all.length ? right : 0,
        y: 0,
        scale,
        flip: false,
        grey: false,
        blur: 0,
        note: '',
      });
    } catch (error) {
      owner.say((error as Error).message);
    }
  }
  if (fresh.length)
    owner.change([...owner.pins, ...fresh], fresh.length === 1 ? `Pin ${fresh[0].name}` : `Pin ${fresh.length} pictures`);
}

/** Puts the pins in rows, without gaps and overlaps. */
export function arranged(pins: readonly Pin[]): Pin[] {
  const height = 200;
  const rowWidth = Math.max(700, Math.sqrt(pins.length) * 320);
  let [x, y] = [0, 0];
  return pins.map((pin) => {
    const scale = height / pin.height;
    const width = pin.width * scale;
    if (x > 0 && x + width > rowWidth) [x, y] = [0, y + height + GAP];
    const out = { ...pin, x, y, scale };
    x += width + GAP;
    return out;
  });
}

/** What holds all pins; null: there are none. */
export function boundsOf(pins: readonly Pin[]): { x: number; y: number; width: number; height: number } | null {
  if (pins.length === 0) return null;
  const x = Math.min(...pins.map((p) => p.x));
  const y = Math.min(...pins.map((p) => p.y));
  return {
    x,
    y,
    width: Math.max(...pins.map((p) => p.x + p.width * p.scale)) - x,
    height: Math.max(...pins.map((p) => p.y + p.height * p.scale)) - y,
  };
}

/** The mean of a square of pixels in linear light, as hex; `side` pixels of the picture a side. */
export function meanColour(data: ArrayLike<number>): string | null {
  let [r, g, b, n] = [0, 0, 0, 0];
  const linear = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
  for (let o = 0; o < data.length; o += 4) {
    const a = data[o + 3] / 255;
    r += linear(data[o] / 255) * a;
    g += linear(data[o + 1] / 255) * a;
    b += linear(data[o + 2] / 255) * a;
    n += a;
  }
  if (n === 0) return null;
  const srgb = (v: number) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);
  return `#${[r, g, b]
    .map((v) =>
      Math.round(srgb(v / n) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}

export interface ToPinWindow {
  pins: Pin[];
}
/** From a window to the bench. */
export type FromPinWindow = { do: 'hello' } | { do: 'change'; pins: Pin[]; label: string } | { do: 'colour'; hex: string };

export const channelName = (pieceId: string): string => `brindle-pins-${pieceId}`;
