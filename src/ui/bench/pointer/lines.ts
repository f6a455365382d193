/** The point that lines run to, if there is one: the vanishing point of planks, of a fan. */
import { create } from 'zustand';
import type { Sample } from '@/core/hand/sample';
import type { Marked } from './places';
import { say } from '../store';

interface Lines {
  point: Marked | null;
  on: boolean;
}
export const useLines = create<Lines>(() => ({ point: null, on: false }));

export function setLinePoint(at: Sample, point: number[] | null): void {
  useLines.setState({ point: { at, point }, on: true });
  say('Strokes run to this point now. The key ends it.');
}

/** Off, or on again; null: there is no point yet, which is said. */
export function toggleLines(): void {
  const { point, on } = useLines.getState();
  if (!point) return say('Hold the key and click where lines are to run to.');
  useLines.setState({ on: !on });
  say(on ? 'Strokes run freely.' : 'Strokes run to the point again.');
}
