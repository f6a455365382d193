'use client';
/** Adjustments one after another, on their way from a source: of an echo, or of a step of a mask. */
import { Plus, X } from 'lucide-react';
import { mapKind, type MapId } from '@/core/kinds/maps';
import { LIMITS } from '@/core/document/schema';
import { FILTERS, FILTER_TYPES, type Filter, type FilterType } from '@/core/kinds/filters';
import { IconButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { FilterEditor } from '.';

export function FilterSteps({
  filters,
  kinds,
  onPreview,
  onCommit,
}: {
  filters: readonly Filter[];
  /** Maps that they end up in. */
  kinds: readonly (MapId | 'mask')[];
  onPreview: (filters: Filter[]) => void;
  onCommit: (filters: Filter[], label: string) => void;
}) {
  const fits = FILTER_TYPES.filter((t) => kinds.some((m) => FILTERS[t].fits(mapKind(m))));
  return (
    <>
      {filters.map((filter, n) => (
        <div key={n} className="rounded border border-line p-1">
          <div className="flex items-center">
            <span className="flex-1 pl-1.5 text-ink-soft">then {FILTERS[filter.type].label.toLowerCase()}</span>
            <IconButton label="Take this step out" onClick={() => onCommit(filters.toSpliced(n, 1), 'one step less')}>
              <X size={13} />
            </IconButton>
          </div>
          <FilterEditor
            filter={filter}
            onPreview={(f) => onPreview(filters.with(n, f))}
            onCommit={(f) => onCommit(filters.with(n, f), FILTERS[f.type].label.toLowerCase())}
          />
        </div>
      ))}
      {filters.length < LIMITS.maxFilters && (
        <Tip label="Something to do to it on the way">
          <label className="flex items-center gap-1 text-ink-soft">
            <Plus size={12} />
            <select
              aria-label="Add a step"
              value=""
              onChange={(e) => onCommit([...filters, FILTERS[e.target.value as FilterType].start], 'one step more')}
              className="h-6 rounded border border-line bg-raised px-1"
            >
              <option value="">then …</option>
              {fits.map((t) => (
                <option key={t} value={t}>
                  {FILTERS[t].label}
                </option>
              ))}
            </select>
          </label>
        </Tip>
      )}
    </>
  );
}
