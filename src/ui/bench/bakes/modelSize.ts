import { useBench } from '../store';

/** Longest side of the model. */
export function useModelSize(): number {
  const geometry = useBench((s) => s.geometry);
  if (!geometry) return 1;
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const p = geometry.positions;
  for (let i = 0; i < p.length; i++) {
    if (p[i] < low[i % 3]) low[i % 3] = p[i];
    if (p[i] > high[i % 3]) high[i % 3] = p[i];
  }
  return Math.max(...low.map((v, k) => high[k] - v)) || 1;
}
