import { sizeOf } from '@/core/mesh/model';
import { useBench } from '../store';
import { modelBox } from '../sources/presets';

/** Longest side of the model. */
export function useModelSize(): number {
  useBench((s) => s.geometry);
  const box = modelBox();
  return box ? sizeOf(box) : 1;
}
