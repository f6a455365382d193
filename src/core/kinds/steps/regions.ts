/** Steps that choose of the model: parts by name, islands and faces by number. Those that are not there any more count as nothing. */
import { z } from 'zod';
import type { Surface, SurfaceTexels } from '../../mesh/surface';
import { TILE_TEXELS } from '../../tile/tiles';
import { toggled, type StepDef } from './step';

const partsSchema = z.object({ type: z.literal('parts'), names: z.array(z.string().max(200)).max(1000) });
export const parts: StepDef<z.infer<typeof partsSchema>> = {
  type: 'parts',
  schema: partsSchema,
  start: { type: 'parts', names: [] },
  controls: [],
  presets: [{ label: 'Parts', settings: { type: 'parts', names: [] }, added: 'parts' }],
  needsModel: true,
  word: ({ names }) => (names.length === 0 ? 'no part yet' : names.length === 1 ? names[0] : `${names[0]} +${names.length - 1}`),
  joined: (p, { names }) => ({ ...p, names: toggled(p.names, ...names) }),
  pick: { of: 'parts', take: (p, { on }) => ({ step: { ...p, names: toggled(p.names, on!.part) }, label: on!.part }) },
  onSurface: () => true,
  anywhere: true,
  compile: (p, build) =>
    build.onSurface(p, (surface, texels, out) =>
      facesTile(texels, chosenFaces(surface, p, new Set(p.names.map((n) => surface.parts.indexOf(n))), surface.facePart), out),
    ),
};

const counted = (n: number, one: string, many: string) => (n === 1 ? `one ${one}` : `${n} ${many}`);

const islandsSchema = z.object({ type: z.literal('islands'), ids: z.array(z.number().int().min(0)).max(20_000) });
export const islands: StepDef<z.infer<typeof islandsSchema>> = {
  type: 'islands',
  schema: islandsSchema,
  start: { type: 'islands', ids: [] },
  controls: [],
  presets: [{ label: 'Islands', settings: { type: 'islands', ids: [] }, added: 'islands' }],
  needsModel: true,
  word: ({ ids }) => counted(ids.length, 'island', 'islands'),
  joined: (p, { ids }) => ({ ...p, ids: toggled(p.ids, ...ids) }),
  pick: { of: 'islands', take: (p, { on }) => ({ step: { ...p, ids: toggled(p.ids, on!.island) }, label: 'islands' }) },
  onSurface: () => true,
  anywhere: false,
  compile: (p, build) =>
    build.onSurface(p, (surface, texels, out) =>
      facesTile(texels, chosenFaces(surface, p, new Set(p.ids), surface.faceIsland), out),
    ),
};

const facesSchema = z.object({ type: z.literal('faces'), ids: z.array(z.number().int().min(0)).max(200_000) });
export const faces: StepDef<z.infer<typeof facesSchema>> = {
  type: 'faces',
  schema: facesSchema,
  start: { type: 'faces', ids: [] },
  controls: [],
  presets: [{ label: 'Faces', settings: { type: 'faces', ids: [] }, added: 'faces' }],
  needsModel: true,
  word: ({ ids }) => counted(ids.length, 'face', 'faces'),
  joined: (p, { ids }) => ({ ...p, ids: toggled(p.ids, ...ids) }),
  pick: {
    of: 'faces',
    take: (p, { on }) => ({ step: { ...p, ids: toggled(p.ids, on!.face) }, label: 'faces' }),
    takeFaces: (p, faces, out) => {
      const gone = new Set(faces);
      const ids = out ? p.ids.filter((f) => !gone.has(f)) : [...new Set([...p.ids, ...faces])];
      return { step: { ...p, ids }, label: `${faces.length} faces ${out ? 'less' : 'more'}` };
    },
  },
  onSurface: () => true,
  anywhere: false,
  compile: (p, build) =>
    build.onSurface(p, (surface, texels, out) => facesTile(texels, chosenFaces(surface, p, new Set(p.ids), null), out)),
};

/** 1 on the chosen faces, 0 on the others. */
function facesTile(texels: SurfaceTexels, chosen: Uint8Array, out: Float32Array): void | number {
  const { face, span } = runsOf(texels);
  let ones = 0;
  for (let n = 0; n < face.length; n++) ones += chosen[face[n]];
  if (ones === 0) return 0;
  if (ones === face.length) return 1;
  for (let n = 0; n < face.length; n++) if (chosen[face[n]]) out.fill(1, span[n * 2], span[n * 2 + 1]);
}

/** Neighbouring texels of a tile on one face: the face, and where they begin and end. */
interface Runs {
  face: Int32Array;
  span: Int32Array;
}

const runs = new WeakMap<object, Runs>();

function runsOf(texels: SurfaceTexels): Runs {
  let out = runs.get(texels);
  if (!out) {
    const face: number[] = [];
    const span: number[] = [];
    for (let i = 0; i < TILE_TEXELS;) {
      const from = i;
      const one = texels.face[i];
      while (i < TILE_TEXELS && texels.face[i] === one) i++;
      if (one < 0) continue;
      face.push(one);
      span.push(from, i);
    }
    runs.set(texels, (out = { face: Int32Array.from(face), span: Int32Array.from(span) }));
  }
  return out;
}

const known = new WeakMap<Surface, Map<string, Uint8Array>>();
/** A document has few choices of faces; a choice that grows under the pointer leaves its former ones behind. */
const MOST_KNOWN = 32;

/** 1 for each face of the model whose number in `of` (null: its own) is one of `ids`. Kept by the step's settings. */
function chosenFaces(
  surface: Surface,
  settings: object,
  ids: ReadonlySet<number>,
  of: Uint16Array | Uint32Array | null,
): Uint8Array {
  const all = known.get(surface) ?? known.set(surface, new Map()).get(surface)!;
  const key = JSON.stringify(settings);
  let out = all.get(key);
  if (!out) {
    out = Uint8Array.from({ length: surface.facePart.length }, (_, f) => (ids.has(of ? of[f] : f) ? 1 : 0));
    if (all.size >= MOST_KNOWN) all.delete(all.keys().next().value!);
    all.set(key, out);
  }
  return out;
}
