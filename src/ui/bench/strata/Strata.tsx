'use client';
/** The strata sheet: layers are rows, maps are columns. Which layer does what to which map is simply seen. */
import { X } from 'lucide-react';
import { useMemo, useState, type MouseEvent } from 'react';
import { IconButton } from '../../kit/Button';
import { hintDone } from '../top/hints';
import { toggleSolo } from '../layers/commands';
import { rowsOf } from './rows';
import { CELL_WIDTH } from './StrataCell';
import { chooseLayers, currentSheet, useBench } from '../store';
import { Head } from './Head';
import { Rows } from './Rows';
import { Foot } from './Foot';

export function Strata() {
  const sheet = useBench((s) => currentSheet(s));
  const selected = useBench((s) => s.selected[s.sheetId]);
  const chosen = useBench((s) => s.chosen);
  const collapsed = useBench((s) => s.collapsed);
  const hiddenColumns = useBench((s) => s.hiddenColumns);
  const solo = useBench((s) => s.solo.length);
  const [search, setSearch] = useState<string | null>(null);
  const rows = useMemo(() => rowsOf(sheet.layers, collapsed, search ?? ''), [sheet.layers, collapsed, search]);
  const maps = sheet.maps.filter((m) => !hiddenColumns.includes(m));
  // Wide enough for a name of eighteen letters beside the columns.
  const width = Math.min(560, Math.max(344, 222 + maps.length * CELL_WIDTH));
  const pick = (e: MouseEvent, id: string) => {
    hintDone('layers');
    if (e.shiftKey && selected) {
      const at = rows.findIndex((r) => r.layer.id === selected);
      const to = rows.findIndex((r) => r.layer.id === id);
      const between = rows.slice(Math.min(at, to), Math.max(at, to) + 1).map((r) => r.layer.id);
      chooseLayers([...between.filter((x) => x !== id), id]);
    } else if (e.ctrlKey || e.metaKey) {
      const without = chosen.filter((x) => x !== id);
      chooseLayers(chosen.includes(id) && without.length ? without : [...without, id]);
    } else chooseLayers([id]);
  };
  const step = (by: number, extend: boolean) => {
    const at = rows.findIndex((r) => r.layer.id === selected);
    const next = rows[Math.min(rows.length - 1, Math.max(0, at + by))]?.layer.id;
    if (!next) return;
    chooseLayers(extend ? [...chosen.filter((x) => x !== next), next] : [next]);
    requestAnimationFrame(() => document.getElementById(`layer-${next}`)?.focus());
  };
  return (
    <aside className="relative flex shrink-0 flex-col border-r border-line" style={{ width }} aria-label="Strata">
      <Head sheet={sheet} maps={maps} searching={search !== null} onSearch={() => setSearch(search === null ? '' : null)} />
      {search !== null && (
        <div className="flex h-8 shrink-0 items-center border-b border-line px-2">
          <input
            autoFocus
            aria-label="Search layers"
            placeholder="Name, note or kind"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === 'Escape') setSearch(null);
            }}
            className="h-6 min-w-0 flex-1 rounded border border-line bg-raised px-1.5"
          />
          <IconButton label="Close the search" onClick={() => setSearch(null)}>
            <X size={13} />
          </IconButton>
        </div>
      )}
      {solo > 0 && (
        <button
          type="button"
          onClick={toggleSolo}
          className="h-7 shrink-0 border-b border-line bg-accent-wash px-3 text-left text-accent-ink"
        >
          {solo === 1 ? 'One layer is' : `${solo} layers are`} shown alone: click to show all
        </button>
      )}
      <Rows sheet={sheet} rows={rows} maps={maps} selected={selected} chosen={chosen} onPick={pick} onStep={step} />
      <Foot sheet={sheet} selected={selected} />
    </aside>
  );
}
