/** The registry of drawn pictures: one line each. */
import type { TipPicture } from '../tipPicture';
import { bristle, dryBristle, feather, fur, grass, hair } from './hairs';
import { chisel, crack, crossHatch, hatch, point, scratch, vein, woodLine } from './marks';
import { cloud, dent, dirt, drip, dust, highlight, smoke, speckle, splatter, sponge, stipple } from './spots';
import { leaf, rivet, rope, scale, stitch } from './things';

interface Drawn {
  label: string;
  draw: () => TipPicture;
}
const of = (label: string, draw: () => TipPicture): Drawn => ({ label, draw });

export const DRAWN = {
  bristle: of('Bristle', bristle),
  'dry-bristle': of('Dry bristle', dryBristle),
  hair: of('Single hairs', hair),
  fur: of('Fur', fur),
  grass: of('Grass', grass),
  feather: of('Feather', feather),
  leaf: of('Leaf', leaf),
  point: of('Graphite', point),
  chisel: of('Chisel', chisel),
  hatch: of('Hatch', hatch),
  'cross-hatch': of('Cross-hatch', crossHatch),
  scratch: of('Scratches', scratch),
  crack: of('Crack', crack),
  vein: of('Vein', vein),
  'wood-line': of('Wood grain', woodLine),
  sponge: of('Sponge', sponge),
  splatter: of('Splatter', splatter),
  speckle: of('Speckle', speckle),
  stipple: of('Stipple', stipple),
  dust: of('Dust', dust),
  dirt: of('Dirt', dirt),
  cloud: of('Cloud', cloud),
  smoke: of('Smoke', smoke),
  dent: of('Dent', dent),
  drip: of('Drip', drip),
  highlight: of('Highlight', highlight),
  scale: of('Scale', scale),
  stitch: of('Stitch', stitch),
  rope: of('Rope', rope),
  rivet: of('Rivet', rivet),
} as const satisfies Record<string, Drawn>;
export type DrawnPicture = keyof typeof DRAWN;
