/** The tools of the hand with their pictures and keys: a line each, in the order of the hand. */
import {
  Bandage,
  Brush,
  CircleDashed,
  Contrast,
  Copy,
  Droplets,
  Eraser,
  Mountain,
  Pipette,
  Spline,
  SunMedium,
  Wind,
  type LucideIcon,
} from 'lucide-react';
import { TOOLS, TOOL_TYPES, type ToolType } from '@/core/hand/tools';

const FACES: { [T in ToolType]?: { icon: LucideIcon; key: string } } = {
  paint: { icon: Brush, key: 'b' },
  erase: { icon: Eraser, key: 'e' },
  dodge: { icon: SunMedium, key: 'r' },
  pattern: { icon: Spline, key: 'shift+s' },
  smear: { icon: Wind, key: 's' },
  blur: { icon: Droplets, key: 'a' },
  sharpen: { icon: Contrast, key: 'shift+a' },
  clone: { icon: Copy, key: 'd' },
  heal: { icon: Bandage, key: 'shift+d' },
  height: { icon: Mountain, key: 'w' },
};

/** Of a tool without a line above. */
const PLAIN_FACE = { icon: CircleDashed, key: '' };

/** What the pointer does in the panes; `pick` paints nothing. */
export type HandTool = ToolType | 'pick';

export interface ToolFace {
  type: HandTool;
  label: string;
  hint: string;
  icon: LucideIcon;
  key: string;
}

export const HAND_TOOLS: ToolFace[] = [
  ...TOOL_TYPES.map((type) => ({ type, label: TOOLS[type].label, hint: TOOLS[type].hint, ...(FACES[type] ?? PLAIN_FACE) })),
  { type: 'pick', label: 'Pick a painted value', hint: 'Takes what is painted there. Or hold Alt.', icon: Pipette, key: 'i' },
];
