/** How paint is laid: by strokes, or all at once as an area. Each way to lay an area has a line here: its picture and its key. */
import {
  Blend,
  Circle,
  CircleDashed,
  Frame,
  Lasso,
  PaintBucket,
  PenLine,
  Pentagon,
  Slash,
  Square,
  WandSparkles,
  type LucideIcon,
} from 'lucide-react';
import { areaWay, areaWays } from '@/core/hand/areas';

/** `stroke`, or the id of a way to lay an area. */
export type Laying = string;
export const STROKES: Laying = 'stroke';

const FACES: Record<Laying, { icon: LucideIcon; key: string }> = {
  rectangle: { icon: Square, key: 'shift+r' },
  ellipse: { icon: Circle, key: 'shift+e' },
  polygon: { icon: Pentagon, key: 'shift+p' },
  lasso: { icon: Lasso, key: 'shift+l' },
  line: { icon: Slash, key: 'shift+i' },
  gradient: { icon: Blend, key: 'shift+g' },
  fill: { icon: PaintBucket, key: '.' },
  same: { icon: WandSparkles, key: ',' },
  frame: { icon: Frame, key: 'shift+y' },
};

export interface LayingFace {
  id: Laying;
  label: string;
  hint: string;
  icon: LucideIcon;
  key: string;
}

export const layings = (): LayingFace[] => [
  { id: STROKES, label: 'Strokes', hint: 'Paint goes where the pen goes.', icon: PenLine, key: '' },
  ...areaWays().map(({ id, label, hint }) => ({ id, label, hint, ...(FACES[id] ?? { icon: CircleDashed, key: '' }) })),
];

/** A way that was saved, if there is such a one today. */
export const knownLaying = (saved: unknown): Laying => (typeof saved === 'string' && areaWay(saved) ? saved : STROKES);
