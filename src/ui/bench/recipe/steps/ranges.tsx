'use client';
/** Steps that choose by what is seen: a range of a map's values, colours like one. */
import { srgbToHex, hexToSrgb } from '@/core/colour/transfer';
import { isFence } from '@/core/document/fence';
import type { Sheet } from '@/core/document/schema';
import { mapInfo, mapKind, type MapId } from '@/core/kinds/maps';
import { startOfStep, type StepSourceOf } from '@/core/kinds/steps';
import { ColourField } from '../../../kit/ColourField';
import { useBench } from '../../store';
import type { StepEditorProps, StepUi } from './stepUi';

const label = (sheet: Sheet, map: MapId) => mapInfo(map, sheet.ownMaps).label;
/** A fence sees all of the sheet; a mask what lies below its layer. */
const where = (fence: boolean) => (fence ? 'seen' : 'below');

type Range = StepSourceOf<'range'>;

export const range: StepUi<Range> = {
  entries: ({ sheet, mask, add }) =>
    sheet.maps
      .filter((m) => mapKind(m) !== 'normal')
      .map((map) => ({
        label: label(sheet, map),
        group: 'strata',
        sub: `A range of a map ${where(isFence(mask))}`,
        onSelect: () => add({ ...startOfStep('range'), map }, `a range of ${label(sheet, map).toLowerCase()}`),
      })),
};

type Like = StepSourceOf<'colour'>;

export const colour: StepUi<Like> = {
  Above: LikeEditor,
  entries: ({ sheet, mask, add }) =>
    sheet.maps
      .filter((m) => mapKind(m) === 'colour')
      .map((map) => ({
        label: `${label(sheet, map)} ${where(isFence(mask))}, like the active well`,
        group: 'strata',
        hint: 'Colours near one, by how they look',
        onSelect: () =>
          add({ ...startOfStep('colour'), map, colour: hexToSrgb(useBench.getState().wells[0]) }, 'colours like one'),
      })),
};

function LikeEditor({ source, show, set }: StepEditorProps<Like>) {
  const hex = srgbToHex(source.colour);
  const well = useBench((s) => s.wells[0]);
  const take = (next: string) => ({ ...source, colour: hexToSrgb(next) });
  return (
    <div className="flex items-center gap-2">
      <span className="w-[68px] text-ink-soft">Like</span>
      <ColourField
        colour={hex}
        label="Colour"
        onPreview={(next) => show(take(next))}
        onCommit={(next) => set(take(next), 'another colour')}
      >
        <button
          type="button"
          aria-label={`Colour ${hex}`}
          className="h-6 w-10 rounded border border-line"
          style={{ background: hex }}
        />
      </ColourField>
      <button type="button" className="h-6 rounded px-1.5 hover:bg-field" onClick={() => set(take(well), 'the active well')}>
        Take the well
      </button>
    </div>
  );
}
