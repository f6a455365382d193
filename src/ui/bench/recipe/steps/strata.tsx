'use client';
/** Steps made from the strata themselves. */
import { isFence } from '@/core/document/fence';
import type { Sheet } from '@/core/document/schema';
import { LAYERS } from '@/core/kinds/layers';
import { mapInfo, mapKind, type MapId } from '@/core/kinds/maps';
import { NORMAL_FROM } from '@/core/kinds/shown';
import { startOfStep, type StepSourceOf } from '@/core/kinds/steps';
import { Choice } from '../../../kit/Choice';
import type { StepEditorProps, StepUi } from './stepUi';

const mapsOfValues = (sheet: Sheet): MapId[] => sheet.maps.filter((m) => mapKind(m) !== 'normal');
const label = (sheet: Sheet, map: MapId) => mapInfo(map, sheet.ownMaps).label;

export const contact: StepUi<StepSourceOf<'contact'>> = {
  entries: ({ sheet, mask: of, layer, add }) =>
    sheet.maps.includes(NORMAL_FROM.relief) && layer && !isFence(of)
      ? [
          {
            label: 'Higher than what is below',
            hint: "Where this layer's height rises above what lies below it",
            group: 'strata',
            onSelect: () => add(startOfStep('contact'), 'higher than below'),
          },
        ]
      : [],
};

type Below = StepSourceOf<'below'>;

export const below: StepUi<Below> = {
  entries: ({ sheet, mask: of, add }) =>
    (isFence(of) ? [] : mapsOfValues(sheet)).map((map) => ({
      label: label(sheet, map),
      group: 'strata',
      sub: 'A map below',
      onSelect: () => add({ ...startOfStep('below'), map }, `${label(sheet, map).toLowerCase()} below`),
    })),
};

type OtherLayer = StepSourceOf<'layer'>;

export const layer: StepUi<OtherLayer> = {
  Above: LayerEditor,
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
          add({ ...startOfStep('layer'), of: l.id, map }, `alpha of ${l.name}`);
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
    </>
  );
}

export const mask: StepUi<StepSourceOf<'mask'>> = {
  Above: () => <p className="text-[12px] text-ink-soft">Linked: it changes where the other mask is changed.</p>,
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
