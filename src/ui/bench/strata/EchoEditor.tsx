'use client';
/** What an echo repeats, from which map, with which members, and what is done to it on the way. */
import { setLayerEdit } from '@/core/document/edits';
import { LAYERS } from '@/core/kinds/layers';
import { MAP_ROWS, mapInfo, mapKind, type MapId } from '@/core/kinds/maps';
import type { Echo, Layer, Sheet } from '@/core/document/schema';
import { block, whyUnmakeable } from '@/core/document/tree';
import { NORMAL_KERNELS, type NormalKernel } from '@/core/tile/normal';
import { GREY_LABELS, GREYS } from '@/core/kinds/grey';
import { Choice } from '../../kit/Choice';
import { NumberField } from '../../kit/NumberField';
import { FilterSteps } from '../filters/FilterSteps';
import { edit, preview, say } from '../store';

const WEIGHTS = [
  { value: 0, label: 'out' },
  { value: 1, label: 'as is' },
  { value: 2, label: 'strong' },
];

export function EchoEditor({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  const echo = layer.echo!;
  const original = sheet.layers.find((l) => l.id === echo.of);
  const members = original?.kind === 'group' ? block(sheet.layers, original.id).slice(0, -1).toReversed() : [];
  const change = (next: Partial<Echo>) => setLayerEdit(sheet, layer, { echo: { ...echo, ...next } });
  const set = (next: Partial<Echo>, label: string) => edit(change(next), `${layer.name}: ${label}`);
  const choose = (of: string) => {
    const fault = whyUnmakeable(
      sheet.layers.map((l) => (l.id === layer.id ? { ...l, echo: { ...echo, of } } : l)),
      sheet.masks,
    );
    if (fault) return say(`That cannot be: ${fault}.`);
    set({ of, members: {} }, 'another original');
  };
  const targets = sheet.maps.filter((m) => layer.cells[m]?.on);
  return (
    <div className="space-y-1">
      <label className="flex items-center gap-2">
        <span className="w-14 shrink-0 text-ink-soft">Echoes</span>
        <select
          value={original?.id ?? ''}
          onChange={(e) => choose(e.target.value)}
          className="h-6 min-w-0 flex-1 rounded border border-line bg-raised px-1"
        >
          {!original && <option value="">what is gone</option>}
          {sheet.layers
            .filter((l) => l.id !== layer.id && LAYERS[l.kind].byItself)
            .toReversed()
            .map((l) => (
              <option key={l.id} value={l.id}>
                {l.name}
              </option>
            ))}
        </select>
      </label>
      <label className="flex items-center gap-2">
        <span className="w-14 shrink-0 text-ink-soft">From</span>
        <select
          value={echo.from}
          onChange={(e) => set({ from: e.target.value as MapId }, 'another map')}
          className="h-6 min-w-0 flex-1 rounded border border-line bg-raised px-1"
        >
          {sheet.maps
            .filter((m) => mapKind(m) !== 'normal')
            .map((m) => (
              <option key={m} value={m}>
                {mapInfo(m, sheet.ownMaps).label}
              </option>
            ))}
        </select>
      </label>
      {members.map((m) => (
        <div key={m.id} className="flex items-center gap-1 pl-[62px]">
          <span className="min-w-0 flex-1 truncate">{m.name}</span>
          {WEIGHTS.map((w) => {
            const on = (echo.members[m.id] ?? 1) === w.value;
            return (
              <button
                key={w.value}
                type="button"
                aria-pressed={on}
                onClick={() => set({ members: { ...echo.members, [m.id]: w.value } }, `${m.name} ${w.label}`)}
                className={`h-5 rounded px-1.5 text-[12px] ${on ? 'bg-ink text-panel' : 'hover:bg-field'}`}
              >
                {w.label}
              </button>
            );
          })}
        </div>
      ))}
      {mapKind(echo.from) === 'colour' && targets.some((m) => mapKind(m) === 'value') && (
        <Choice
          label="Takes"
          labelWidth="56px"
          value={echo.by}
          options={GREYS.map((value) => ({ value, label: GREY_LABELS[value] }))}
          onChange={(by) => set({ by }, GREY_LABELS[by].toLowerCase())}
        />
      )}
      {mapKind(echo.from) === 'value' && targets.some((m) => mapKind(m) === 'normal') && (
        <>
          <NumberField
            label="Strength"
            labelWidth="56px"
            unit="×"
            min={-8}
            max={8}
            digits={2}
            reset={1}
            value={echo.relief.strength}
            onPreview={(strength) => preview(change({ relief: { ...echo.relief, strength } }))}
            onCommit={(strength) => set({ relief: { ...echo.relief, strength } }, 'strength')}
          />
          <Choice
            label="Kernel"
            labelWidth="56px"
            value={String(echo.relief.kernel)}
            options={NORMAL_KERNELS.map((k) => ({ value: String(k), label: `${k} × ${k} texels` }))}
            onChange={(k) => set({ relief: { ...echo.relief, kernel: Number(k) as NormalKernel } }, `kernel ${k}`)}
          />
        </>
      )}
      <FilterSteps
        filters={echo.filters}
        kinds={targets.length ? targets : [MAP_ROWS.find((m) => m.kind === 'value')!.id]}
        onPreview={(filters) => preview(change({ filters }))}
        onCommit={(filters, label) => set({ filters }, label)}
      />
    </div>
  );
}
