/**
 * Brush files (docs/brushes.md): a zip of `brushes.json` and the pictures of their tips, `tips/<SHA-256>.png`. Reading
 * changes nothing: what is wrong comes back as one sentence.
 */
import { z } from 'zod';
import { issueInWords } from '../../issue';
import { ArchiveError, readZip, writeZip } from '../../codec/zip';
import { rackBrushSchema, type RackBrush, type RackedBrush } from './brushes';

export const BRUSH_FILE_LIMITS = { bytes: 64 * 1024 * 1024, brushes: 500 } as const;
const FORMAT = 'brindle-brushes';
const VERSION = 1;

export interface BrushFile {
  brushes: RackBrush[];
  /** PNG by the name that brushes call them by. */
  tips: Map<string, Uint8Array>;
}
export type BrushFileResult = ({ ok: true } & BrushFile) | { ok: false; message: string };

/** The pictures that a brush is made of, but for those that Brindle draws. */
export function picturesOf({ brush }: { brush: Pick<RackedBrush, 'tip' | 'texture'> }): string[] {
  const names = [brush.tip.picture, typeof brush.texture?.of === 'string' ? brush.texture.of : undefined];
  return names.filter((name): name is string => name !== undefined && !name.startsWith('made:'));
}

/** The same brush with its pictures called otherwise. */
export function withPictures(brush: RackBrush, names: ReadonlyMap<string, string>): RackBrush {
  const called = (name: string) => names.get(name) ?? name;
  const { tip, texture } = brush.brush;
  return {
    ...brush,
    brush: {
      ...brush.brush,
      tip: tip.picture ? { ...tip, picture: called(tip.picture) } : tip,
      ...(texture && { texture: typeof texture.of === 'string' ? { ...texture, of: called(texture.of) } : texture }),
    },
  };
}

export function writeBrushFile({ brushes, tips }: BrushFile): Uint8Array {
  const json = JSON.stringify({ format: FORMAT, version: VERSION, brushes }, null, 1);
  return writeZip([
    ['brushes.json', new TextEncoder().encode(json)],
    ...[...tips].map(([name, png]): [string, Uint8Array] => [`tips/${name}.png`, png]),
  ]);
}

const head = z.object({ format: z.literal(FORMAT), version: z.number() });

export function readBrushFile(bytes: Uint8Array, what: string): BrushFileResult {
  const bad = (message: string) => ({ ok: false as const, message: `${what} ${message}` });
  let files;
  try {
    files = readZip(bytes, what);
  } catch (error) {
    if (error instanceof ArchiveError) return { ok: false, message: error.message };
    throw error;
  }
  const text = files.get('brushes.json');
  if (!text) return bad('holds no brushes.json: it is no file of brushes.');
  let input: unknown;
  try {
    input = JSON.parse(new TextDecoder().decode(text));
  } catch {
    return bad('is damaged: its brushes.json cannot be read.');
  }
  const known = head.safeParse(input);
  if (!known.success) return bad('is no file of brushes: its brushes.json says something else.');
  if (known.data.version > VERSION) return bad('was written by a newer Brindle: update this one to read it.');
  const list = z.array(z.unknown()).safeParse((input as { brushes?: unknown }).brushes);
  if (!list.success || list.data.length === 0) return bad('holds no brushes.');
  if (list.data.length > BRUSH_FILE_LIMITS.brushes)
    return bad(`holds ${list.data.length} brushes, more than the ${BRUSH_FILE_LIMITS.brushes} that are read at once: split it.`);
  const brushes: RackBrush[] = [];
  for (const [n, one] of list.data.entries()) {
    const parsed = rackBrushSchema.safeParse(one);
    if (!parsed.success) return bad(`holds a brush that cannot be read (number ${n + 1}, ${issueInWords(parsed.error)}).`);
    brushes.push(parsed.data);
  }
  const tips = new Map<string, Uint8Array>();
  for (const brush of brushes)
    for (const name of picturesOf(brush)) {
      const png = files.get(`tips/${name}.png`);
      if (!png) return bad(`lacks the picture of "${brush.name}": export it again.`);
      tips.set(name, png);
    }
  return { ok: true, brushes, tips };
}
