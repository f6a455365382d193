/** The demo pieces, without the scripts that paint them (scripts.ts). */
export interface DemoPiece {
  /** The piece's id, the same on every server. */
  id: string;
  title: string;
  /** Texels a side of its largest sheet in the piece file. The tortoise is painted by hand all over: at 2048 its file would have 10 MiB. */
  size: number;
  /** The dense model from which its maps were baked. */
  twin?: 'lantern' | 'tortoise';
}

export type DemoName = 'buoy' | 'setts' | 'lantern' | 'tortoise';

/** In the order in which they are imported: the small ones, which take a second, come first. */
export const DEMO: Record<DemoName, DemoPiece> = {
  buoy: { id: 'demo-buoy', title: 'Buoy token', size: 64 },
  setts: { id: 'demo-setts', title: 'Quay setts', size: 1024 },
  lantern: { id: 'demo-lantern', title: 'Harbour lantern', size: 2048, twin: 'lantern' },
  tortoise: { id: 'demo-tortoise', title: 'Courier tortoise', size: 1024, twin: 'tortoise' },
};
export const DEMO_NAMES = Object.keys(DEMO) as DemoName[];
