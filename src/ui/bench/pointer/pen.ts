/**
 * What a pen's pressure means to its owner: a response, learnt from a few strokes, and a hand that is made up for those
 * without a pen.
 */
import { response } from '@/core/hand/vary';

export interface PenSettings {
  /** As in brushes: −1 … 1, towards late or early. */
  bend: number;
  /** Without a pen: every press is a full one, or as hard as the hand is slow. */
  mouse: 'full' | 'speed';
}
export const PLAIN_PEN: PenSettings = { bend: 0, mouse: 'full' };

/** The response for which the middle of what was pressed counts as half. */
export function bendFor(pressures: readonly number[]): number {
  const touched = pressures.filter((p) => p > 0.02 && p < 0.98).toSorted((a, b) => a - b);
  if (touched.length === 0) return 0;
  const middle = touched[touched.length >> 1];
  // middle ^ (4 ^ −bend) = ½.
  const bend = -Math.log(Math.log(0.5) / Math.log(middle)) / Math.log(4);
  return Math.max(-1, Math.min(1, Math.round(bend * 100) / 100));
}

/** Pixels a millisecond that count as fast for a hand that is made up. */
const FAST = 2.2;
const LEAST = 0.15;
/** How much of the old pressure stays at each event. */
const CALM = 0.75;
/** So many touches in a row without any pressure come from a pen that has none. */
const DEAF = 6;

/** The pressure of one pointer, event by event. */
export class Pressure {
  private last: { x: number; y: number; time: number; pressure: number } | null = null;
  private silent = 0;

  of(
    e: Pick<PointerEvent, 'pointerType' | 'pressure' | 'clientX' | 'clientY' | 'timeStamp'>,
    { bend, mouse }: PenSettings,
  ): number {
    if (e.pointerType === 'pen') {
      this.silent = e.pressure > 0 ? 0 : this.silent + 1;
      if (this.silent >= DEAF) return 1;
      return response(e.pressure, bend);
    }
    if (mouse === 'full' || e.pointerType === 'touch') return 1;
    const { last } = this;
    const ms = last ? e.timeStamp - last.time : 0;
    const speed = last && ms > 0 ? Math.hypot(e.clientX - last.x, e.clientY - last.y) / ms : 0;
    const wanted = Math.max(LEAST, 1 - speed / FAST);
    // A hand begins lightly.
    const pressure = last ? last.pressure * CALM + wanted * (1 - CALM) : LEAST * 2;
    if (!last || ms > 0) this.last = { x: e.clientX, y: e.clientY, time: e.timeStamp, pressure };
    return pressure;
  }
}
