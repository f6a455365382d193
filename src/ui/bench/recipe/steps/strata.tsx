'use client';
/** Steps made from the strata themselves. */
import { isFence } from '@/core/document/fence';
import type { Sheet } from '@/core/document/schema';
import { LAYERS } from '@/core/kinds/layers';
import { percent } from '@/core/kinds/control';
import { GREY_LABELS, type Grey } from '@/core/kinds/grey';
import { mapInfo, mapKind, type MapId } from '@/core/kinds/maps';
import type { StepSourceOf } from '@/core/kinds/steps';
import { Choice } from '../../../common/Choice';
import { Controls } from '../../Controls';
import { GREY_OPTIONS } from './plain';
import type { StepEditorProps, StepUi } from './stepUi';

const mapsOfValues = (sheet: Sheet): MapId[] => sheet.maps.filter((m) => mapKind(m) !== 'normal');
const label = (sheet: Sheet, map: MapId) => mapInfo(map, sheet.ownMaps).label;

/** Which number of a colour; nothing to choose where there is one only. */
function Takes({ map, by, onChange }: { map: MapId; by: Grey; onChange: (by: Grey, label: string) => void }) {
  if (mapKind(map) !== 'colour') return null;
  return <Choice label="Takes" value={by} options={GREY_OPTIONS} onChange={(v) => onChange(v, GREY_LABELS[v].toLowerCase())} />;
}

type Contact = StepSourceOf<'contact'>;

const CONTACT: Contact = { type: 'contact', offset: 0, contrast: 0.7, line: 0 };
const CONTACT_CONTROLS = [percent('offset', 'Offset', -1), percent('contrast', 'Contrast'), percent('line', 'Line')];

export const contact: StepUi<Contact> = {
  Editor: ({ source, show, set }) => (
    <Controls
      controls={CONTACT_CONTROLS}
      settings={source}
      start={CONTACT}
      onPreview={show}
      onCommit={(next, { label: name }) => set(next, name.toLowerCase())}
    />
  ),
  entries: ({ sheet, mask: of, layer, add }) =>
    sheet.maps.includes('height') && layer && !isFence(of)
      ? [
          {
            label: 'Higher than what is below',
            hint: "Where this layer's height rises above what lies below it",
            group: 'strata',
            onSelect: () => add(CONTACT, 'higher than below'),
          },
        ]
      : [],
};

type Below = StepSourceOf<'below'>;

export const below: StepUi<Below> = {
  Editor: ({ source, set }) => <Takes map={source.map} by={source.by} onChange={(by, name) => set({ ...source, by }, name)} />,
  entries: ({ sheet, mask: of, add }) =>
    (isFence(of) ? [] : mapsOfValues(sheet)).map((map) => ({
      label: label(sheet, map),
      group: 'strata',
      sub: 'A map below',
      onSelect: () => add({ type: 'below', map, by: 'luminance' }, `${label(sheet, map).toLowerCase()} below`),
    })),
};

type OtherLayer = StepSourceOf<'layer'>;

export const layer: StepUi<OtherLayer> = {
  Editor: LayerEditor,
  entries: ({ sheet, mask: of, layer: own, add }) =>
    sheet.layers
      .filter((l) => (isFence(of) || l.id !== own?.id) && LAYERS[l.kind].byItself)
      .toReversed()
      .map((l) => ({
        label: l.name,
        group: 'strata',
        sub: 'A layer’s alpha',
        onSelect: () => {
          const map = sheet.maps.find((m) => l.cells[m]?.on) ?? sheet.maps[0];
          add({ type: 'layer', of: l.id, map, take: 'alpha', by: 'luminance' }, `alpha of ${l.name}`);
        },
      })),
};

function LayerEditor({ sheet, source, set }: StepEditorProps<OtherLayer>) {
  const options = [
    { value: 'alpha', label: 'where it is' },
    ...mapsOfValues(sheet).map((m) => ({ value: m as string, label: `its ${label(sheet, m).toLowerCase()}` })),
  ];
  return (
    <>
      <Choice
        label="Of it"
        value={source.take === 'alpha' ? 'alpha' : source.map}
        options={options}
        onChange={(v) =>
          set(v === 'alpha' ? { ...source, take: 'alpha' } : { ...source, take: 'value', map: v as MapId }, 'taken otherwise')
        }
      />
      {source.take === 'value' && <Takes map={source.map} by={source.by} onChange={(by, name) => set({ ...source, by }, name)} />}
    </>
  );
}

export const mask: StepUi<StepSourceOf<'mask'>> = {
  Editor: () => <p className="text-[12px] text-ink-soft">Linked: it changes where the other mask is changed.</p>,
  entries: ({ sheet, mask: own, add }) =>
    sheet.masks
      .filter((m) => m.id !== own.id)
      .map((m) => ({
        label: m.name,
        group: 'strata',
        sub: 'Another mask, linked',
        onSelect: () => add({ type: 'mask', of: m.id }, m.name),
      })),
};
