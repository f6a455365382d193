'use client';
/** What can be done to a mask, and masks that are there already. */
import { Box, Link2, MoreHorizontal } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { Layer, Mask, Sheet } from '@/core/document/schema';
import { IconButton, MENU_BOX, MENU_ITEM } from '../../common/controls';
import { fillMask, invertMask, linkMask, usersOf } from './commands';
import { maskBy, SHAPE_MASKS } from './byShape';
import { applyRecipe, deleteRecipe, savedRecipes, saveRecipe } from './recipes';

export function LinkMenu({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="inline-flex h-6 items-center gap-1 rounded px-1 hover:bg-field"
        aria-label="Linked: use a mask that is there already"
      >
        <Link2 size={12} /> Linked
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={4} className={MENU_BOX}>
          {sheet.masks.map((m) => (
            <DropdownMenu.Item key={m.id} className={MENU_ITEM} onSelect={() => linkMask(layer, m.id)}>
              {m.name}
              <span className="text-ink-soft">{usersOf(sheet, m.id).length} ×</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** A mask of one step at once: worn edges, grime, dust, and the like. */
export function ShapeMenu({ layer }: { layer: Layer }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="inline-flex h-6 items-center gap-1 rounded px-1 hover:bg-field"
        aria-label="By shape: mask by the model’s shape"
      >
        <Box size={12} /> By shape
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={4} className={MENU_BOX}>
          {SHAPE_MASKS.map(({ label, hint, source }) => (
            <DropdownMenu.Item key={label} className={MENU_ITEM} title={hint} onSelect={() => maskBy(source, label, layer)}>
              {label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

interface MaskMenuProps {
  sheet: Sheet;
  layer: Layer;
  mask: Mask;
  onRename: () => void;
  onDelete: () => void;
}

export function MaskMenu({ sheet, layer, mask, onRename, onDelete }: MaskMenuProps) {
  const recipes = savedRecipes();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <IconButton label="More about the mask">
          <MoreHorizontal size={14} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className={MENU_BOX}>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => invertMask(mask)}>
            Invert
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => fillMask(1, mask)}>
            Fill: shows all
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => fillMask(0, mask)}>
            Clear: hides all
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setTimeout(onRename)}>
            Rename
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => saveRecipe(mask, mask.name)}>
            Save its steps as a recipe
          </DropdownMenu.Item>
          {recipes.length > 0 && (
            <DropdownMenu.Sub>
              <DropdownMenu.SubTrigger className={MENU_ITEM}>
                Use a saved recipe <span className="text-ink-soft">▸</span>
              </DropdownMenu.SubTrigger>
              <DropdownMenu.Portal>
                <DropdownMenu.SubContent className={MENU_BOX}>
                  {recipes.map((r) => (
                    <DropdownMenu.Item
                      key={r.name}
                      className={MENU_ITEM}
                      title="Delete forgets the recipe"
                      onKeyDown={(e) => e.key === 'Delete' && deleteRecipe(r.name)}
                      onSelect={() => applyRecipe(mask, r)}
                    >
                      {r.name}
                    </DropdownMenu.Item>
                  ))}
                </DropdownMenu.SubContent>
              </DropdownMenu.Portal>
            </DropdownMenu.Sub>
          )}
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          {sheet.masks
            .filter((m) => m.id !== mask.id)
            .map((m) => (
              <DropdownMenu.Item key={m.id} className={MENU_ITEM} onSelect={() => linkMask(layer, m.id)}>
                Use {m.name} instead
              </DropdownMenu.Item>
            ))}
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => linkMask(layer, null)}>
            Take it off this layer
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setTimeout(onDelete)}>
            Delete the mask
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
