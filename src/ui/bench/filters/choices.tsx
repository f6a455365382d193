'use client';
/** Adjustments with something to choose beside their numbers. */
import { mapInfo, mapKind } from '@/core/kinds/maps';
import type { FilterOf } from '@/core/kinds/filters';
import { GREYS } from '@/core/kinds/grey';
import { Choice } from '../../common/Choice';
import { GREY_LABELS } from '../PictureSetDialog';
import { currentSheet } from '../store';
import type { EditorProps } from './editor';
import { Numbers } from './numbers';

const SHAPES = [
  { value: 'shadow', label: 'A shadow that fades inwards' },
  { value: 'outline', label: 'A line along the edge' },
  { value: 'bevel', label: 'A bevel that rises' },
] as const;

export function RimEditor(props: EditorProps<FilterOf<'rim'>>) {
  const { filter, onCommit } = props;
  return (
    <>
      <Choice label="Shape" value={filter.shape} options={SHAPES} onChange={(shape) => onCommit({ ...filter, shape })} />
      <Numbers
        {...props}
        rows={[
          { key: 'width', label: 'Width', unit: 'tx', min: 0.5, max: 160, reset: 12, scale: 1, curve: 'fine', digits: 1 },
          { key: 'soften', label: 'Soften', unit: '%', min: 0, max: 100, reset: 30, scale: 100 },
        ]}
      />
    </>
  );
}

export function SlopeEditor(props: EditorProps<FilterOf<'slope'>>) {
  const { filter, onCommit } = props;
  const sheet = currentSheet();
  return (
    <>
      <Choice
        label="Slope of"
        value={filter.map}
        options={sheet.maps
          .filter((m) => mapKind(m) !== 'normal')
          .map((m) => ({ value: m, label: `${mapInfo(m, sheet.ownMaps).label} below` }))}
        onChange={(map) => onCommit({ ...filter, map })}
      />
      <Numbers
        {...props}
        rows={[
          { key: 'amount', label: 'Amount', unit: 'tx', min: -96, max: 96, reset: 8, scale: 1, digits: 1 },
          { key: 'gain', label: 'Steepness', unit: '×', min: 1, max: 64, reset: 16, scale: 1 },
        ]}
      />
    </>
  );
}

export function GreyEditor({ filter, onCommit }: EditorProps<FilterOf<'grey'>>) {
  return (
    <Choice
      label="By"
      value={filter.by}
      options={GREYS.filter((g) => g !== 'alpha').map((value) => ({ value, label: GREY_LABELS[value] }))}
      onChange={(by) => onCommit({ ...filter, by })}
    />
  );
}
