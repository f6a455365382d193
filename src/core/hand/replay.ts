/** Recorded strokes (docs/strokes.md): the same strokes, the same bytes, wherever they are replayed. */
import { z } from 'zod';
import { issueInWords } from '../issue';
import { LAYERS } from '../kinds/layers';
import { maskOfStep, pictureOf, type Piece } from '../document/schema';
import type { PieceSurfaces } from '../strata/pieceSurfaces';
import type { TileChange, TileStore } from '../tile/tiles';
import { brushSchema, RECORDING_LIMITS } from './brush';
import { pixelDistance, sampleSchema, type Sample } from './sample';
import { drawnPicture, type Pictures } from './pictures';
import { picturesOf } from './rack/file';
import { Stroke } from './stroke';

export const recordingSchema = z.object({
  version: z.literal(1),
  strokes: z
    .array(
      z.object({
        /** Id or name of the sheet; the first sheet if left out. */
        sheet: z.string().optional(),
        /** Id or name of a painted layer, or id of a mask's painted step; the topmost painted layer if left out. */
        layer: z.string().optional(),
        brush: brushSchema,
        /** Seeds what is random in a brush. Kept with the stroke so that a recording is complete. */
        seed: z.number().int().default(1),
        /** Parts that were hidden; those of the piece if left out. */
        hidden: z.array(z.string()).optional(),
        hiddenFaces: z.array(z.tuple([z.number().int().min(0), z.number().int().min(0)])).optional(),
        samples: z.array(sampleSchema).min(1).max(RECORDING_LIMITS.maxSamples),
      }),
    )
    .max(RECORDING_LIMITS.maxStrokes),
});
export type Recording = z.infer<typeof recordingSchema>;

export class RecordingError extends Error {}

/** Screen pixels. A hand needs hours for them; a tip may lay several dabs on each. */
const MOST_WAY = 2_000_000;

function wayOf(samples: readonly Sample[]): number {
  let way = 0;
  for (let i = 1; i < samples.length; i++) way += pixelDistance(samples[i - 1], samples[i]);
  return way;
}

export function parseRecording(input: unknown): Recording {
  const result = recordingSchema.safeParse(input);
  if (result.success) return result.data;
  throw new RecordingError(`The recording is damaged ${issueInWords(result.error)}.`);
}

/** Replays into the store. Changes nothing if any stroke does not fit the piece. */
export function replay(
  piece: Piece,
  store: TileStore,
  surfaces: PieceSurfaces | null,
  recording: Recording,
  pictures: Pictures = drawnPicture,
): TileChange[] {
  const prepared = recording.strokes.map((stroke, n) => {
    const sheet =
      stroke.sheet === undefined ? piece.sheets[0] : piece.sheets.find((s) => s.id === stroke.sheet || s.name === stroke.sheet);
    if (!sheet) throw new RecordingError(`Stroke ${n + 1} names the sheet "${stroke.sheet}", which the piece does not have.`);
    const painted = sheet.layers.filter((l) => LAYERS[l.kind].byHand);
    const layerId =
      stroke.layer === undefined
        ? painted.at(-1)?.id
        : (painted.find((l) => l.id === stroke.layer || l.name === stroke.layer)?.id ??
          (maskOfStep(sheet, stroke.layer) ? stroke.layer : undefined));
    if (!layerId)
      throw new RecordingError(
        `Stroke ${n + 1} needs a painted layer${stroke.layer ? ` "${stroke.layer}"` : ''} in "${sheet.name}".`,
      );
    if (stroke.samples.some((s) => s.pane !== stroke.samples[0].pane))
      throw new RecordingError(`Stroke ${n + 1} changes panes on its way: a stroke stays in the pane it began in.`);
    if (stroke.samples[0].pane === 'model' && !surfaces)
      throw new RecordingError(`Stroke ${n + 1} is on the model, but the piece is a canvas: record it in the flat pane.`);
    if (wayOf(stroke.samples) > MOST_WAY)
      throw new RecordingError(
        `Stroke ${n + 1} goes over more than ${MOST_WAY / 1e6} million pixels of the screen, the most that is replayed: shorten it.`,
      );
    for (const id of picturesOf(stroke))
      if (!pictures(id)) throw new RecordingError(`Stroke ${n + 1} has a tip whose picture is not here: import its brush first.`);
    return { stroke, sheet, layerId };
  });
  const changes: TileChange[] = [];
  for (const { stroke, sheet, layerId } of prepared) {
    surfaces?.query.hide(stroke.hidden ?? piece.hiddenParts, stroke.hiddenFaces ?? (stroke.hidden ? [] : piece.hiddenFaces));
    const run = new Stroke(
      {
        ...{ sheet, layerId, store, surface: surfaces?.forSheet(sheet) ?? null, seed: stroke.seed, pictures },
        picture: (id) => pictureOf(piece, id),
      },
      stroke.brush,
    );
    run.add(stroke.samples);
    run.end();
    run.flush();
    changes.push(...run.changes());
  }
  return changes;
}

/** A recording of strokes as they were kept. */
export const strokesFile = (strokes: Recording['strokes']): Recording => ({ version: 1, strokes });
