/**
 * The kinds of layer: what each is, as far as whoever handles layers has to know. What it lays down on a map is said in
 * strata/layers.ts, what opens under its row in ui/bench/strata/RowDetails.tsx.
 */
import { valueChannels, type MapId } from './maps';

export const LAYER_KINDS = ['painted', 'coat', 'group', 'adjust', 'echo'] as const;
export type LayerKind = (typeof LAYER_KINDS)[number];

/** Fields of a layer's record that belong to some kinds only. */
interface KindFields {
  cells: Partial<Record<string, { value?: readonly number[] } | undefined>>;
  source: object | null;
  filter: object | null;
  echo: { of: string } | null;
}

interface Fault {
  path: string[];
  message: string;
}

export interface LayerKindDef {
  /** In a sentence. */
  word: string;
  /** Strokes go onto it. */
  byHand: boolean;
  /** Its cells may have pixels of their own. */
  planes: boolean;
  /** It holds other layers. */
  members: boolean;
  /** It says something by itself, so that another layer or a mask can take it up; an adjustment only changes. */
  byItself: boolean;
  /** Another layer that it is made from. */
  original?: (layer: Pick<KindFields, 'echo'>) => string;
  /** What is wrong with a record of it. */
  faults?: (layer: KindFields) => Fault[];
}

/** A field that this kind has to have, and all others must not. */
const OWN_FIELDS: { field: 'filter' | 'echo'; kind: LayerKind; message: string }[] = [
  { field: 'filter', kind: 'adjust', message: 'adjust layers, and only they, have a filter' },
  { field: 'echo', kind: 'echo', message: 'echo layers, and only they, have an original' },
];

const PLAIN = { byHand: false, planes: false, members: false, byItself: true };

export const LAYERS: Record<LayerKind, LayerKindDef> = {
  painted: { ...PLAIN, word: 'a painted layer', byHand: true, planes: true },
  coat: {
    ...PLAIN,
    word: 'a coat',
    planes: true,
    faults: ({ cells }) =>
      Object.entries(cells).flatMap(([map, cell]) => {
        const channels = valueChannels(map as MapId);
        const message = `a coat on ${map} needs ${channels} number${channels > 1 ? 's' : ''}`;
        return cell?.value?.length === channels ? [] : [{ path: ['cells', map, 'value'], message }];
      }),
  },
  group: { ...PLAIN, word: 'a group', members: true },
  adjust: { ...PLAIN, word: 'an adjust layer', byItself: false },
  echo: { ...PLAIN, word: 'an echo layer', original: ({ echo }) => echo!.of },
};

/** What is wrong with a layer's record beside the types of its fields. */
export function layerFaults(layer: KindFields & { kind: LayerKind }): Fault[] {
  const out = LAYERS[layer.kind].faults?.(layer) ?? [];
  if (layer.kind !== 'coat' && layer.source !== null) out.push({ path: ['source'], message: 'only coats have a source' });
  for (const { field, kind, message } of OWN_FIELDS)
    if ((layer.kind === kind) !== (layer[field] !== null)) out.push({ path: [field], message });
  return out;
}
