/** What is done to palettes: the one at hand, those that are kept with the piece, colours out of pictures, files. */
import { COLOUR_MAP } from '@/core/kinds/maps';
import {
  coloursOf,
  readPalette,
  sortedSwatches,
  writePalette,
  type PaletteFormat,
  type PaletteOrder,
  type Swatch,
} from '@/core/colour/palette';
import { hexToSrgb } from '@/core/colour/transfer';
import { setPieceEdit } from '@/core/document/edits';
import { freeName } from '@/core/document/factory';
import { LIMITS, type KeptPalette, type Piece } from '@/core/document/schema';
import { ask, download } from '../../common/api';
import { newId } from '../layers/ids';
import { bench, currentLayer, currentSheet, edit, say, useBench } from '../store';

const piece = (): Piece => useBench.getState().document!;

export function setPalette(colours: readonly string[], label: string): void {
  edit(setPieceEdit(piece(), { palette: [...new Set(colours)].slice(0, LIMITS.maxPalette) }), `Palette: ${label}`);
}

/** Paint keeps to the colours at hand, or no longer. */
export function keepToPalette(on: boolean): void {
  if (on && piece().palette.length === 0) return say('The palette has no colours yet: add some first.');
  edit(setPieceEdit(piece(), { onlyPalette: on }), on ? 'Only colours of the palette' : 'Any colour');
}

export function addToPalette(colour: string): void {
  const { palette } = piece();
  if (palette.includes(colour)) return;
  if (palette.length >= LIMITS.maxPalette) return say(`A palette holds up to ${LIMITS.maxPalette} colours: take one out first.`);
  setPalette([...palette, colour], `add ${colour}`);
}

export const removeFromPalette = (colour: string): void =>
  setPalette(
    piece().palette.filter((c) => c !== colour),
    `take ${colour} out`,
  );

export function sortPalette(by: PaletteOrder): void {
  const swatches = piece().palette.map((colour) => ({ colour }));
  setPalette(
    sortedSwatches(swatches, by).map((s) => s.colour),
    `by ${by}`,
  );
}

// ── Kept under a name ──────────────────────────────────────────────────────────────────────────────────────

/** Keeps swatches under a name, and puts them at hand. */
export function keepPalette(name: string, swatches: readonly Swatch[]): void {
  const { palettes } = piece();
  if (swatches.length === 0) return say('There are no colours to keep: add some first.');
  if (palettes.length >= LIMITS.maxPalettes) return say(`A piece keeps up to ${LIMITS.maxPalettes} palettes: delete one first.`);
  const own = freeName(
    name.trim().replace(/[/\\]/g, ' ').slice(0, 100) || 'Palette',
    palettes.map((p) => p.name),
  );
  const kept: KeptPalette = { id: newId(), name: own, swatches: swatches.slice(0, LIMITS.maxPalette).map((s) => ({ ...s })) };
  const palette = [...new Set(swatches.map((s) => s.colour))].slice(0, LIMITS.maxPalette);
  edit(setPieceEdit(piece(), { palettes: [...palettes, kept], palette }), `Keep the palette ${own}`);
}

export const takePalette = (kept: KeptPalette): void =>
  setPalette(
    kept.swatches.map((s) => s.colour),
    kept.name,
  );

export function renamePalette(kept: KeptPalette, name: string): void {
  edit(
    setPieceEdit(piece(), { palettes: piece().palettes.map((p) => (p.id === kept.id ? { ...p, name } : p)) }),
    `Rename ${kept.name}`,
  );
}

export function deletePalette(kept: KeptPalette): void {
  edit(setPieceEdit(piece(), { palettes: piece().palettes.filter((p) => p.id !== kept.id) }), `Delete the palette ${kept.name}`);
}

// ── Out of pictures ────────────────────────────────────────────────────────────────────────────────────────

/** Pictures are looked at this large at most: no colour of them is lost by it. */
const LOOKED_SIDE = 1024;

async function pixelsOf(file: File): Promise<Uint8ClampedArray | null> {
  const bitmap = await createImageBitmap(file).catch(() => null);
  if (!bitmap) return null;
  const k = Math.min(1, LOOKED_SIDE / Math.max(bitmap.width, bitmap.height));
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(bitmap.width * k)), Math.max(1, Math.round(bitmap.height * k)));
  const pen = canvas.getContext('2d', { willReadFrequently: true })!;
  pen.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  return pen.getImageData(0, 0, canvas.width, canvas.height).data;
}

