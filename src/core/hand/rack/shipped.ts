/** The brushes that come with Brindle, by script: groups in the order of the rack. */
import type { z } from 'zod';
import { SOURCES } from '../../kinds/sources';
import { brushSchema } from '../brush';
import type { DrawnPicture } from '../pictures/drawn';
import type { textureSchema } from '../texture';
import type { Vary } from '../vary';
import { racked, type RackBrush } from './brushes';

type Settings = Partial<z.input<typeof brushSchema> & object>;
type Line = Partial<Vary> & Pick<Vary, 'what' | 'by' | 'amount'>;

const slug = (name: string) => name.toLowerCase().replace(/[^a-z]+/g, '-');
const made = (group: string, name: string, settings: object): RackBrush => ({
  id: `shipped:${slug(name)}`,
  name,
  group,
  brush: racked(brushSchema.parse({ vary: [], writes: {}, ...settings })),
});

// What many of them share.
const pressed: Line = { what: 'size', by: 'pressure', amount: 0.8 };
const lighter: Line = { what: 'opacity', by: 'pressure', amount: 0.7 };
const flows: Line = { what: 'flow', by: 'pressure', amount: 0.8 };
const follows: Line = { what: 'angle', by: 'direction', amount: 0 };
const spun: Line = { what: 'angle', by: 'dab', amount: 180 };
const by = (what: Line['what'], amount: number): Line => ({ what, by: 'dab', amount });
const picture = (name: DrawnPicture, roundness = 1, angle = 0) => ({
  shape: 'picture',
  picture: `made:${name}`,
  roundness,
  angle,
});
const texture = (of: z.input<typeof textureSchema>['of'], over: Partial<z.input<typeof textureSchema>>) => ({ of, ...over });
const grain = SOURCES.grain.start;
const clouds = SOURCES.clouds.start;
const fibres = SOURCES.fibres.start;

const basic = (name: string, settings: Settings) => made('Basic', name, settings);
/** Whole texels, for small sheets. */
const texel = (name: string, settings: object) =>
  made('Texels', name, {
    ...{ sizeUnit: 'texel', hardness: 1, flow: 1, spacing: 0.25, smoothing: 0, tip: { shape: 'square', grid: true } },
    ...settings,
  });
const draw = (name: string, settings: object) => made('Drawing', name, settings);
const hairs = (name: string, settings: object) => made('Bristles', name, settings);
const spray = (name: string, settings: object) => made('Spray', name, settings);
const nature = (name: string, settings: object) => made('Nature', name, settings);
const wear = (name: string, settings: object) => made('Wear', name, settings);
const trim = (name: string, settings: object) => made('Trim', name, settings);

