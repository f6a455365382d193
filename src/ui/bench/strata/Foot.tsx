'use client';
/** What can be added, and done to the chosen layers. */
import { Copy, FolderPlus, Merge, Plus, Trash2 } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { Sheet } from '@/core/document/schema';
import { FILTERS, FILTER_TYPES } from '@/core/kinds/filters';
import { IconButton, Tip, MENU_ITEM, MENU_BOX } from '../../common/controls';
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
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={more} aria-label="More: add a layer of another kind">
          <Plus size={13} /> More
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="start" side="top" sideOffset={4} className={MENU_BOX}>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={addEcho}>
              Echo of the selected layer
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={askForDecal}>
              Decal: pictures on the surface …
            </DropdownMenu.Item>
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Label className="px-2 py-1 text-ink-soft">Adjust what lies below</DropdownMenu.Label>
            {FILTER_TYPES.map((t) => (
              <DropdownMenu.Item key={t} className={MENU_ITEM} title={FILTERS[t].hint} onSelect={() => addAdjust(t)}>
                {FILTERS[t].label}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <span className="flex-1" />
      <IconButton label="Group the chosen layers" keys={keysFor('group')} onClick={groupChosen}>
        <FolderPlus size={14} />
      </IconButton>
      <IconButton label="Duplicate" keys={keysFor('duplicate')} disabled={!selected} onClick={duplicateChosen}>
        <Copy size={14} />
      </IconButton>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <IconButton label="Merge" disabled={!selected}>
            <Merge size={14} />
          </IconButton>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" side="top" sideOffset={4} className={MENU_BOX}>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => merge('down')}>
              Merge down <kbd className="figures text-ink-soft">{keysFor('merge-down')}</kbd>
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => merge('visible')}>
              Merged copy of the visible
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => merge('flatten')}>
              Flatten the sheet
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <IconButton label="Delete" keys={keysFor('delete')} disabled={!selected} onClick={() => deleteLayers()}>
        <Trash2 size={14} />
      </IconButton>
      <span className="figures w-6 text-right text-ink-soft">{sheet.layers.length}</span>
    </div>
  );
}
