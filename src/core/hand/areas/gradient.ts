/**
 * Gradients from the first sample to the last: over the sheet, over the model by place in space, or across the view. They fill
 * all that a fence leaves, with colours from well to well, or with what the brush writes, fading to nothing.
 */
import { z } from 'zod';
import { shiftColour } from '../../colour/shift';
import { unit } from '../../kinds/fields';
import { clamp01 } from '../../kinds/sources/source';
import { TILE_TEXELS, tileIndex, tileX, tileY, type TileIndex } from '../../tile/tiles';
import { isCovered } from '../dither';
import { imageOf } from '../mirror';
import { Sight } from '../sight';
import { pixelIn, viewOfImage } from '../view';
import type { AreaContext, AreaDef } from './area';
import { hitOf, pointImage, visitSheet } from './lay';
import { SEEN_LAYERS, seenFromBehind } from './shape';

const gradientSchema = z.object({
  type: z.literal('gradient'),
  form: z.enum(['linear', 'radial']).default('linear'),
  /** `wells`: from the active well to the other. `fade`: from what the brush writes to nothing. */
  ends: z.enum(['wells', 'fade']).default('wells'),
  /** Over the model: by place in space, or as the eye sees it. */
  through: z.enum(['surface', 'view']).default('surface'),
  layers: z.enum(['front', 'all']).default('front'),
  grazing: unit.default(0),
});
export type Gradient = z.infer<typeof gradientSchema>;

/** How far along a place lies, 0 … 1, between two points of a plane (z is 0 there) or of space; null: they are the same. */
export function wayBetween(
  form: Gradient['form'],
  a: readonly number[],
  b: readonly number[],
): ((x: number, y: number, z: number) => number) | null {
  const way = b.map((v, k) => v - a[k]);
  const l2 = way.reduce((sum, v) => sum + v * v, 0);
  if (!(l2 > 0)) return null;
  const [ax, ay, az = 0] = a;
  const [wx, wy, wz = 0] = way;
  return form === 'linear'
    ? (x, y, z) => clamp01(((x - ax) * wx + (y - ay) * wy + (z - az) * wz) / l2)
    : (x, y, z) => clamp01(Math.sqrt(((x - ax) * (x - ax) + (y - ay) * (y - ay) + (z - az) * (z - az)) / l2));
}

/** Colours between the wells: steps that no eye tells apart. */
const COLOURS = 1024;

/** Lays one texel down, so far along the gradient, seen so much. */
class Layer {
  private ramps: { map: AreaContext['colours'][0]['map']; colours: readonly (readonly number[])[] }[];

  constructor(
    private context: AreaContext,
    private fades: boolean,
  ) {
    const { second } = context;
    this.ramps =
      fades || !second
        ? []
        : context.colours.map(({ map, value }) => ({
            map,
            colours: Array.from({ length: COLOURS + 1 }, (_, n) =>
              shiftColour(value, second, { mix: n / COLOURS, hue: 0, saturation: 1, value: 1 }),
            ),
          }));
  }

  put(index: TileIndex, i: number, way: number, seen: number): void {
    const { coverage, opacity, dither } = this.context;
    // In whole texels: each has the one colour or the other.
    const t =
      dither && this.ramps.length > 0
        ? Number(isCovered(dither, way, (tileX(index) << 7) + (i & 127), (tileY(index) << 7) + (i >> 7)))
        : way;
    const tile = coverage.tile(tileX(index), tileY(index));
    const value = opacity * seen * (this.fades ? 1 - t : 1);
    if (!(value > tile.values[i])) return;
    tile.values[i] = value;
    for (const { map, colours } of this.ramps) {
      const ink = coverage.ink(tile, map);
      const colour = colours[Math.round(t * COLOURS)];
      for (let k = 0; k < 3; k++) ink[k * TILE_TEXELS + i] = colour[k];
    }
    coverage.touch(tile, i & 127, i >> 7, (i & 127) + 1, (i >> 7) + 1);
  }
}

const SETTINGS = {
  form: 'linear' as Gradient['form'],
  ends: 'wells' as Gradient['ends'],
  through: 'surface' as Gradient['through'],
  layers: 'front' as Gradient['layers'],
};

