/** What the panes show, beyond the document. */
import { COLOUR_MAP, type MapId } from '../core/kinds/maps';
import type { Piece, Sheet } from '../core/document/schema';
import type { Geometry } from '../engine/protocol';
import type { Looking, MaskMode } from './materials';
import type { PlaneTextures } from './sheetTextures';

export interface Shown {
  piece: Piece;
  /** null: a canvas, shown on a plane. */
  geometry: Geometry | null;
  view: Looking;
  /** null: no mask is looked at. Its texels come in the plane `view`. */
  maskMode: MaskMode | null;
  /** A map seen alone is shaded by the model's shape. */
  form: boolean;
  /** Marks colours that no real surface has. */
  albedoMarks: boolean;
  sheetId: string;
  texturesOf(sheetId: string): PlaneTextures;
}

export const sheetAtWork = ({ piece, sheetId }: Shown): Sheet => piece.sheets.find((s) => s.id === sheetId) ?? piece.sheets[0];

/** What lies see-through over the work: a mask, marks. */
export function laidOver({ maskMode, albedoMarks }: Shown): ['mask' | MapId, 'over' | 'black' | 'albedo'][] {
  return [
    ...(maskMode === 'over' || maskMode === 'black' ? [['mask', maskMode] as ['mask', 'over' | 'black']] : []),
    ...(albedoMarks && maskMode !== 'alone' ? [[COLOUR_MAP, 'albedo'] as [MapId, 'albedo']] : []),
  ];
}
