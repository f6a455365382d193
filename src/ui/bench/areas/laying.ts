/** How paint is laid: by strokes, or all at once as an area; each with its picture and key, and what there is to set. */
import {
  Blend,
  Circle,
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
import type { Area } from '@/core/hand/areas';
import type { FillKind } from '@/core/hand/areas/fill';
import type { MapId } from '@/core/kinds/maps';

export type Laying = 'stroke' | 'rectangle' | 'ellipse' | 'polygon' | 'lasso' | 'line' | 'gradient' | 'fill' | 'same' | 'frame';

export interface LayingFace {
  type: Laying;
  label: string;
  hint: string;
  icon: LucideIcon;
  key: string;
}

export const LAYINGS: LayingFace[] = [
  { type: 'stroke', label: 'Strokes', hint: 'Paint goes where the pen goes.', icon: PenLine, key: '' },
  { type: 'rectangle', label: 'Rectangle', hint: 'Drag. Shift: square, Alt: from its middle.', icon: Square, key: 'shift+r' },
  { type: 'ellipse', label: 'Ellipse', hint: 'Drag. Shift: circle, Alt: from its middle.', icon: Circle, key: 'shift+e' },
  {
    type: 'polygon',
    label: 'Polygon',
    hint: 'Click its corners; Enter or a double click closes it, Backspace takes one back.',
    icon: Pentagon,
    key: 'shift+p',
  },
  { type: 'lasso', label: 'Lasso', hint: 'Draw around what is to be covered.', icon: Lasso, key: 'shift+l' },
  { type: 'line', label: 'Line', hint: 'Drag. Shift: at steps of 15°.', icon: Slash, key: 'shift+i' },
  {
    type: 'gradient',
    label: 'Gradient',
    hint: 'Drag from the active well to the other. It fills all that the fence leaves.',
    icon: Blend,
    key: 'shift+g',
  },
  { type: 'fill', label: 'Fill', hint: 'Click what is to be filled.', icon: PaintBucket, key: '.' },
  {
    type: 'same',
    label: 'Fill the same colour',
    hint: 'Click a colour: what looks like it is filled.',
    icon: WandSparkles,
    key: ',',
  },
  {
    type: 'frame',
    label: 'Frame islands',
    hint: 'Click: every island, or the one clicked, gets a band along its edge.',
    icon: Frame,
    key: 'shift+y',
  },
];

/** What areas are set to; one setting serves all that have it. */
export interface AreaSettings {
  outlined: boolean;
  /** Of outlines and lines: pixels in the model pane, texels in the flat sheet. */
  width: number;
  soft: number;
  layers: 'front' | 'all';
  form: 'linear' | 'radial';
  ends: 'wells' | 'fade';
  through: 'surface' | 'view';
  fill: FillKind;
  tolerance: number;
  contiguous: boolean;
  sameOf: 'all' | 'layer';
  frameOf: 'all' | 'island';
  frameWidth: number;
  frameSide: 'inside' | 'outside';
}

export const AREA_START: AreaSettings = {
  outlined: false,
  width: 8,
  soft: 0,
  layers: 'front',
  form: 'linear',
  ends: 'wells',
  through: 'surface',
  fill: 'island',
  tolerance: 6,
  contiguous: true,
  sameOf: 'all',
  frameOf: 'all',
  frameWidth: 4,
  frameSide: 'inside',
};

/** The area as the engine takes it; null: paint goes by strokes. `map`: the one that is looked at. */
export function areaOf(laying: Laying, s: AreaSettings, map: MapId, angle: number): Area | null {
  const shape = { type: 'shape' as const, soft: s.soft, layers: s.layers, grazing: 0, angle };
  switch (laying) {
    case 'stroke':
      return null;
    case 'rectangle':
    case 'ellipse':
      return { ...shape, figure: laying, width: s.outlined ? s.width : null };
    case 'polygon':
    case 'lasso':
      return { ...shape, figure: 'polygon', width: s.outlined ? s.width : null };
    case 'line':
      return { ...shape, figure: 'line', width: s.width };
    case 'gradient':
      return { type: 'gradient', form: s.form, ends: s.ends, through: s.through, layers: s.layers, grazing: 0 };
    case 'fill':
      return { type: 'fill', of: s.fill, flat: 1 };
    case 'same':
      return { type: 'same', map, of: s.sameOf, tolerance: s.tolerance / 100, contiguous: s.contiguous };
    case 'frame':
      return { type: 'frame', of: s.frameOf, width: s.frameWidth, side: s.frameSide };
  }
}
