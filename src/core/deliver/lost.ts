/** Tiles whose pixels are lost: what goes out without them says so. */
import { type Piece } from '../document/schema';
import { planesOfSheet } from '../document/planes';
import { TILE, tileX, tileY, type TileStore } from '../tile/tiles';

/** What the report is called beside the files that went out. */
export const LOST_FILE = 'LOST TILES.txt';

export interface Lost {
  count: number;
  sentence: string;
  /** One line a tile: sheet, layer, map, and the texels that it covers. */
  report: string;
}

/** null if nothing is lost. */
export function lostTiles(piece: Piece, store: TileStore): Lost | null {
  const lines: string[] = [];
  const names = new Set<string>();
  for (const sheet of piece.sheets)
    for (const { key, owner, map } of planesOfSheet(sheet))
      for (const [tile, version] of store.tilesOf(key)) {
        if (version.data) continue;
        names.add(`"${owner.name}"`);
        const [x, y] = [tileX(tile) * TILE, tileY(tile) * TILE];
        lines.push(`${sheet.name}, ${owner.name}, ${map}: texels ${x}, ${y} to ${x + TILE - 1}, ${y + TILE - 1}`);
      }
  if (lines.length === 0) return null;
  const count = lines.length;
  const some = [...names].slice(0, 3).join(', ');
  return {
    count,
    sentence: `${count} tile${count === 1 ? '' : 's'} of ${some}${names.size > 3 ? ' and others' : ''} ${count === 1 ? 'is' : 'are'} lost on the server and count${count === 1 ? 's' : ''} as unpainted.`,
    report: `Lost on the server, and unpainted in these files:\n\n${lines.join('\n')}\n`,
  };
}
