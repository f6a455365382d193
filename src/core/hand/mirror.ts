/**
 * Mirrored strokes: each dab has images across planes and around an axis, by place in space, so that UVs need not be alike.
 * All images of a dab count as one dab: where they overlap a texel is raised once.
 */
import { z } from 'zod';
import type { TipFrame } from './tip';

export const MIRROR_AXES = ['x', 'y', 'z'] as const;
export type MirrorAxis = (typeof MIRROR_AXES)[number];
export const MOST_RADIAL = 24;
const MOST_IMAGES = 64;

const finite = z.number().refine(Number.isFinite, 'a finite number');

export const mirrorSchema = z
  .object({
    /** Planes that stand across these axes, together: two of them make four images. On a canvas x and y. */
    axes: z.array(z.enum(MIRROR_AXES)).max(3).default([]),
    /** How many times around an axis; 1: not at all. On a canvas around its middle. */
    radial: z.number().int().min(1).max(MOST_RADIAL).default(1),
    around: z.enum(MIRROR_AXES).default('y'),
    /** Where planes and axis meet: metres in the model's space, texels on a canvas. Left out: the middle. */
    at: z.tuple([finite, finite, finite]).optional(),
  })
  .refine(({ axes, radial }) => 2 ** new Set(axes).size * radial <= MOST_IMAGES, `more than ${MOST_IMAGES} images of a dab`);
export type Mirror = z.infer<typeof mirrorSchema>;

export const NO_MIRROR: Mirror = { axes: [], radial: 1, around: 'y' };
export const isMirrored = ({ axes, radial }: Mirror): boolean => axes.length > 0 || radial > 1;

/** Rows of a 3 × 3 matrix without scale: a turn, or a mirror image. */
export type Image = readonly (readonly [number, number, number])[];

const reflect = (axis: MirrorAxis): Image =>
  MIRROR_AXES.map((row) => MIRROR_AXES.map((column) => (row !== column ? 0 : row === axis ? -1 : 1)) as [number, number, number]);

function rotate(axis: MirrorAxis, angle: number): Image {
  const k = MIRROR_AXES.indexOf(axis);
  const [i, j] = [(k + 1) % 3, (k + 2) % 3];
  const m: number[][] = [0, 1, 2].map((r) => [0, 1, 2].map((c) => (r === c ? 1 : 0)));
  m[i][i] = m[j][j] = Math.cos(angle);
  m[i][j] = -Math.sin(angle);
  m[j][i] = Math.sin(angle);
  return m as unknown as Image;
}

const times = (a: Image, b: Image): Image =>
  a.map((row) => [0, 1, 2].map((c) => row[0] * b[0][c] + row[1] * b[1][c] + row[2] * b[2][c]) as [number, number, number]);

export const turnedBy = (m: Image, v: readonly number[]): [number, number, number] => [
  m[0][0] * v[0] + m[0][1] * v[1] + m[0][2] * v[2],
  m[1][0] * v[0] + m[1][1] * v[1] + m[1][2] * v[2],
  m[2][0] * v[0] + m[2][1] * v[1] + m[2][2] * v[2],
];

/** Left and right change places: its determinant is −1. */
export const mirrors = (m: Image): boolean =>
  m[0][0] * (m[1][1] * m[2][2] - m[1][2] * m[2][1]) -
    m[0][1] * (m[1][0] * m[2][2] - m[1][2] * m[2][0]) +
    m[0][2] * (m[1][0] * m[2][1] - m[1][1] * m[2][0]) <
  0;

/** A place's image. */
export const imageOf = (m: Image, at: readonly number[], place: readonly number[]): [number, number, number] => {
  const v = turnedBy(
    m,
    place.map((p, k) => p - at[k]),
  );
  return [v[0] + at[0], v[1] + at[1], v[2] + at[2]];
};

/** The image of a place in a sheet and of the angle there, radians. */
export function imageInSheet(m: Image, at: readonly number[], place: { x: number; y: number }, angle: number) {
  const [x, y] = imageOf(m, at, [place.x, place.y, 0]);
  const [c, s] = turnedBy(m, [Math.cos(angle), Math.sin(angle), 0]);
  return { x, y, angle: Math.atan2(s, c) };
}

export const imageOfFrame = (m: Image, { right, down, out }: TipFrame): TipFrame => ({
  right: turnedBy(m, right),
  down: turnedBy(m, down),
  out: turnedBy(m, out),
});

/** All images but the dab itself; each once. */
export function imagesOf({ axes, radial, around }: Mirror): Image[] {
  let all: Image[] = [rotate(around, 0)];
  for (const axis of new Set(axes)) all = all.flatMap((m) => [m, times(reflect(axis), m)]);
  const turns = Array.from({ length: radial }, (_, n) => rotate(around, (2 * Math.PI * n) / radial));
  const found = new Map<string, Image>();
  for (const turn of turns)
    for (const m of all) {
      const image = times(turn, m);
      const key = image
        .flat()
        .map((v) => Math.round(v * 1e6) + 0)
        .join();
      if (!found.has(key)) found.set(key, image);
    }
  return [...found.values()].slice(1);
}

/** On a canvas: x and y alone, around the middle; planes and turns of the sheet. */
export const onCanvas = (mirror: Mirror): Mirror => ({
  ...mirror,
  axes: mirror.axes.filter((a) => a !== 'z'),
  around: 'z',
});
