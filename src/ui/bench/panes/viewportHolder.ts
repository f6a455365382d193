/** The one viewport of the open bench, for parts of the interface that are far from the canvas. */
import type { BenchViewport } from '@/viewport/benchViewport';

export const holder: { viewport: BenchViewport | null } = { viewport: null };
