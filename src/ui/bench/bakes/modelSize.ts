import { useBench } from '../store';
import { modelBox } from '../sources/presets';

/** Longest side of the model. */
export function useModelSize(): number {
  useBench((s) => s.geometry);
  const box = modelBox();
  return box ? Math.max(...box.min.map((v, k) => box.max[k] - v)) || 1 : 1;
}
