/** One number for a cell of an endless grid: whole numbers within ± 65,536 each way; further off they come round. */
export const cellKey = (x: number, y: number, z: number): number =>
  ((x + 65536) % 131072) * 17179869184 + ((y + 65536) % 131072) * 131072 + ((z + 65536) % 131072);