export async function paletteOfPicture(file: File, count: number): Promise<void> {
  const pixels = await pixelsOf(file);
  if (!pixels) return say(`"${file.name}" is not a picture that the browser shows: choose PNG, JPEG or WebP.`);
  const swatches = coloursOf(pixels, count);
  if (swatches.length === 0) return say(`"${file.name}" is see-through all over: it has no colours.`);
  keepPalette(file.name.replace(/\.[^.]*$/, ''), swatches);
}

/** Colours of what is seen of the sheet, or of one layer by itself. */
export async function paletteOfWork(of: 'sheet' | 'layer', count: number): Promise<void> {
  const sheet = currentSheet();
  const layer = currentLayer();
  if (of === 'layer' && !layer) return say('There is no layer: choose one first.');
  const picture =
    of === 'sheet'
      ? await bench().ask({ ask: 'sheet-picture', sheetId: sheet.id })
      : (
          await bench().ask({
            ask: 'thumbnails',
            sheetId: sheet.id,
            wants: [{ of: 'layer', layerId: layer!.id, map: COLOUR_MAP }],
          })
        )[0];
  const swatches = picture ? coloursOf(picture.data, count) : [];
  if (swatches.length === 0) return say(`"${layer?.name ?? sheet.name}" has no colours to take.`);
  keepPalette(of === 'layer' ? layer!.name : sheet.name, swatches);
}

// ── Files, and other pieces ────────────────────────────────────────────────────────────────────────────────

export async function importPalette(file: File): Promise<void> {
  const name = file.name.replace(/\.[^.]*$/, '');
  if (file.type.startsWith('image/')) {
    // A strip: each colour that is in it.
    const pixels = await pixelsOf(file);
    const swatches = pixels ? coloursOf(pixels, 32) : [];
    return swatches.length ? keepPalette(name, swatches) : say(`"${file.name}" cannot be read as a picture.`);
  }
  if (file.size > 1 << 20) return say(`"${file.name}" is larger than a palette can be: up to 1 MiB is read.`);
  const read = readPalette(await file.text());
  if (!read.ok) return say(read.message);
  keepPalette(read.name ?? name, read.swatches);
}

const bytes = (text: string) => new TextEncoder().encode(text);

export async function exportPalette(name: string, swatches: readonly Swatch[], format: PaletteFormat | 'png'): Promise<void> {
  if (swatches.length === 0) return say('There are no colours to export: add some first.');
  const stem = name.toLowerCase().replace(/[^a-z0-9]+/g, '-') || 'palette';
  if (format !== 'png')
    return download(bytes(writePalette(name, swatches, format)), `${stem}.${format === 'hex' ? 'txt' : format}`);
  const side = 32;
  const canvas = new OffscreenCanvas(side * swatches.length, side);
  const pen = canvas.getContext('2d')!;
  swatches.forEach(({ colour }, n) => {
    pen.fillStyle = colour;
    pen.fillRect(n * side, 0, side, side);
  });
  const blob = await canvas.convertToBlob({ type: 'image/png' });
  download(new Uint8Array(await blob.arrayBuffer()), `${stem}.png`);
}

export interface OtherPiece {
  id: string;
  name: string;
}

export async function otherPieces(): Promise<OtherPiece[]> {
  const all = await ask<OtherPiece[]>('/api/pieces');
  return all.filter((p) => p.id !== piece().id);
}

/** Takes the palettes of another piece over. */
export async function palettesFrom(other: OtherPiece): Promise<void> {
  const { document } = await ask<{ document: Piece }>(`/api/pieces/${encodeURIComponent(other.id)}`);
  const theirs = [
    ...(document.palettes ?? []),
    ...(document.palette.length ? [{ id: '', name: other.name, swatches: document.palette.map((colour) => ({ colour })) }] : []),
  ];
  if (theirs.length === 0) return say(`"${other.name}" has no palette.`);
  const { palettes } = piece();
  const names = palettes.map((p) => p.name);
  const fresh = theirs.slice(0, LIMITS.maxPalettes - palettes.length).map((p): KeptPalette => {
    const name = freeName(p.name, names);
    names.push(name);
    return { id: newId(), name, swatches: p.swatches };
  });
  edit(setPieceEdit(piece(), { palettes: [...palettes, ...fresh] }), `Palettes of ${other.name}`);
}

/** Light enough that dark marks show on it. */
export const isLight = (hex: string): boolean => {
  const [r, g, b] = hexToSrgb(hex);
  return 0.3 * r + 0.59 * g + 0.11 * b > 0.55;
};
