'use client';
/** What can be done to a mask, and masks that are there already. */
import { Box, Link2, MoreHorizontal } from 'lucide-react';
import type { Layer, Mask, Sheet } from '@/core/document/schema';
import { Menu, MenuItem, MenuSeparator, SubMenu } from '../../kit/Menu';
import { IconButton } from '../../kit/Button';
import { fillMask, invertMask, linkMask, usersOf } from './commands';
import { maskBy, SHAPE_MASKS } from './byShape';
import { applyRecipe, deleteRecipe, savedRecipes, saveRecipe } from './recipes';

export function LinkMenu({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  return (
    <Menu
      trigger={
        <button
          type="button"
          className="inline-flex h-6 items-center gap-1 rounded px-1 hover:bg-field"
          aria-label="Linked: use a mask that is there already"
        >
          <Link2 size={12} /> Linked
        </button>
      }
    >
      {sheet.masks.map((m) => (
        <MenuItem key={m.id} onSelect={() => linkMask(layer, m.id)}>
          {m.name}
          <span className="text-ink-soft">{usersOf(sheet, m.id).length} ×</span>
        </MenuItem>
      ))}
    </Menu>
  );
}

/** A mask of one step at once: worn edges, grime, dust, and the like. */
export function ShapeMenu({ layer }: { layer: Layer }) {
  return (
    <Menu
      trigger={
        <button
          type="button"
          className="inline-flex h-6 items-center gap-1 rounded px-1 hover:bg-field"
          aria-label="By shape: mask by the model’s shape"
        >
          <Box size={12} /> By shape
        </button>
      }
    >
      {SHAPE_MASKS.map(({ label, hint, source }) => (
        <MenuItem key={label} hint={hint} onSelect={() => maskBy(source, label, layer)}>
          {label}
        </MenuItem>
      ))}
    </Menu>
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
    <Menu
      align="end"
      trigger={
        <IconButton label="More about the mask">
          <MoreHorizontal size={14} />
        </IconButton>
      }
    >
      <MenuItem onSelect={() => invertMask(mask)}>Invert</MenuItem>
      <MenuItem onSelect={() => fillMask(1, mask)}>Fill: shows all</MenuItem>
      <MenuItem onSelect={() => fillMask(0, mask)}>Clear: hides all</MenuItem>
      <MenuItem onSelect={() => setTimeout(onRename)}>Rename</MenuItem>
      <MenuItem onSelect={() => saveRecipe(mask, mask.name)}>Save its steps as a recipe</MenuItem>
      {recipes.length > 0 && (
        <SubMenu label="Use a saved recipe">
          {recipes.map((r) => (
            <MenuItem
              key={r.name}
              hint="Delete forgets the recipe"
              onDelete={() => deleteRecipe(r.name)}
              onSelect={() => applyRecipe(mask, r)}
            >
              {r.name}
            </MenuItem>
          ))}
        </SubMenu>
      )}
      <MenuSeparator />
      {sheet.masks
        .filter((m) => m.id !== mask.id)
        .map((m) => (
          <MenuItem key={m.id} onSelect={() => linkMask(layer, m.id)}>
            Use {m.name} instead
          </MenuItem>
        ))}
      <MenuItem onSelect={() => linkMask(layer, null)}>Take it off this layer</MenuItem>
      <MenuItem onSelect={() => setTimeout(onDelete)}>Delete the mask</MenuItem>
    </Menu>
  );
}
