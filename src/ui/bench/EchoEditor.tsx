'use client';
/** What an echo repeats, from which map, with which members, and what is done to it on the way. */
import { Plus, X } from 'lucide-react';
import { setLayerEdit } from '@/core/document/edits';
import { mapInfo, mapKind, type MapId } from '@/core/document/maps';
import { LIMITS, type Echo, type Layer, type Sheet } from '@/core/document/schema';
import { block, findCycle } from '@/core/document/tree';
import { FILTERS, FILTER_TYPES, type Filter, type FilterType } from '@/core/strata/filters';
import { IconButton, Tip } from '../common/controls';
import { FilterEditor } from './filters';
import { edit, preview, say } from './store';

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
    const cycle = findCycle(sheet.layers.map((l) => (l.id === layer.id ? { ...l, echo: { ...echo, of } } : l)));
    if (cycle) return say(`That cannot be: ${cycle}.`);
    set({ of, members: {} }, 'another original');
  };
  const withFilter = (n: number, filter: Filter) => echo.filters.with(n, filter);
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
            .filter((l) => l.id !== layer.id && l.kind !== 'adjust')
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
      {echo.filters.map((filter, n) => (
        <div key={n} className="rounded border border-line p-1">
          <div className="flex items-center">
            <span className="flex-1 pl-1.5 text-ink-soft">then {FILTERS[filter.type].label.toLowerCase()}</span>
            <IconButton
              label="Take this step out"
              onClick={() => set({ filters: echo.filters.toSpliced(n, 1) }, 'one step less')}
            >
              <X size={13} />
            </IconButton>
          </div>
          <FilterEditor
            filter={filter}
            onPreview={(f) => preview(change({ filters: withFilter(n, f) }))}
            onCommit={(f) => set({ filters: withFilter(n, f) }, FILTERS[f.type].label.toLowerCase())}
          />
        </div>
      ))}
      {echo.filters.length < LIMITS.maxFilters && (
        <Tip label="Something to do to it on the way">
          <label className="flex items-center gap-1 text-ink-soft">
            <Plus size={12} />
            <select
              aria-label="Add a step"
              value=""
              onChange={(e) => set({ filters: [...echo.filters, FILTERS[e.target.value as FilterType].start] }, 'one step more')}
              className="h-6 rounded border border-line bg-raised px-1"
            >
              <option value="">then …</option>
              {FILTER_TYPES.map((t) => (
                <option key={t} value={t}>
                  {FILTERS[t].label}
                </option>
              ))}
            </select>
          </label>
        </Tip>
      )}
    </div>
  );
}