export const SHIPPED: readonly RackBrush[] = [
  basic('Hard round', { size: 40, hardness: 0.92, flow: 1, spacing: 0.06, vary: [pressed] as Vary[] }),
  basic('Soft round', { size: 90, hardness: 0, flow: 0.35, spacing: 0.08, vary: [flows] as Vary[] }),
  basic('Square', { size: 44, hardness: 0.95, flow: 1, spacing: 0.05, tip: { shape: 'square' }, vary: [follows] as Vary[] }),
  basic('Shader', {
    size: 110,
    hardness: 0.15,
    flow: 0.22,
    spacing: 0.07,
    tip: { shape: 'round', roundness: 0.45 },
    vary: [follows, flows] as Vary[],
  }),
  basic('Airbrush', { size: 120, hardness: 0, flow: 0.08, spacing: 0.06, rate: 40, vary: [flows] as Vary[] }),

  texel('Texel', { size: 2 }),
  texel('Texel line', { size: 1 }),
  texel('Texel round', { size: 5, tip: { shape: 'round', grid: true } }),
  texel('Dither', { size: 8, flow: 0.5, tip: { shape: 'square', grid: true, dither: 'even' } }),
  texel('Dither dots', { size: 8, flow: 0.5, tip: { shape: 'square', grid: true, dither: 'dots' } }),
  texel('Dither rows', { size: 8, flow: 0.5, tip: { shape: 'square', grid: true, dither: 'rows' } }),
  texel('Dither slanted', { size: 8, flow: 0.5, tip: { shape: 'square', grid: true, dither: 'slant' } }),

  draw('Pencil', {
    size: 12,
    hardness: 0.3,
    flow: 0.75,
    opacity: 0.8,
    spacing: 0.06,
    tip: picture('point'),
    texture: texture(grain, { fix: 'surface', size: 60, depth: 0.95, contrast: -0.4, join: 'height' }),
    vary: [{ what: 'size', by: 'tilt', amount: 0.4 }, { what: 'opacity', by: 'pressure', amount: 0.6 }, by('angle', 180)],
  }),
  draw('Ink', {
    size: 18,
    hardness: 0.94,
    flow: 1,
    spacing: 0.03,
    smoothing: 0.55,
    vary: [
      { what: 'size', by: 'pressure', amount: 1, bend: -0.2 },
      { what: 'size', by: 'speed', amount: -0.3 },
    ],
  }),
  draw('Marker', { size: 46, flow: 1, opacity: 0.6, spacing: 0.03, tip: picture('chisel', 1, 35), vary: [] }),
  draw('Hatch', { size: 60, flow: 0.9, spacing: 0.62, tip: picture('hatch'), vary: [lighter, by('angle', 4)] }),
  draw('Cross-hatch', { size: 60, flow: 0.9, spacing: 0.66, tip: picture('cross-hatch'), vary: [lighter, by('angle', 4)] }),
  draw('Stipple', { size: 56, flow: 1, spacing: 0.42, tip: picture('stipple'), vary: [spun, lighter, by('size', 0.15)] }),

  hairs('Bristle', { size: 60, flow: 0.9, spacing: 0.03, tip: picture('bristle'), vary: [follows, pressed, lighter] }),
  hairs('Dry bristle', {
    size: 70,
    flow: 0.9,
    opacity: 1,
    spacing: 0.02,
    tip: picture('dry-bristle'),
    texture: texture(grain, { fix: 'surface', size: 80, depth: 0.85, contrast: 0.4, join: 'times' }),
    vary: [follows, lighter, { what: 'opacity', by: 'length', amount: -0.6, over: 14 }],
  }),
  hairs('Gouache', {
    size: 64,
    hardness: 0.75,
    flow: 0.85,
    spacing: 0.05,
    tip: { shape: 'square', roundness: 0.35 },
    texture: texture(fibres, { fix: 'surface', size: 90, depth: 0.5, contrast: 0.2, join: 'times' }),
    vary: [follows, lighter, by('value', 0.05)],
  }),
  hairs('Hair', {
    size: 26,
    flow: 1,
    spacing: 0.04,
    smoothing: 0.5,
    tip: picture('hair'),
    vary: [
      follows,
      pressed,
      { what: 'size', by: 'length', amount: -0.9, over: 14 },
      { what: 'mix', by: 'length', amount: 1, over: 14 },
    ],
  }),
  hairs('Fur', {
    size: 46,
    flow: 1,
    spacing: 0.3,
    tip: picture('fur'),
    vary: [follows, by('angle', 14), by('value', 0.14), by('size', 0.2), { what: 'mix', by: 'dab', amount: 0.5 }],
  }),
  hairs('Feather', {
    size: 90,
    flow: 1,
    spacing: 0.8,
    tip: picture('feather'),
    vary: [follows, by('angle', 9), by('value', 0.08), { what: 'mix', by: 'dab', amount: 0.35 }],
  }),

  spray('Sponge', { size: 90, flow: 0.85, spacing: 0.34, tip: picture('sponge'), vary: [spun, lighter, by('size', 0.2)] }),
  spray('Splatter', {
    size: 130,
    flow: 1,
    spacing: 0.75,
    tip: picture('splatter'),
    vary: [spun, by('size', 0.45), { what: 'across', by: 'dab', amount: 0.3 }],
  }),
  spray('Speckle', {
    size: 80,
    flow: 1,
    spacing: 0.3,
    tip: picture('speckle'),
    vary: [spun, by('size', 0.3), by('value', 0.1), lighter],
  }),
  spray('Dust', { size: 130, flow: 0.75, spacing: 0.2, tip: picture('dust'), vary: [spun, by('size', 0.3), flows] }),
  spray('Cloud', {
    size: 130,
    flow: 0.28,
    spacing: 0.2,
    tip: picture('cloud'),
    vary: [spun, by('size', 0.35), { what: 'across', by: 'dab', amount: 0.25 }, flows],
  }),
  spray('Smoke', {
    size: 120,
    flow: 0.45,
    spacing: 0.3,
    tip: picture('smoke'),
    vary: [spun, by('size', 0.3), { what: 'size', by: 'length', amount: 0.6, over: 8 }, flows],
  }),

  nature('Leaf', {
    size: 48,
    flow: 1,
    spacing: 0.55,
    tip: picture('leaf'),
    vary: [
      by('angle', 180),
      by('size', 0.3),
      { what: 'across', by: 'dab', amount: 0.55 },
      by('hue', 16),
      by('value', 0.16),
      { what: 'mix', by: 'dab', amount: 0.5 },
    ],
  }),
  nature('Grass', {
    size: 64,
    flow: 1,
    spacing: 0.28,
    tip: picture('grass'),
    vary: [by('angle', 10), by('size', 0.35), by('value', 0.16), by('hue', 10), { what: 'mix', by: 'dab', amount: 0.6 }],
  }),
  nature('Blade', {
    size: 30,
    hardness: 0.9,
    flow: 1,
    spacing: 0.03,
    smoothing: 0.5,
    vary: [
      { what: 'size', by: 'length', amount: -1, over: 7 },
      { what: 'mix', by: 'length', amount: 1, over: 7 },
      { what: 'value', by: 'stroke', amount: 0.1 },
    ],
  }),
  nature('Scale', { size: 42, flow: 1, spacing: 0.62, tip: picture('scale'), vary: [follows, by('value', 0.07)] }),
  nature('Vein', {
    size: 120,
    flow: 0.9,
    spacing: 0.95,
    tip: picture('vein'),
    vary: [follows, by('angle', 12), by('size', 0.15)],
  }),
  nature('Wood line', {
    size: 90,
    flow: 0.75,
    spacing: 0.7,
    tip: picture('wood-line'),
    vary: [follows, by('size', 0.08), by('roundness', 0.15)],
  }),

  wear('Scratch', {
    size: 90,
    flow: 1,
    spacing: 0.8,
    tip: picture('scratch'),
    vary: [follows, by('angle', 11), by('size', 0.4), { what: 'across', by: 'dab', amount: 0.2 }, lighter],
  }),
  wear('Crack', { size: 110, flow: 1, spacing: 0.95, tip: picture('crack'), vary: [follows, by('angle', 16), by('size', 0.15)] }),
  wear('Dent', {
    size: 34,
    flow: 0.9,
    spacing: 1.6,
    tip: picture('dent'),
    vary: [spun, by('size', 0.45), { what: 'across', by: 'dab', amount: 0.9 }, by('roundness', 0.3)],
  }),
  wear('Dirt', { size: 120, flow: 0.6, spacing: 0.24, tip: picture('dirt'), vary: [spun, by('size', 0.25), flows] }),
  wear('Chipped edge', {
    size: 34,
    hardness: 0.85,
    flow: 1,
    opacity: 0.62,
    spacing: 0.1,
    texture: texture(clouds, { fix: 'surface', size: 60, depth: 1, contrast: 0.3, join: 'height' }),
    vary: [pressed, lighter],
  }),
  wear('Drip', { size: 60, flow: 1, spacing: 0.75, tip: picture('drip'), vary: [by('size', 0.45), by('roundness', 0.4)] }),
  wear('Highlight', { size: 60, flow: 1, spacing: 0.7, tip: picture('highlight'), vary: [follows, pressed] }),

  trim('Stitch', { size: 26, flow: 1, spacing: 0.95, smoothing: 0.5, tip: picture('stitch'), vary: [follows] }),
  trim('Rope', { size: 34, flow: 1, spacing: 0.667, smoothing: 0.5, tip: picture('rope'), vary: [follows] }),
  trim('Rivets', { size: 18, flow: 1, spacing: 2.2, smoothing: 0.5, tip: picture('rivet'), vary: [] }),
];

export const shippedBrush = (id: string): RackBrush | undefined => SHIPPED.find((brush) => brush.id === id);
