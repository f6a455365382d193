/** How much a lightness of 0 … 1 belongs to the shadows, the middle tones and the lights: shares that sum to 1. */
export const TONE_RANGES = ['shadows', 'middle', 'lights'] as const;
export type ToneRange = (typeof TONE_RANGES)[number];

export const TONE_SHARE: Record<ToneRange, (v: number) => number> = {
  shadows: (v) => (1 - v) ** 2,
  middle: (v) => 2 * v * (1 - v),
  lights: (v) => v ** 2,
};
