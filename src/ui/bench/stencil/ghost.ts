/** What a stencil's ghost looks like, and where it lies in a pane. */
import { hexToSrgb } from '@/core/colour/transfer';
import type { Stencil } from '@/core/document/stencil';
import { letThrough } from '@/core/hand/stencil';
import type { Answers } from '@/engine/protocol';
import type { BenchViewport } from '@/viewport/benchViewport';
import type { PaneName } from '../pointer/pane';

type Shown = NonNullable<Answers['stencil']>;

/** What is painted through it: its own colours, or the well as much as it lets through. */
export function ghostPixels({ width, height, data }: Shown, stencil: Stencil, well: string): ImageData {
  const out = new ImageData(width, height);
  const colour = hexToSrgb(well).map((v) => Math.round(v * 255));
  for (let o = 0; o < data.length; o += 4) {
    const own = stencil.use === 'colour';
    for (let k = 0; k < 3; k++) out.data[o + k] = own ? data[o + k] : colour[k];
    out.data[o + 3] = letThrough(stencil, data[o] / 255, data[o + 1] / 255, data[o + 2] / 255, data[o + 3] / 255) * 255;
  }
  return out;
}

/** A stencil in a pane: its middle and its height in pane pixels, and how it is turned there; null: it is not over this pane. */
export interface GhostPlace {
  x: number;
  y: number;
  height: number;
  /** Degrees. */
  angle: number;
  flip: boolean;
}

/** Pane pixels of the unit in which a stencil lies, and where its origin is. */
export interface Unit {
  pixels: number;
  x: number;
  y: number;
  /** Degrees by which the pane turns what lies in it, and whether it flips that afterwards. */
  angle: number;
  flipped: boolean;
}

export function unitIn(viewport: BenchViewport, pane: PaneName, stencil: Stencil, sheetWidth: number): Unit | null {
  if (stencil.over === 'view') {
    const view = pane === 'model' ? viewport.view : null;
    return view && { pixels: view.height, x: view.width / 2, y: view.height / 2, angle: 0, flipped: false };
  }
  if (pane !== 'flat') return null;
  const origin = viewport.flatCamera.pixelAt(0, 0);
  const { zoom, angle, flipped } = viewport.flatCamera;
  return { pixels: sheetWidth * zoom, ...origin, angle: (angle * 180) / Math.PI, flipped };
}

const turned = (x: number, y: number, degrees: number): [number, number] => {
  const a = (degrees * Math.PI) / 180;
  return [x * Math.cos(a) - y * Math.sin(a), x * Math.sin(a) + y * Math.cos(a)];
};

export function placeIn(stencil: Stencil, unit: Unit): GhostPlace {
  const [dx, dy] = turned(stencil.x * unit.pixels, stencil.y * unit.pixels, unit.angle);
  const angle = stencil.angle + unit.angle;
  return {
    x: unit.x + (unit.flipped ? -dx : dx),
    y: unit.y + dy,
    height: stencil.size * unit.pixels,
    angle: unit.flipped ? -angle : angle,
    flip: stencil.flip !== unit.flipped,
  };
}

/** Where its middle has to lie to be at a pixel. */
export function middleAt(unit: Unit, x: number, y: number): Pick<Stencil, 'x' | 'y'> {
  const [dx, dy] = turned(unit.flipped ? unit.x - x : x - unit.x, y - unit.y, -unit.angle);
  return { x: dx / unit.pixels, y: dy / unit.pixels };
}

/** How large and how turned it has to be for its upper right corner to lie at a pixel. */
export function cornerAt(stencil: Stencil, unit: Unit, aspect: number, x: number, y: number): Pick<Stencil, 'size' | 'angle'> {
  const { x: mx, y: my } = placeIn(stencil, unit);
  const [dx, dy] = [x - mx, y - my];
  const half = Math.hypot(aspect, 1) / 2;
  const size = Math.min(100, Math.max(0.005, Math.hypot(dx, dy) / half / unit.pixels));
  // The corner lies up and to the right of the middle.
  const seen = ((Math.atan2(dy, dx) - Math.atan2(-1, aspect)) * 180) / Math.PI;
  const angle = (unit.flipped ? -seen : seen) - unit.angle;
  return { size, angle: ((((angle + 180) % 360) + 360) % 360) - 180 };
}
