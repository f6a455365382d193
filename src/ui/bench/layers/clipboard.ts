/** Layers from one piece to another. */
import type { Clip } from '@/core/document/work/copy';
import { bench, currentSheet, say, useBench, work } from '../store';
import { chosenLayers, free, deleteLayers } from './commands';
import { placeForNew } from './adding';

/** In the browser's own store, so that another tab with another piece can take it. */
const CLIP_KEY = 'brindle-clip';

export async function copyChosen(): Promise<boolean> {
  const { chosen } = useBench.getState();
  const clip = await bench().ask({ ask: 'copy', sheetId: currentSheet().id, ids: chosen });
  try {
    localStorage.setItem(CLIP_KEY, JSON.stringify(clip));
  } catch {
    say('That is more than the browser’s clipboard store takes (some 5 MB of addresses): copy fewer layers at a time.');
    return false;
  }
  say(
    `${clip.layers.length === 1 ? `"${clip.layers[0].name}" is` : `${clip.layers.length} layers are`} copied: paste here, on another sheet or in another piece.`,
  );
  return true;
}

export async function cutChosen(): Promise<void> {
  const layers = chosenLayers();
  if (free(layers, 'cut') && (await copyChosen())) deleteLayers(layers);
}

export function pasteLayers(): void {
  const text = localStorage.getItem(CLIP_KEY);
  if (!text) return say('There is nothing to paste: copy layers first.');
  work({ do: 'paste', sheetId: currentSheet().id, clip: JSON.parse(text) as Clip, place: placeForNew() });
}
