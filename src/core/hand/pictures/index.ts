/** Pictures that Brindle draws by itself for tips and textures: a line each, drawn when one is first asked for. */
import type { TipPicture } from '../tipPicture';
import { DRAWN, type DrawnPicture } from './drawn';

/** A picture by its id; null: it is not there. */
export type Pictures = (id: string) => TipPicture | null;

const done = new Map<string, TipPicture>();

export const DRAWN_PICTURES = Object.keys(DRAWN) as DrawnPicture[];

export const drawnPicture: Pictures = (id) => {
  const known = done.get(id);
  if (known) return known;
  const draw = id.startsWith('made:') ? DRAWN[id.slice(5) as DrawnPicture] : undefined;
  if (!draw) return null;
  const picture = draw.draw();
  done.set(id, picture);
  return picture;
};
