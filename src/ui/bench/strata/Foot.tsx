'use client';
/** What can be added, and done to the chosen layers. */
import { Copy, FolderPlus, Merge, Plus, Trash2 } from 'lucide-react';
import type { Sheet } from '@/core/document/schema';
import { FILTERS, FILTER_TYPES } from '@/core/kinds/filters';
import { Menu, MenuItem, MenuLabel, MenuSeparator } from '../../kit/Menu';
import { IconButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { keysFor } from '../keys/commands';
import { addAdjust, addEcho, addLayer } from '../layers/adding';
import { askForDecal } from '../pictures/pictureSet';
import { deleteLayers, duplicateChosen, groupChosen, merge } from '../layers/commands';

export function Foot({ sheet, selected }: { sheet: Sheet; selected: string }) {
  const more = 'inline-flex h-7 items-center gap-0.5 rounded px-1.5 hover:bg-field';
  return (
    <div className="flex h-9 shrink-0 items-center border-t border-line px-2">
      <Tip label="A layer to paint on" keys={keysFor('add-painted')}>
        <button type="button" className={more} onClick={() => addLayer('painted')}>
          <Plus size={13} /> Painted
        </button>
      </Tip>
      <Tip label="One value a map, or a picture, all over" keys={keysFor('add-coat')}>
        <button type="button" className={more} onClick={() => addLayer('coat')}>
          <Plus size={13} /> Coat
        </button>
      </Tip>
      <Menu
        side="top"
        trigger={
          <button type="button" className={more} aria-label="More: add a layer of another kind">
            <Plus size={13} /> More
          </button>
        }
      >
        <MenuItem onSelect={addEcho}>Echo of the selected layer</MenuItem>
        <MenuItem onSelect={askForDecal}>Decal: pictures on the surface …</MenuItem>
        <MenuSeparator />
        <MenuLabel>Adjust what lies below</MenuLabel>
        {FILTER_TYPES.map((t) => (
          <MenuItem key={t} hint={FILTERS[t].hint} onSelect={() => addAdjust(t)}>
            {FILTERS[t].label}
          </MenuItem>
        ))}
      </Menu>
      <span className="flex-1" />
      <IconButton label="Group the chosen layers" keys={keysFor('group')} onClick={groupChosen}>
        <FolderPlus size={14} />
      </IconButton>
      <IconButton label="Duplicate" keys={keysFor('duplicate')} disabled={!selected} onClick={duplicateChosen}>
        <Copy size={14} />
      </IconButton>
      <Menu
        align="end"
        side="top"
        trigger={
          <IconButton label="Merge" disabled={!selected}>
            <Merge size={14} />
          </IconButton>
        }
      >
        <MenuItem keys={keysFor('merge-down')} onSelect={() => merge('down')}>
          Merge down
        </MenuItem>
        <MenuItem onSelect={() => merge('visible')}>Merged copy of the visible</MenuItem>
        <MenuItem onSelect={() => merge('flatten')}>Flatten the sheet</MenuItem>
      </Menu>
      <IconButton label="Delete" keys={keysFor('delete')} disabled={!selected} onClick={() => deleteLayers()}>
        <Trash2 size={14} />
      </IconButton>
      <span className="figures w-6 text-right text-ink-soft">{sheet.layers.length}</span>
    </div>
  );
}
