/** Whole places beyond an axis of `n` texels: come round on the other side, or held at the border. */
export const around = (i: number, n: number): number => ((i % n) + n) % n;
export const within = (i: number, n: number): number => (i < 0 ? 0 : i >= n ? n - 1 : i);