export const gradient: AreaDef<Gradient, typeof SETTINGS> = {
  type: 'gradient',
  schema: gradientSchema,
  settings: SETTINGS,
  graded: true,
  ways: [
    {
      id: 'gradient',
      label: 'Gradient',
      hint: 'Drag from the active well to the other. It fills all that the fence leaves.',
      gesture: 'line',
      controls: [
        {
          key: 'form',
          label: 'Form of the gradient',
          kind: 'choice',
          options: [
            { value: 'linear', label: 'linear' },
            { value: 'radial', label: 'radial' },
          ],
        },
        {
          key: 'ends',
          label: 'Its ends',
          kind: 'choice',
          options: [
            { value: 'wells', label: 'well to well' },
            { value: 'fade', label: 'fades to nothing' },
          ],
        },
        {
          key: 'through',
          label: 'On the model',
          kind: 'choice',
          onModel: true,
          options: [
            { value: 'surface', label: 'along the model' },
            { value: 'view', label: 'across the view' },
          ],
        },
        { ...SEEN_LAYERS, where: { through: 'view' } },
      ],
      area: ({ form, ends, through, layers }) => ({ type: 'gradient', form, ends, through, layers, grazing: 0 }),
    },
  ],
  cover(area, context) {
    const { samples, surface, sheet, images, middle, view } = context;
    const { form } = area;
    const [first, last] = [samples[0], samples.at(-1)!];
    const layer = new Layer(context, area.ends === 'fade');
    if (first.pane === 'flat' || last.pane === 'flat') {
      if (first.pane !== 'flat' || last.pane !== 'flat') return;
      const ends = [first, last].map(({ x, y }) => ({ x, y }));
      const all = surface ? [ends] : [ends, ...images.map((image) => ends.map((p) => pointImage(image, middle, p)))];
      const ways = all.map(([a, b]) => ({
        way: wayBetween(form, [a.x, a.y], [b.x, b.y]),
        middle: form === 'linear' ? { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 } : a,
      }));
      // Around a border that wraps a place counts where it is nearest to the gradient.
      const near = (v: number, m: number, size: number, wraps: boolean) => (wraps ? v - Math.round((v - m) / size) * size : v);
      visitSheet(sheet, { x0: 0, y0: 0, x1: sheet.width, y1: sheet.height }, (tx, ty, i, count, x, y) => {
        for (let n = 0; n < count; n++) {
          let t = Infinity;
          for (const { way, middle: m } of ways)
            if (way)
              t = Math.min(
                t,
                way(near(x + n + 0.5, m.x, sheet.width, sheet.wrapU), near(y + 0.5, m.y, sheet.height, sheet.wrapV), 0),
              );
          if (t <= 1) layer.put(tileIndex(tx, ty), i + n, t, 1);
        }
      });
      return;
    }
    if (!surface) return;
    if (area.through === 'view' && view) {
      const ends = [first, last].map((s) =>
        pixelIn(
          view,
          s.origin.map((v, k) => v + s.direction[k]),
        ),
      );
      const way = ends[0] && ends[1] && wayBetween(form, [ends[0].x, ends[0].y], [ends[1].x, ends[1].y]);
      if (!way) return;
      const options = { layers: area.layers, grazing: area.grazing, bothSides: seenFromBehind(context) };
      for (const eye of [view, ...images.map((image) => viewOfImage(view, image, middle))]) {
        const sight = new Sight(surface.map, surface.query, eye, options);
        for (const index of surface.map.tiles.keys()) {
          const tile = sight.tile(index);
          for (let i = 0; tile && i < TILE_TEXELS; i++)
            if (tile.share[i] > 0) layer.put(index, i, way(tile.x[i], tile.y[i], 0), tile.share[i]);
        }
      }
      return;
    }
    const [a, b] = [hitOf(context, first), hitOf(context, last)];
    if (!a || !b) return;
    const ways = [a.point, ...images.map((m) => imageOf(m, middle, a.point))].map((from, n) =>
      wayBetween(form, from, n === 0 ? b.point : imageOf(images[n - 1], middle, b.point)),
    );
    for (const [index, { face, position }] of surface.map.tiles)
      for (let i = 0; i < TILE_TEXELS; i++) {
        if (face[i] < 0 || surface.query.hidden[face[i]]) continue;
        let t = Infinity;
        for (const way of ways) if (way) t = Math.min(t, way(position[i * 3], position[i * 3 + 1], position[i * 3 + 2]));
        if (t <= 1) layer.put(index, i, t, 1);
      }
  },
};
