/** Shapes: rectangle, ellipse, polygon (a lasso is one of many corners) and line; in the sheet, or through the eye. */
import { z } from 'zod';
import { unit } from '../../kinds/fields';
import { tileX, tileY } from '../../tile/tiles';
import { imageOf, turnedBy, type Image } from '../mirror';
import { frameAt, sheetPlace } from '../place';
import type { Wanted } from '../sight';
import { pixelIn } from '../view';
import type { AreaContext, AreaControl, AreaDef, AreaWay } from './area';
import {
  ellipse,
  frameOfCorners,
  line,
  outlineOf,
  polygon,
  rectangle,
  wantedBy,
  type Box,
  type Figure,
  type Point,
} from './figure';
import { pointImage, raiseInSheet, raiseInView } from './lay';
import { ellipseOutline } from './outline';

const FIGURES = ['rectangle', 'ellipse', 'polygon', 'line'] as const;

const shapeSchema = z.object({
  type: z.literal('shape'),
  /** Its points are the samples: two corners; or all of them. */
  figure: z.enum(FIGURES),
  /** Degrees by which the sides of a rectangle and the axes of an ellipse are turned. */
  angle: z.number().min(-360).max(360).default(0),
  /** How wide an outline, or a line, is: pixels of the pane, or texels in the sheet. null: it is filled. */
  width: z.number().min(0.1).max(4096).nullable().default(null),
  /** How wide its edge's slope is, in the same unit; never less than a texel. */
  soft: z.number().min(0).max(4096).default(0),
  layers: z.enum(['front', 'all']).default('front'),
  grazing: unit.default(0),
});
export type Shape = z.infer<typeof shapeSchema>;

/** Of points in a plane. null: it has no inside. */
export function figureOf({ figure, angle, width, soft }: Shape, points: readonly Point[], margin: number): Figure | null {
  const [a] = points;
  const b = points.at(-1);
  if (!a || !b || !points.every((p) => Number.isFinite(p.x) && Number.isFinite(p.y))) return null;
  const beyond = margin + soft + (width ?? 0);
  if (figure === 'line') return points.length < 2 ? null : line(points, width ?? 1, beyond);
  if (figure === 'polygon' && points.length < 3) return null;
  const filled =
    figure === 'polygon'
      ? polygon(points, beyond)
      : (figure === 'rectangle' ? rectangle : ellipse)(frameOfCorners(a, b, (angle * Math.PI) / 180));
  const { x0, y0, x1, y1 } = filled.bounds;
  if (width === null && (x1 - x0 <= 0 || y1 - y0 <= 0)) return null;
  return width === null ? filled : outlineOf(filled, width);
}

const wider = ({ x0, y0, x1, y1 }: Box, by: number): Box => ({ x0: x0 - by, y0: y0 - by, x1: x1 + by, y1: y1 + by });

/** Texels of a figure's edge in the plane that it is drawn in, at most: pixels of a texel seen very near. */
const MARGIN = 64;

const SETTINGS = {
  filling: 'fill' as 'fill' | 'outline',
  /** Of outlines and lines: pixels in the model pane, texels in the flat sheet. */
  width: 8,
  soft: 0,
  layers: 'front' as Shape['layers'],
};
type Settings = typeof SETTINGS;

const WIDTH: AreaControl = { key: 'width', label: 'Width', kind: 'number', min: 1, max: 400 };
const SOFT: AreaControl = { key: 'soft', label: 'Soft', kind: 'number', min: 0, max: 400 };
/** Which layers of the model the eye reaches. */
export const SEEN_LAYERS: AreaControl = {
  key: 'layers',
  label: 'Through the eye: what is seen, or what lies behind it too',
  kind: 'choice',
  onModel: true,
  options: [
    { value: 'front', label: 'what is seen' },
    { value: 'all', label: 'all layers' },
  ],
};
const OUTLINED: AreaControl = {
  key: 'filling',
  label: 'Filled or outlined',
  kind: 'segments',
  options: [
    { value: 'fill', label: 'Filled' },
    { value: 'outline', label: 'Outline' },
  ],
};
const FILLED_CONTROLS = [OUTLINED, { ...WIDTH, where: { filling: 'outline' } }, SOFT, SEEN_LAYERS];

const areaOf =
  (figure: Shape['figure']): AreaWay<Shape, Settings>['area'] =>
  ({ filling, width, soft, layers }, { angle }) => ({
    type: 'shape',
    ...{ figure, angle, soft, layers },
    grazing: 0,
    width: figure === 'line' || filling === 'outline' ? width : null,
  });

