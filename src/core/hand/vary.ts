/**
 * What of a brush varies while it strokes, and what drives it. Each line of a brush says one thing: what changes, by what,
 * how far. Lines for one thing work together: shares are multiplied, turns and shifts added.
 */
import { z } from 'zod';
import { hash24 } from '../../kernels/hash';

/**
 * How a thing changes: a `share` of what is set; a `turn` or a `hue` in degrees; a `shift` in diameters; a `mix` from the
 * first well (0) to the second (1).
 */
export type VariedKind = 'share' | 'turn' | 'shift' | 'hue' | 'mix';

interface Varied {
  label: string;
  kind: VariedKind;
  /** Least and most of a line's amount. */
  range: readonly [number, number];
}

export const VARIED = {
  size: { label: 'Size', kind: 'share', range: [-1, 1] },
  flow: { label: 'Flow', kind: 'share', range: [-1, 1] },
  opacity: { label: 'Opacity', kind: 'share', range: [-1, 1] },
  roundness: { label: 'Roundness', kind: 'share', range: [-1, 1] },
  angle: { label: 'Angle', kind: 'turn', range: [-360, 360] },
  along: { label: 'Scatter along', kind: 'shift', range: [-4, 4] },
  across: { label: 'Scatter across', kind: 'shift', range: [-4, 4] },
  dabs: { label: 'Dabs a step', kind: 'share', range: [-1, 1] },
  mix: { label: 'Mix of the wells', kind: 'mix', range: [-1, 1] },
  hue: { label: 'Hue', kind: 'hue', range: [-180, 180] },
  saturation: { label: 'Saturation', kind: 'share', range: [-1, 1] },
  value: { label: 'Value', kind: 'share', range: [-1, 1] },
  texture: { label: 'Texture’s depth', kind: 'share', range: [-1, 1] },
} as const satisfies Record<string, Varied>;
export type VariedType = keyof typeof VARIED;
export const VARIED_TYPES = Object.keys(VARIED) as [VariedType, ...VariedType[]];

interface Driver {
  label: string;
  /** Goes to both sides of what is set. */
  chance?: boolean;
  /** A direction, which a turn follows as it is; as a number it counts from 0 to a whole turn. */
  direction?: boolean;
}

export const DRIVERS = {
  pressure: { label: 'Pressure' },
  tilt: { label: 'Tilt' },
  'tilt-direction': { label: 'Tilt’s direction', direction: true },
  direction: { label: 'Stroke’s direction', direction: true },
  speed: { label: 'Speed' },
  length: { label: 'Length of the stroke' },
  dab: { label: 'Chance, each dab', chance: true },
  stroke: { label: 'Chance, each stroke', chance: true },
} as const satisfies Record<string, Driver>;
export type DriverType = keyof typeof DRIVERS;
export const DRIVER_TYPES = Object.keys(DRIVERS) as [DriverType, ...DriverType[]];

export const MOST_LINES = 24;

/** What lengths of the stroke are counted in. */
export const LENGTH_UNITS = ['diameters', 'millimetres', 'texels'] as const;
export type LengthUnit = (typeof LENGTH_UNITS)[number];

export const varySchema = z
  .object({
    what: z.enum(VARIED_TYPES),
    by: z.enum(DRIVER_TYPES),
    /**
     * A share 0 … 1 says how much of the thing hangs on the driver: at the driver's least so much is missing, at its most
     * nothing; below 0 the other way round. By chance: so far to both sides. Turns and shifts: what the driver's most adds.
     */
    amount: z.number().min(-360).max(360),
    /** −1 … 1: the response bends towards early or late; 0 is straight. */
    bend: z.number().min(-1).max(1).default(0),
    /** By length: after how much of the stroke its most is reached. */
    over: z.number().min(0.1).max(100_000).default(10),
    unit: z.enum(LENGTH_UNITS).default('diameters'),
  })
  .refine(({ what, amount }) => amount >= VARIED[what].range[0] && amount <= VARIED[what].range[1], {
    message: 'an amount beyond what this can vary by',
    path: ['amount'],
  });
export type Vary = z.infer<typeof varySchema>;

/** What drives a dab. Angles in radians within the tip's plane, x to the right, y down. */
export interface Drive {
  pressure: number;
  /** 0: upright, 1: flat. */
  tilt: number;
  tiltDirection: number;
  direction: number;
  /** 0: at rest, 1: as fast as a hand goes. */
  speed: number;
  /** How far the stroke has come, in each unit. */
  length: Record<LengthUnit, number>;
  /** Which dab of the stroke this is. */
  dab: number;
}

/** What a dab is made of: shares of what is set, degrees, diameters, a mix. */
export type Varying = Record<VariedType, number>;

/** Things that give dabs colours of their own. */
const COLOURS: readonly VariedType[] = ['mix', 'hue', 'saturation', 'value'];
export const variesColour = (lines: readonly Vary[]): boolean => lines.some((line) => COLOURS.includes(line.what));

const least = Object.fromEntries(VARIED_TYPES.map((type) => [type, VARIED[type].kind === 'share' ? 1 : 0])) as Varying;

/** Answers 0 … 1 with 0 … 1: x to the power of 4^−bend, so that bends mirror each other. */
export const response = (x: number, bend: number): number => (bend === 0 ? x : x ** (4 ** -bend));

const TURN = Math.PI * 2;

function driven(line: Vary, n: number, drive: Drive, seed: number): number {
  switch (line.by) {
    case 'dab':
      return hash24(drive.dab + 1, n, seed) / 0x1000000;
    case 'stroke':
      return hash24(0, n, seed) / 0x1000000;
    case 'length':
      return Math.min(1, drive.length[line.unit] / line.over);
    case 'direction':
      return (drive.direction / TURN + 1) % 1;
    case 'tilt-direction':
      return (drive.tiltDirection / TURN + 1) % 1;
    default:
      return drive[line.by];
  }
}

/** Works out all lines for one dab: the same numbers on every machine. Shares stay within 0 … 2. */
export function vary(lines: readonly Vary[], drive: Drive, seed: number): Varying {
  const out: Varying = { ...least };
  lines.forEach((line, n) => {
    const { chance = false, direction = false } = DRIVERS[line.by] as Driver;
    const { kind } = VARIED[line.what];
    const x = response(driven(line, n, drive, seed), line.bend);
    const both = 2 * x - 1;
    if (kind === 'share') {
      const hangs = Math.abs(line.amount);
      out[line.what] *= chance ? 1 + line.amount * both : 1 - hangs + hangs * (line.amount >= 0 ? x : 1 - x);
    } else if (kind === 'turn' && direction) out.angle += x * 360;
    // Chance mixes towards the second well only: there is nothing beyond the first.
    else out[line.what] += line.amount * (chance && kind !== 'mix' ? both : x);
  });
  return out;
}

/** Pixels a second that count as fast. */
const FAST = 2500;
export const speedOf = (pixels: number, ms: number): number => (ms > 0 ? Math.min(1, (pixels / ms) * (1000 / FAST)) : 0);

/**
 * How flat a pen lies, 0 … 1, and where it leans to, from its tilts in degrees (W3C Pointer Events 3, 4.1.5: spherical
 * angles from tiltX and tiltY).
 */
export function leaning(tiltX: number, tiltY: number): { tilt: number; direction: number } {
  const [tx, ty] = [tiltX, tiltY].map((t) => Math.tan((Math.max(-89.9, Math.min(89.9, t)) * Math.PI) / 180));
  return { tilt: Math.atan(Math.hypot(tx, ty)) / (Math.PI / 2), direction: Math.atan2(ty, tx) };
}
