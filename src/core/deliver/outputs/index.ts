/** The registry of what goes out: one line each. */
import type { Piece } from '../../document/schema';
import { glb } from './glb';
import { map } from './map';
import type { Offer, OutputDef } from './output';
import { packed } from './packed';

export const OUTPUTS: Record<string, OutputDef> = { map, packed, glb };

/** The kind that has an output of this id; undefined: none has. */
export const outputKind = (id: string): OutputDef | undefined => Object.values(OUTPUTS).find((kind) => kind.knows(id));

/** What a piece can deliver; `per`: only sheet by sheet, or only as a whole. */
export const offersOf = (piece: Piece, per?: OutputDef['per']): Offer[] =>
  Object.values(OUTPUTS)
    .filter((kind) => !per || kind.per === per)
    .flatMap((kind) => kind.offers(piece));
