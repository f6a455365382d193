'use client';
/** What opens under the selected row: how it blends, its mask, and what its kind has. */
import { useState } from 'react';
import { BLEND_LABELS } from '@/core/colour/blend';
import { setLayerEdit } from '@/core/document/edits';
import { mapKind } from '@/core/kinds/maps';
import { TAGS, type Layer, type Sheet } from '@/core/document/schema';
import { FILTERS } from '@/core/kinds/filters';
import { ColourStrip } from '../../kit/ColourStrip';
import { Switch } from '../../kit/Switch';
import { PercentField } from '../../kit/PercentField';
import { BlendSelect } from './BlendSelect';
import { EchoEditor } from './EchoEditor';
import { FilterEditor } from '../filters';
import { tagChosen } from '../layers/commands';
import { MaskSection } from '../mask/MaskSection';
import { CoatSection } from '../sources/CoatSection';
import { edit, preview, useBench } from '../store';

/** Neutral enough to sit beside the work: six hues at one lightness. */
export const TAG_COLOURS = ['transparent', ...[25, 75, 130, 195, 260, 320].map((h) => `oklch(0.68 0.11 ${h})`)];

export function RowDetails({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  const set = (after: Partial<Layer>, label: string) => edit(setLayerEdit(sheet, layer, after), label);
  const view = useBench((s) => s.view);
  const locked = layer.lock === 'all';
  // The figures are of the map that is looked at; lit, of the first that it changes.
  const on = sheet.maps.filter((m) => layer.cells[m]?.on);
  const map = view !== 'lit' && on.includes(view) ? view : on[0];
  return (
    <div
      className={`space-y-1 pr-3 pb-2 pl-[34px] ${locked ? 'pointer-events-none opacity-60' : ''}`}
      onKeyDown={(e) => e.key !== 'Escape' && !e.ctrlKey && e.stopPropagation()}
    >
      {!(layer.kind === 'group' && layer.passThrough) && (
        <label className="flex items-center gap-2">
          <span className="w-14 shrink-0 text-ink-soft">Blend</span>
          <BlendSelect
            kind="colour"
            label="Blend"
            value={layer.blend}
            onChange={(b) => b && set({ blend: b }, `${layer.name}: ${BLEND_LABELS[b]}`)}
          />
        </label>
      )}
      <PercentField
        label="Opacity"
        labelWidth="56px"
        value={layer.opacity}
        reset={1}
        onPreview={(v) => preview(setLayerEdit(sheet, layer, { opacity: v }))}
        onCommit={(v) => set({ opacity: v }, `${layer.name}: opacity ${Math.round(v * 100)} %`)}
      />
      {layer.kind === 'group' && (
        <Switch
          label="Passes through"
          hint="On: its members blend with what lies below the group. Off: they blend among themselves first"
          checked={layer.passThrough}
          onChange={(v) => set({ passThrough: v }, `${layer.name}: ${v ? 'passes through' : 'isolated'}`)}
        />
      )}
      {layer.kind === 'coat' && <CoatSection sheet={sheet} layer={layer} />}
      <MaskSection sheet={sheet} layer={layer} />
      {layer.filter && (
        <FilterEditor
          filter={layer.filter}
          histogram={map && mapKind(map) !== 'normal' ? { layerId: layer.id, map } : undefined}
          onPreview={(filter) => preview(setLayerEdit(sheet, layer, { filter }))}
          onCommit={(filter) => set({ filter }, `${layer.name}: ${FILTERS[filter.type].label.toLowerCase()}`)}
        />
      )}
      {layer.echo && <EchoEditor sheet={sheet} layer={layer} />}
      <Note key={layer.id} layer={layer} onAccept={(note) => set({ note }, `Note on ${layer.name}`)} />
    </div>
  );
}

function Note({ layer, onAccept }: { layer: Layer; onAccept: (note: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <div className="flex items-center gap-2">
      <span className="w-14 shrink-0 text-ink-soft">Note</span>
      <input
        aria-label="Note"
        value={text ?? layer.note}
        maxLength={2000}
        placeholder="for yourself"
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (text !== null && text !== layer.note) onAccept(text);
          setText(null);
        }}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') e.currentTarget.blur();
        }}
        className="h-6 min-w-0 flex-1 rounded border border-transparent bg-transparent px-1 hover:border-line focus:border-line focus:bg-raised"
      />
      <ColourStrip
        label="Tag"
        colours={TAG_COLOURS.slice(0, TAGS)}
        taken={layer.tag}
        onTake={tagChosen}
        nameOf={(tag) => (tag === 0 ? 'No tag' : `Tag ${tag}`)}
        titleOf={(tag) => (tag === 0 ? 'No tag' : `Tag ${tag}`)}
        className="flex h-6 items-center gap-0.5"
        chipClass={(tag) => `h-3.5 w-3.5 rounded-full border ${layer.tag === tag ? 'border-ink' : 'border-line'}`}
      />
    </div>
  );
}
