/** The brush ring: drawn in SVG over the panes, so that hovering costs no drawing of the model. */
import type { Brush } from '@/core/hand/brush';
import { imageInSheet, imageOf, imageOfFrame, imagesOf, onCanvas } from '@/core/hand/mirror';
import { monotoneCurve } from '@/core/kinds/filters/curves';
import { beside, flatDiameter, frameAt } from '@/core/hand/place';
import { isPlain, type TipFrame } from '@/core/hand/tip';
import type { BenchViewport } from '@/viewport/benchViewport';
import { STROKES } from '../areas/laying';
import { currentSheet, mirrorInHand, mirrorMiddle, takesFromElsewhere, useBench, type BenchState } from '../store';
import { useLines } from './lines';
import type { PaneName } from './pane';
import { pixelOf } from './places';

export interface Ring {
  /** SVG path of the rim, pane pixels. */
  path: string;
  /** Diameter in texels of the sheet, or null off the model. */
  texels: number | null;
  /** Sheet under the pointer, in the model pane. */
  sheetId: string | null;
}

const POINTS = 48;

export function ringAt(
  viewport: BenchViewport,
  pane: PaneName,
  x: number,
  y: number,
  state: BenchState = useBench.getState(),
): Ring {
  // Areas have no tip: a cross says where they are put.
  if (state.laying !== STROKES)
    return { path: cross({ x, y }) + markedPlaces(viewport, pane, state), texels: null, sheetId: null };
  const ring = pane === 'flat' ? flatRing(viewport, x, y, state) : modelRing(viewport, x, y, state);
  return { ...ring, path: ring.path + markedPlaces(viewport, pane, state) };
}

