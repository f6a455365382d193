/** Follows the bakes of the open piece: those that are done on the server come to their sheets. */
import { create } from 'zustand';
import { bakeState, specOf } from '@/core/document/bake';
import type { Picture, Sheet } from '@/core/document/schema';
import { specText, type BakeSpec } from '@/core/kinds/bakes/spec';
import type { BakeStatus } from '@/core/kinds/bakes/status';
import { onUpdate } from '@/engine/updates';
import { onceAtATime } from '../../common/onceAtATime';
import { bench, say, useBench, work } from '../store';
import * as server from './api';

/** How far bakes are, by the text of their spec. */
export const useBakes = create<{ states: Record<string, BakeStatus>; offline: boolean }>(() => ({
  states: {},
  offline: false,
}));

/** Bakes that were taken: what is undone is not taken again by itself, only when it is asked for. */
const taking = new Set<string>();
const keys = new Map<string, string>();

interface Open {
  sheet: Sheet;
  picture: Picture;
  spec: BakeSpec;
  text: string;
}

/** Bakes of the piece that have not got what they ask for. */
async function openBakes(): Promise<(Open & { key: string })[]> {
  const piece = useBench.getState().document;
  if (!piece) return [];
  const open = piece.sheets.flatMap((sheet) =>
    sheet.pictures.flatMap((picture): Open[] => {
      const spec = specOf(piece, sheet, picture);
      return spec && bakeState(piece, sheet, picture) !== 'baked' ? [{ sheet, picture, spec, text: specText(spec) }] : [];
    }),
  );
  return Promise.all(
    open.map(async (o) => {
      if (!keys.has(o.text)) keys.set(o.text, await server.keyOf(o.spec));
      return { ...o, key: keys.get(o.text)! };
    }),
  );
}

/** Asks the server how far the open bakes are, and takes those that are done. */
export const look = onceAtATime(async (): Promise<void> => {
  const open = await openBakes();
  try {
    const found = new Map((await server.statusOf([...new Set(open.map((o) => o.key))])).map((s) => [s.key, s]));
    const states: Record<string, BakeStatus> = {};
    for (const o of open) {
      const status = found.get(o.key);
      if (!status) continue;
      states[o.text] = status;
      if (status.state === 'done') await take(o);
    }
    useBakes.setState({ states, offline: false });
  } catch {
    // The server is away: what is under way there goes on, and is found again.
    useBakes.setState({ offline: true });
  }
});

/** A bake is asked for anew: what the server has of it may be taken. */
export function takeAgain(pictureId: string): void {
  for (const name of [...taking]) if (name.startsWith(`${pictureId} `)) taking.delete(name);
}

async function take({ sheet, picture, text, key }: Open & { key: string }): Promise<void> {
  const name = `${picture.id} ${text}`;
  if (taking.has(name)) return;
  taking.add(name);
  try {
    // The engine gets it from the server beside its other work; then it becomes a change like any other.
    await bench().ask({ ask: 'fetch-bake', sheetId: sheet.id, key });
    const { width, height } = picture;
    work({ do: 'take-bake', sheetId: sheet.id, taken: { pictureId: picture.id, made: text, key, width, height } });
  } catch (error) {
    taking.delete(name);
    say((error as Error).message);
  }
}

/** While the bench is open. */
export function watchBakes(): () => void {
  look();
  const stopUpdates = onUpdate('bakes', look);
  let before = useBench.getState().document;
  const stop = useBench.subscribe(({ document }) => {
    if (document === before) return;
    before = document;
    if (document?.sheets.some((s) => s.pictures.some((p) => p.bake))) look();
  });
  return () => {
    stop();
    stopUpdates();
    taking.clear();
    useBakes.setState({ states: {}, offline: false });
  };
}
