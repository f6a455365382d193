/** Follows the bakes of the open piece: those that are done on the server come to their sheets. */
import { create } from 'zustand';
import { bakeState, specOf } from '@/core/document/bake';
import type { Picture, Sheet } from '@/core/document/schema';
import { specText, type BakeSpec } from '@/core/kinds/bakes/spec';
import type { BakeStatus } from '@/core/kinds/bakes/status';
import { say, useBench, work } from '../store';
import * as server from './api';

/** How far bakes are, by the text of their spec. */
export const useBakes = create<{ states: Record<string, BakeStatus>; offline: boolean }>(() => ({
  states: {},
  offline: false,
}));

const POLL_MS = 600;
/** With nothing under way the server is asked only when the document changes. */
let timer: ReturnType<typeof setTimeout> | null = null;
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

/** Looks once, and again as long as something is under way. */
export async function look(): Promise<void> {
  if (timer) clearTimeout(timer);
  timer = null;
  const open = await openBakes();
  let again = false;
  try {
    const found = new Map((await server.statusOf([...new Set(open.map((o) => o.key))])).map((s) => [s.key, s]));
    const states: Record<string, BakeStatus> = {};
    for (const o of open) {
      const status = found.get(o.key);
      if (!status) continue;
      states[o.text] = status;
      if (status.state === 'done') await take(o);
      again ||= status.state === 'waiting' || status.state === 'running';
    }
    useBakes.setState({ states, offline: false });
  } catch {
    // The server is away: what is under way there goes on, and is found again.
    useBakes.setState({ offline: true });
    again = open.length > 0;
  }
  if (again) later();
}

/** A bake is asked for anew: what the server has of it may be taken. */
export function takeAgain(pictureId: string): void {
  for (const name of [...taking]) if (name.startsWith(`${pictureId} `)) taking.delete(name);
}

export function later(): void {
  timer ??= setTimeout(() => void look(), POLL_MS);
}

async function take({ sheet, picture, text, key }: Open & { key: string }): Promise<void> {
  const name = `${picture.id} ${text}`;
  if (taking.has(name)) return;
  taking.add(name);
  try {
    const { tiles, missed } = await server.tilesOf(key);
    const { width, height } = picture;
    work({ do: 'take-bake', sheetId: sheet.id, taken: { pictureId: picture.id, made: text, missed, width, height, tiles } });
  } catch (error) {
    taking.delete(name);
    say((error as Error).message);
  }
}

/** While the bench is open. */
export function watchBakes(): () => void {
  void look();
  let before = useBench.getState().document;
  const stop = useBench.subscribe(({ document }) => {
    if (document === before) return;
    before = document;
    if (document?.sheets.some((s) => s.pictures.some((p) => p.bake))) later();
  });
  return () => {
    stop();
    if (timer) clearTimeout(timer);
    timer = null;
    taking.clear();
    useBakes.setState({ states: {}, offline: false });
  };
}
