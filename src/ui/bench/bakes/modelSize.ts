import { useMemo } from 'react';
import { boundsOf } from '@/core/mesh/model';
import { useBench } from '../store';

/** Longest side of the model. */
export function useModelSize(): number {
  const positions = useBench((s) => s.geometry?.positions);
  return useMemo(() => {
    if (!positions) return 1;
    const { min, max } = boundsOf(positions);
    return Math.max(...min.map((v, k) => max[k] - v)) || 1;
  }, [positions]);
}
