'use client';
/** Search, and the maps as columns: which are shown, and each alone. */
import { Columns3, Search } from 'lucide-react';
import { mapInfo, type MapId } from '@/core/kinds/maps';
import type { Sheet } from '@/core/document/schema';
import { Menu, MenuCheck } from '../../kit/Menu';
import { IconButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { CELL_WIDTH } from './StrataCell';
import { useBench } from '../store';

export function Head({
  sheet,
  maps,
  searching,
  onSearch,
}: {
  sheet: Sheet;
  maps: MapId[];
  searching: boolean;
  onSearch: () => void;
}) {
  const view = useBench((s) => s.view);
  const hidden = useBench((s) => s.hiddenColumns);
  const toggle = (m: MapId) =>
    useBench.setState({ hiddenColumns: hidden.includes(m) ? hidden.filter((x) => x !== m) : [...hidden, m] });
  return (
    <div className="flex h-8 shrink-0 items-center border-b border-line pr-2 pl-3 text-ink-soft">
      <span className="flex-1">Strata</span>
      <IconButton label="Search layers" active={searching} onClick={onSearch}>
        <Search size={13} />
      </IconButton>
      <Menu
        align="end"
        trigger={
          <IconButton label="Columns" active={hidden.some((m) => sheet.maps.includes(m))}>
            <Columns3 size={13} />
          </IconButton>
        }
      >
        {sheet.maps.map((m) => (
          <MenuCheck key={m} checked={!hidden.includes(m)} onChange={() => toggle(m)}>
            {mapInfo(m, sheet.ownMaps).label}
          </MenuCheck>
        ))}
      </Menu>
      {maps.map((map) => {
        const info = mapInfo(map, sheet.ownMaps);
        return (
          <Tip key={map} label={`${info.label} alone. ${info.hint}`}>
            <button
              type="button"
              aria-label={`${info.short}: view ${info.label}`}
              aria-pressed={view === map}
              style={{ width: CELL_WIDTH }}
              className={`h-6 rounded text-center hover:bg-field ${view === map ? 'font-semibold text-accent-ink' : ''}`}
              onClick={() => useBench.setState({ view: view === map ? 'lit' : map })}
            >
              {info.short}
            </button>
          </Tip>
        );
      })}
    </div>
  );
}