function circle(x: number, y: number, radius: number): string {
  const r = Math.max(1, radius);
  return `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
}

/** The tip's rim in radii, to the right and down. */
export function outline({ shape, roundness, angle }: Brush['tip']): [number, number][] {
  const [c, s] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
  const rim: [number, number][] =
    shape !== 'round'
      ? [
          [-1, -1],
          [1, -1],
          [1, 1],
          [-1, 1],
        ]
      : Array.from({ length: POINTS }, (_, i) => [Math.cos((i / POINTS) * 2 * Math.PI), Math.sin((i / POINTS) * 2 * Math.PI)]);
  return rim.map(([u, v]) => [u * c - v * roundness * s, u * s + v * roundness * c]);
}

type Figure = readonly (readonly [number, number])[];

/** From its middle to its long side's end: which way the tip is turned. */
const pointer = ({ angle }: Brush['tip']): Figure => {
  const [c, s] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
  return [
    [c * 0.72, s * 0.72],
    [c, s],
  ];
};

/** Outside the rim, from the top on: so much of it is how much a dab gives. */
const STRENGTH_AT = 1.14;
const strengthArc = (strength: number): Figure =>
  Array.from({ length: 25 }, (_, i) => {
    const a = -Math.PI / 2 + (i / 24) * strength * 2 * Math.PI;
    return [Math.cos(a) * STRENGTH_AT, Math.sin(a) * STRENGTH_AT] as const;
  });

/** Where on its way to the rim a tip still gives half. */
function halfOf(edge: NonNullable<Brush['tip']['edge']>): number {
  const curve = monotoneCurve(edge);
  let at = 100;
  while (at > 0 && curve(at / 100) < 0.5) at--;
  return at / 100;
}

/** What the ring shows inside and outside of its rim, in radii: open lines. */
export function marksOf({ tip, hardness, flow, opacity }: Pick<Brush, 'tip' | 'hardness' | 'flow' | 'opacity'>): Figure[] {
  const out: Figure[] = [];
  const full = tip.edge ? halfOf(tip.edge) : hardness;
  const soft = tip.shape !== 'picture' && !tip.grid && full < 0.97;
  if (soft && full > 0.03) {
    const inner = outline(tip).map(([u, v]) => [u * full, v * full] as const);
    out.push([...inner, inner[0]]);
  }
  if (!isPlain(tip)) out.push(pointer(tip));
  const strength = flow * opacity;
  if (strength < 0.99) out.push(strengthArc(strength));
  return out;
}

const joined = (points: { x: number; y: number }[], end: string) =>
  points.length ? `M${points.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}${end}` : '';
const closed = (points: { x: number; y: number }[]) => joined(points, 'Z');

/** The outline around a point of the screen; of a plain tip a circle, which is smooth at any size. */
function onScreen(x: number, y: number, radius: number, tip: Brush['tip']): string {
  if (isPlain(tip)) return circle(x, y, radius);
  const r = Math.max(1, radius);
  return closed(outline(tip).map(([u, v]) => ({ x: x + u * r, y: y + v * r })));
}

/** Small rings have no room for more than their rim. */
const ROOM = 9;
const marksOnScreen = (x: number, y: number, r: number, brush: Brush): string =>
  r < ROOM
    ? ''
    : marksOf(brush)
        .map((figure) =>
          joined(
            figure.map(([u, v]) => ({ x: x + u * r, y: y + v * r })),
            '',
          ),
        )
        .join('');

const CROSS = 7;
const cross = ({ x, y }: { x: number; y: number }): string =>
  `M${x - CROSS} ${y}h${CROSS - 2}m4 0h${CROSS - 2}M${x} ${y - CROSS}v${CROSS - 2}m0 4v${CROSS - 2}`;

/** Places that were marked: where a tool takes from, where lines run to. */
function markedPlaces(viewport: BenchViewport, name: PaneName, state: BenchState): string {
  const { point, on } = useLines.getState();
  const source = state.source?.sheetId === state.sheetId && takesFromElsewhere(state) ? state.source : null;
  const places = [source && !source.source.picture && { at: source.source.at, point: source.point }, on ? point : null];
  return places
    .map((place) => place && pixelOf({ name, viewport }, place))
    .map((pixel) => (pixel ? cross(pixel) : ''))
    .join('');
}

function texelsPerMetre(state: BenchState, sheetId: string): number {
  return state.geometry?.texelsPerMetre[sheetId] ?? currentSheet(state).width;
}

/** The texels that a tip on the grid would cover. */
function texelSquare(camera: BenchViewport['flatCamera'], x: number, y: number, texels: number): string {
  const size = Math.max(1, Math.round(texels));
  const at = camera.texelAt(x, y);
  const [left, top] = [Math.round(at.x - size / 2), Math.round(at.y - size / 2)];
  return closed(
    [
      [0, 0],
      [size, 0],
      [size, size],
      [0, size],
    ].map(([dx, dy]) => camera.pixelAt(left + dx, top + dy)),
  );
}

function flatRing(viewport: BenchViewport, x: number, y: number, state: BenchState): Ring {
  const { flatCamera } = viewport;
  const { zoom } = flatCamera;
  const { size, sizeUnit, tip } = state.brush;
  const texels = flatDiameter(sizeUnit, size, 1 / zoom, texelsPerMetre(state, state.sheetId));
  if (tip.grid) return { path: texelSquare(flatCamera, x, y, texels), texels: Math.max(1, Math.round(texels)), sheetId: null };
  const paths = [onScreen(x, y, (texels * zoom) / 2, tip), marksOnScreen(x, y, (texels * zoom) / 2, state.brush)];
  const mirror = mirrorInHand(state);
  // On a model images lie on the model: there they are seen.
  if (mirror && !state.geometry) {
    const texel = flatCamera.texelAt(x, y);
    for (const image of imagesOf(onCanvas(mirror))) {
      const there = imageInSheet(image, mirrorMiddle(state), texel, (tip.angle * Math.PI) / 180 - flatCamera.angle);
      const at = flatCamera.pixelAt(there.x, there.y);
      paths.push(
        onScreen(at.x, at.y, (texels * zoom) / 2, { ...tip, angle: ((there.angle + flatCamera.angle) * 180) / Math.PI }),
      );
    }
  }
  return { path: paths.join(''), texels, sheetId: null };
}

function modelRing(viewport: BenchViewport, x: number, y: number, state: BenchState): Ring {
  const { size, sizeUnit, tip } = state.brush;
  const hit = viewport.hitAt(x, y);
  if (!hit) return { path: onScreen(x, y, sizeUnit === 'screen' ? size / 2 : 3, tip), texels: null, sheetId: null };
  const repeats = state.geometry ? 1 : currentSheet(state).wrapU ? state.document!.planeRepeats : 1;
  const density = texelsPerMetre(state, hit.sheetId);
  const own = sizeUnit === 'screen' ? size * hit.pixelSpread * hit.distance : flatDiameter(sizeUnit, size, 1, density) / density;
  const metres = sizeUnit === 'screen' ? own : own / repeats;
  const frame = frameAt(viewport.rayAt(x, y)!, hit);
  const rim = (point: readonly number[], around: TipFrame) =>
    closed(
      outline(tip)
        .map(([u, v]) => viewport.project(beside(point, around, (u * metres) / 2, (v * metres) / 2)))
        .filter((p) => p !== null),
    );
  const paths = [rim(hit.point, frame)];
  if (sizeUnit !== 'screen' || size > 2 * ROOM)
    for (const figure of marksOf(state.brush)) {
      const points = figure.map(([u, v]) => viewport.project(beside(hit.point, frame, (u * metres) / 2, (v * metres) / 2)));
      paths.push(
        joined(
          points.filter((p) => p !== null),
          '',
        ),
      );
    }
  const mirror = state.geometry ? mirrorInHand(state) : undefined;
  for (const image of mirror ? imagesOf(mirror) : []) {
    const around = imageOfFrame(image, frame);
    const there = viewport.nearTo(imageOf(image, mirrorMiddle(state), hit.point), around.out, metres / 2);
    if (there) paths.push(rim(there.point, around));
  }
  return { path: paths.join(''), texels: metres * repeats * density, sheetId: hit.sheetId };
}
