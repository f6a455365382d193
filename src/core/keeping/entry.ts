/** What the journal holds: intents, as they were asked for. Plain data that survives a structured clone. */
import type { Brush } from '../hand/brush';
import type { Sample } from '../hand/sample';
import { describeEdit, type Edit } from '../document/edits';
import type { Piece } from '../document/schema';
import type { Operation } from './operation';

/** `L`: changes that the engine works out from pixels (engine/protocol.ts). */
export type Intent<L = unknown> =
  /** Its samples lie beside the entry: they grow while the pen is down. */
  | { type: 'stroke'; sheetId: string; layerId: string; brush: Brush; seed: number }
  | { type: 'edit'; edit: Edit; label: string }
  | { type: 'layers'; what: L }
  | { type: 'undo' }
  | { type: 'redo' }
  /** From journals of before: an operation as bytes, without the intent that it came of. */
  | { type: 'bytes'; bytes: Uint8Array<ArrayBuffer> };

export interface Entry<L = unknown> {
  id: string;
  pieceId: string;
  /** The tab that asked. */
  client: string;
  /** Milliseconds since 1970. */
  at: number;
  /** What people call it. */
  label: string;
  intent: Intent<L>;
  /** false: a stroke whose pen has not been lifted. */
  whole: boolean;
  /** Of an undo or redo: the step that it concerned, once it was carried out. */
  step: string | null;
  /** What came of it, ready to be sent; its blobs lie beside. `baseRevision` is set when it is sent. */
  packed: Operation | null;
  /** Refused, and why. */
  aside: { why: string } | null;
}

/** A change as it was carried out: what keeping, and carrying it out again, need of its entry. */
export type ChangeRecord<L = unknown> = Pick<Entry<L>, 'id' | 'client' | 'at' | 'label' | 'intent' | 'step'> & {
  /** Of a stroke. */
  samples: Sample[];
};

/** What a list of entries says about an intent. */
export function describeIntent(intent: Intent<{ do: string; label?: string }>, piece: Piece | null): string {
  switch (intent.type) {
    case 'stroke':
      return piece ? describeEdit({ type: 'paint', sheetId: intent.sheetId, layerId: intent.layerId }, piece) : 'A stroke';
    case 'edit':
      return intent.label;
    case 'layers':
      return intent.what.label ?? `Layers: ${intent.what.do}`;
    case 'undo':
      return 'Undo';
    case 'redo':
      return 'Redo';
    case 'bytes':
      return 'A change of an earlier Brindle';
  }
}
