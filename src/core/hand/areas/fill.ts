/** Fills: the whole sheet, or what of the model is pointed at: its material, an island, a part, a flat piece of its surface. */
import { z } from 'zod';
import { BLOCK, BLOCKS_PER_SIDE, BLOCKS_PER_TILE } from '../../mesh/surfaceMap/surfaceMap';
import { TILE } from '../../tile/tiles';
import type { CoverageTile } from '../coverage';
import type { AreaContext, AreaDef } from './area';
import { hitOf, imagesOnModel, visitSheet } from './lay';

const FILLS = ['sheet', 'material', 'island', 'part', 'face'] as const;

const fillSchema = z.object({
  type: z.literal('fill'),
  of: z.enum(FILLS),
  /** Degrees that a face may be turned against the one that is pointed at and still belong to the same flat piece. */
  flat: z.number().min(0).max(90).default(1),
});
export type Fill = z.infer<typeof fillSchema>;

/** Faces that are pointed at, and where a mirror has their images. */
function seedsOf(context: AreaContext): number[] {
  const out: number[] = [];
  for (const sample of context.samples) {
    const hit = hitOf(context, sample);
    if (hit) out.push(hit.face, ...imagesOnModel(context, hit).map((h) => h.face));
  }
  return out;
}

/** 1 for each face that a fill takes; null: it is no matter of faces. */
export function facesOfFill({ of, flat }: Fill, context: AreaContext): Uint8Array | null {
  const { surface } = context;
  if (of === 'sheet' || !surface) return null;
  const { query, islands } = surface;
  const { facePart } = query.model;
  const out = new Uint8Array(facePart.length);
  if (of === 'material') return out.fill(1);
  const seeds = seedsOf(context);
  if (of === 'face') {
    for (const seed of seeds) flatPiece(query, seed, flat, out);
    return out;
  }
  const label: ArrayLike<number> = of === 'island' ? islands.island : facePart;
  const chosen = new Set(seeds.map((f) => label[f]));
  for (let f = 0; f < out.length; f++) if (chosen.has(label[f])) out[f] = 1;
  return out;
}

/** Faces that hang together with one and are turned by no more than so many degrees against it. */
export function flatPiece(
  { faceNormal, start, neighbours }: { faceNormal: Float32Array; start: Uint32Array; neighbours: Uint32Array },
  seed: number,
  degrees: number,
  out: Uint8Array,
): void {
  // A hair more, so that what lies in one plane does so at 0° too.
  const least = Math.cos((degrees * Math.PI) / 180) - 1e-6;
  const [x, y, z] = faceNormal.subarray(seed * 3, seed * 3 + 3);
  const open = [seed];
  out[seed] = 1;
  for (let f = open.pop(); f !== undefined; f = open.pop())
    for (let n = start[f]; n < start[f + 1]; n++) {
      const g = neighbours[n];
      if (out[g] || faceNormal[g * 3] * x + faceNormal[g * 3 + 1] * y + faceNormal[g * 3 + 2] * z < least) continue;
      out[g] = 1;
      open.push(g);
    }
}

/** Raises all texels of chosen faces, with their gutters: block by block, of those that such faces lie in. */
export function raiseFaces({ surface, coverage, opacity }: AreaContext, chosen: Uint8Array): void {
  const { map } = surface!;
  const blocks = new Uint8Array(map.tileList.length * BLOCKS_PER_TILE);
  for (let f = 0; f < chosen.length; f++)
    if (chosen[f]) for (let n = map.faceBlockStart[f]; n < map.faceBlockStart[f + 1]; n++) blocks[map.faceBlocks[n]] = 1;
  map.tileList.forEach(({ x: tx, y: ty, face }, n) => {
    let tile: CoverageTile | null = null;
    // Blocks beside each other are gone through as one.
    for (let b = n * BLOCKS_PER_TILE, end = b + BLOCKS_PER_TILE; b < end;) {
      if (blocks[b] === 0) {
        b++;
        continue;
      }
      const column = b % BLOCKS_PER_SIDE;
      let run = 1;
      while (column + run < BLOCKS_PER_SIDE && blocks[b + run] !== 0) run++;
      tile ??= coverage.tile(tx, ty);
      const left = column * BLOCK;
      const top = Math.floor((b % BLOCKS_PER_TILE) / BLOCKS_PER_SIDE) * BLOCK;
      raiseChosen(tile.values, face, chosen, opacity, top * TILE + left, run * BLOCK);
      coverage.touch(tile, left, top, left + run * BLOCK, top + BLOCK);
      b += run;
    }
  });
}

/** Within the rows of a block, so many columns. */
function raiseChosen(
  values: Float32Array,
  face: Int32Array,
  chosen: Uint8Array,
  opacity: number,
  first: number,
  columns: number,
): void {
  for (let row = first; row < first + BLOCK * TILE; row += TILE)
    for (let i = row, end = row + columns; i < end; i++) {
      const f = face[i];
      if (f >= 0 && chosen[f] === 1 && values[i] < opacity) values[i] = opacity;
    }
}

const SETTINGS = { fill: 'island' as Fill['of'] };

export const fill: AreaDef<Fill, typeof SETTINGS> = {
  type: 'fill',
  schema: fillSchema,
  settings: SETTINGS,
  ways: [
    {
      id: 'fill',
      label: 'Fill',
      hint: 'Click what is to be filled.',
      gesture: 'click',
      controls: [
        {
          key: 'fill',
          label: 'What a click fills',
          kind: 'choice',
          options: [
            { value: 'sheet', label: 'the whole sheet' },
            { value: 'material', label: 'the material', onModel: true },
            { value: 'part', label: 'the part', onModel: true },
            { value: 'island', label: 'the island', onModel: true },
            { value: 'face', label: 'the flat face', onModel: true },
          ],
        },
      ],
      area: ({ fill: of }) => ({ type: 'fill', of, flat: 1 }),
    },
  ],
  cover(area, context) {
    const { sheet, coverage, opacity } = context;
    const chosen = facesOfFill(area, context);
    if (chosen) return raiseFaces(context, chosen);
    // On a canvas there is nothing but the sheet.
    visitSheet(sheet, { x0: 0, y0: 0, x1: sheet.width, y1: sheet.height }, (tx, ty, i, count) => {
      const tile = coverage.tile(tx, ty);
      tile.values.fill(opacity, i, i + count);
      coverage.touch(tile, i & (TILE - 1), i >> 7, (i & (TILE - 1)) + count, (i >> 7) + 1);
    });
  },
};