export const shape: AreaDef<Shape, Settings> = {
  type: 'shape',
  schema: shapeSchema,
  settings: SETTINGS,
  ways: [
    {
      id: 'rectangle',
      label: 'Rectangle',
      hint: 'Drag. Shift: square, Alt: from its middle.',
      gesture: 'box',
      controls: FILLED_CONTROLS,
      area: areaOf('rectangle'),
    },
    {
      id: 'ellipse',
      label: 'Ellipse',
      hint: 'Drag. Shift: circle, Alt: from its middle.',
      gesture: 'box',
      outline: ellipseOutline,
      controls: FILLED_CONTROLS,
      area: areaOf('ellipse'),
    },
    {
      id: 'polygon',
      label: 'Polygon',
      hint: 'Click its corners; Enter or a double click closes it, Backspace takes one back.',
      gesture: 'corners',
      controls: FILLED_CONTROLS,
      area: areaOf('polygon'),
    },
    {
      id: 'lasso',
      label: 'Lasso',
      hint: 'Draw around what is to be covered.',
      gesture: 'lasso',
      controls: FILLED_CONTROLS,
      area: areaOf('polygon'),
    },
    {
      id: 'line',
      label: 'Line',
      hint: 'Drag. Shift: at steps of 15°.',
      gesture: 'line',
      controls: [WIDTH, SOFT, SEEN_LAYERS],
      area: areaOf('line'),
    },
  ],
  cover(area, context) {
    const { samples, opacity, surface, images, middle, view } = context;
    const { soft, layers, grazing } = area;
    const wanted = (figure: Figure) => wantedBy(figure, soft, opacity);
    if (samples[0]?.pane === 'model') {
      if (!view) return;
      const points = samples.map((s) =>
        s.pane === 'model'
          ? pixelIn(
              view,
              s.origin.map((v, k) => v + s.direction[k]),
            )
          : null,
      );
      const figure = points.every((p) => p !== null) ? figureOf(area, points as Point[], MARGIN) : null;
      if (!figure) return;
      const options = { layers, grazing, box: wider(figure.bounds, soft / 2 + MARGIN), bothSides: seenFromBehind(context) };
      return raiseInView(context, view, options, wanted(figure));
    }
    const points = samples.map((s) => (s.pane === 'flat' ? { x: s.x, y: s.y } : null)).filter((p) => p !== null);
    const lay = (of: readonly Point[], turned: Shape) => {
      const figure = figureOf(turned, of, 2);
      if (figure) raiseInSheet(context, wider(figure.bounds, soft / 2 + 1), wanted(figure));
    };
    lay(points, area);
    for (const image of images)
      if (surface) {
        const figure = figureOf(area, points, 2);
        if (figure) raiseImage(context, image, figure, wanted(figure));
      } else
        lay(
          points.map((p) => pointImage(image, middle, p)),
          imageOfShape(image, area),
        );
  },
};

export const seenFromBehind = ({ sheet }: Pick<AreaContext, 'sheet'>): boolean => sheet.preview.doubleSided;

/** A rectangle's sides stand where the image has them. */
function imageOfShape(image: Image, area: Shape): Shape {
  const [c, s] = turnedBy(image, [Math.cos((area.angle * Math.PI) / 180), Math.sin((area.angle * Math.PI) / 180), 0]);
  return { ...area, angle: (Math.atan2(s, c) * 180) / Math.PI };
}

/** Of a shape in the flat sheet of a model: texels whose place is the image of one that the shape covers. */
function raiseImage(context: AreaContext, image: Image, figure: Figure, wanted: Wanted): void {
  const { surface, coverage, middle } = context;
  const { map, query } = surface!;
  const { bounds } = figure;
  // The image of the box in space that the figure's texels fill: nothing else need be asked.
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (const tile of map.tiles.values())
    for (let i = 0; i < tile.face.length; i++) {
      if (tile.face[i] < 0) continue;
      const [x, y] = [tile.x * 128 + (i & 127) + 0.5, tile.y * 128 + (i >> 7) + 0.5];
      if (x < bounds.x0 - 1 || y < bounds.y0 - 1 || x > bounds.x1 + 1 || y > bounds.y1 + 1) continue;
      const there = imageOf(image, middle, [tile.position[i * 3], tile.position[i * 3 + 1], tile.position[i * 3 + 2]]);
      for (let k = 0; k < 3; k++) {
        box[k] = Math.min(box[k], there[k]);
        box[k + 3] = Math.max(box[k + 3], there[k]);
      }
    }
  const back = [0, 1, 2].map((r) => [image[0][r], image[1][r], image[2][r]]) as unknown as Image;
  const reach = 4 / map.texelsPerMetre;
  const inBox = (p: Float32Array, o: number) =>
    [0, 1, 2].every((k) => p[o + k] >= box[k] - reach && p[o + k] <= box[k + 3] + reach);
  for (const [index, tile] of map.tiles) {
    const target = coverage.tile(tileX(index), tileY(index));
    for (let i = 0; i < tile.face.length; i++) {
      if (tile.face[i] < 0 || !inBox(tile.position, i * 3)) continue;
      const normal = [0, 1, 2].map((k) => tile.normal[i * 3 + k] / 127);
      const from = imageOf(
        back,
        middle,
        [0, 1, 2].map((k) => tile.position[i * 3 + k]),
      );
      const out = frameAt(
        { direction: normal.map((v) => -v) as [number, number, number] },
        { normal: normal as [number, number, number] },
      ).out;
      const hit = query.near(from, turnedBy(back, out), reach);
      if (!hit || Number.isNaN(map.cornersTexels[hit.face * 6])) continue;
      const { x, y } = sheetPlace(hit, map);
      const value = wanted.at(x, y, 1);
      if (!(value > target.values[i])) continue;
      target.values[i] = value;
      coverage.touch(target, i & 127, i >> 7, (i & 127) + 1, (i >> 7) + 1);
    }
  }
}
