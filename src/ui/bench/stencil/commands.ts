/** What is done to stencils: taken up, laid over the work, moved, turned, put away. Each is one edit of the piece. */
import { setPieceEdit } from '@/core/document/edits';
import { freeName } from '@/core/document/factory';
import { LIMITS } from '@/core/document/schema';
import { stencilSchema, type KeptStencil, type Stencil } from '@/core/document/stencil';
import { SOURCES, type Made } from '@/core/kinds/sources';
import { newId } from '../layers/ids';
import { readFile } from '../pictures/pictureSet';
import { currentSheet, edit, keptStencil, say, useBench, work } from '../store';

const list = () => useBench.getState().document!.stencils;
const withStencils = (stencils: KeptStencil[]) => setPieceEdit(useBench.getState().document!, { stencils });

/** Over the model where there is one, else over the canvas. */
const START = (): Pick<Stencil, 'over' | 'x' | 'y' | 'size'> =>
  useBench.getState().geometry
    ? { over: 'view', x: 0, y: 0, size: 0.5 }
    : { over: 'sheet', x: 0.5, y: currentSheet().height / currentSheet().width / 2, size: 0.4 };

function room(): boolean {
  if (list().length < LIMITS.maxStencils) return true;
  say(`A piece keeps up to ${LIMITS.maxStencils} stencils: delete one first.`);
  return false;
}

const nameFor = (name: string) =>
  freeName(
    name,
    list().map((s) => s.name),
  );

/** A picture becomes a stencil. Without alpha its light and dark let through. */
export async function addPictureStencil(file: File): Promise<void> {
  if (!room()) return;
  const picture = await readFile(file, 'colour');
  if (!picture) return;
  const sheet = currentSheet();
  const name =
    file.name
      .replace(/\.[^.]*$/, '')
      .replace(/[/\\]/g, ' ')
      .trim() || 'Stencil';
  const hasAlpha = picture.channels === 2 || picture.channels === 4;
  const id = newId();
  const stencil = stencilSchema.parse({ ...START(), of: id, use: hasAlpha ? 'alpha' : 'luminance' });
  const kept: KeptStencil = { id: newId(), name: nameFor(name), ghost: 0.5, stencil };
  work({
    do: 'pictures',
    sheetId: sheet.id,
    pictures: [{ id, name, encoding: 'srgb', picture }],
    then: withStencils([...list(), kept]),
    label: `Stencil: ${kept.name}`,
  });
  useBench.setState({ stencil: { id: kept.id, on: true } });
  if (!hasAlpha) say(`"${kept.name}" has no alpha: light lets paint through, dark does not.`);
}

export function addRuleStencil(made: Made): void {
  if (!room()) return;
  const stencil = stencilSchema.parse({ ...START(), of: made, use: 'luminance', tiled: true, size: 0.2 });
  const kept: KeptStencil = { id: newId(), name: nameFor(SOURCES[made.type].label), ghost: 0.5, stencil };
  edit(withStencils([...list(), kept]), `Stencil: ${kept.name}`);
  useBench.setState({ stencil: { id: kept.id, on: true } });
}

const changed = (id: string, change: (kept: KeptStencil) => KeptStencil) => list().map((s) => (s.id === id ? change(s) : s));

/** As they were before a drag began: what undo brings back. */
let beforeDrag: KeptStencil[] | null = null;

export function setStencil(after: Partial<Stencil>, label: string): void {
  const kept = keptStencil();
  const before = { stencils: beforeDrag ?? list() };
  beforeDrag = null;
  if (!kept) return;
  const stencils = changed(kept.id, (s) => ({ ...s, stencil: { ...s.stencil, ...after } }));
  edit({ type: 'set-piece', before, after: { stencils } }, `${kept.name}: ${label}`);
}

/** Follows a drag: the page shows it, and strokes have it so, before it is an edit. */
export function showStencil(after: Partial<Stencil>): void {
  const kept = keptStencil();
  if (!kept) return;
  beforeDrag ??= list();
  const stencils = changed(kept.id, (s) => ({ ...s, stencil: { ...s.stencil, ...after } }));
  useBench.setState((s) => ({ document: { ...s.document!, stencils } }));
}

/** Takes a drag back. */
export function dropDrag(): void {
  const stencils = beforeDrag;
  beforeDrag = null;
  if (stencils) useBench.setState((s) => ({ document: { ...s.document!, stencils } }));
}

export function setGhost(ghost: number): void {
  const kept = keptStencil();
  if (kept) edit(withStencils(changed(kept.id, (s) => ({ ...s, ghost }))), `${kept.name}: ghost ${Math.round(ghost * 100)} %`);
}

export function renameStencil(kept: KeptStencil, name: string): void {
  edit(withStencils(changed(kept.id, (s) => ({ ...s, name }))), `Rename ${kept.name}`);
}

export function deleteStencil(kept: KeptStencil): void {
  edit(withStencils(list().filter((s) => s.id !== kept.id)), `Delete the stencil ${kept.name}`);
  if (useBench.getState().stencil?.id === kept.id) useBench.setState({ stencil: null });
}

/** Takes one into the hand; the one in hand is switched. */
export function takeStencil(id: string): void {
  useBench.setState((s) => ({ stencil: s.stencil?.id === id ? { id, on: !s.stencil.on } : { id, on: true } }));
}

export function toggleStencil(): void {
  const { stencil } = useBench.getState();
  const kept = keptStencil();
  if (stencil && kept) return useBench.setState({ stencil: { ...stencil, on: !stencil.on } });
  const [first] = list();
  if (!first) return say('There is no stencil yet: open Stencil in the head of the hand, and add a picture or a rule.');
  takeStencil(first.id);
}

/** In the middle of what is seen again, upright. */
export function resetStencil(): void {
  setStencil({ ...START(), angle: 0, flip: false }, 'put back');
}
