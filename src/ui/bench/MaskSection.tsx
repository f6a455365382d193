'use client';
/** The mask of the selected layer: paint it, look at it, link it, fill it. */
import { Link2, MoreHorizontal } from 'lucide-react';
import { AlertDialog, DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { setLayerEdit, setMaskEdit } from '@/core/document/edits';
import type { Layer, Mask, Sheet } from '@/core/document/schema';
import { Button, IconButton, Segments, Tip, MENU, MENU_ITEM } from '../common/controls';
import { NameInput } from '../common/NameInput';
import { keysFor } from './commands';
import { addMask, deleteMask, fillMask, invertMask, linkMask, mixByHeight, usersOf } from './mask/commands';
import { applyRecipe, deleteRecipe, savedRecipes, saveRecipe } from './mask/recipes';
import { paintTarget } from './mask/steps';
import { MaskPicture } from './MaskPicture';
import { RecipeSentence } from './recipe/RecipeSentence';
import { StepEditor } from './recipe/StepEditor';
import { edit, say, useBench } from './store';

const MENU_BOX = `${MENU} min-w-48`;

export function MaskSection({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  const mask = layer.mask ? sheet.masks.find((m) => m.id === layer.mask!.id) : undefined;
  if (mask) return <MaskRow sheet={sheet} layer={layer} mask={mask} />;
  return (
    <div className="flex flex-wrap items-center gap-0.5">
      <span className="w-14 shrink-0 text-ink-soft">Mask</span>
      <Tip label="White all over: paint black to hide" keys={keysFor('mask-show')}>
        <button type="button" className="h-6 rounded px-1 whitespace-nowrap hover:bg-field" onClick={() => addMask(1, layer)}>
          From white
        </button>
      </Tip>
      <Tip label="Black all over: paint white to show" keys={keysFor('mask-hide')}>
        <button type="button" className="h-6 rounded px-1 whitespace-nowrap hover:bg-field" onClick={() => addMask(0, layer)}>
          From black
        </button>
      </Tip>
      {layer.cells.height?.on && (
        <Tip label="It lies in the gaps of what is below: by height, with a contact line">
          <button
            type="button"
            className="h-6 rounded px-1.5 whitespace-nowrap hover:bg-field"
            onClick={() => mixByHeight(layer)}
          >
            From height
          </button>
        </Tip>
      )}
      {sheet.masks.length > 0 && <LinkMenu sheet={sheet} layer={layer} />}
    </div>
  );
}

function LinkMenu({ sheet, layer }: { sheet: Sheet; layer: Layer }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="inline-flex h-6 items-center gap-1 rounded px-1 hover:bg-field"
        aria-label="Use a mask that is there already"
      >
        <Link2 size={12} /> Linked
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={4} className={`${MENU_BOX} max-h-72 overflow-y-auto`}>
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

function MaskRow({ sheet, layer, mask }: { sheet: Sheet; layer: Layer; mask: Mask }) {
  const target = useBench((s) => s.target);
  const maskMode = useBench((s) => s.maskMode);
  const [naming, setNaming] = useState(false);
  const [asking, setAsking] = useState(false);
  const users = usersOf(sheet, mask.id);
  const openStep = useBench((s) => s.openStep);
  const open = mask.steps.find((s) => s.id === openStep);
  const painting = target === 'mask';
  const recipes = savedRecipes();
  return (
    <div className="space-y-1">
      <div className="flex items-center gap-1.5">
        <span className="w-14 shrink-0 text-ink-soft">Mask</span>
        <Tip
          label={painting ? 'Strokes go onto the mask: click to paint the layer again' : 'Paint this mask'}
          keys={keysFor('mask-target')}
        >
          <button
            type="button"
            aria-pressed={painting}
            aria-label={`Paint ${mask.name}`}
            onClick={() => {
              if (!painting && !paintTarget(mask, openStep))
                return say(`"${mask.name}" has no painted step: add one to its steps to paint on it.`);
              useBench.setState({ target: painting ? 'layer' : 'mask' });
            }}
            className={`relative h-6 w-6 shrink-0 overflow-hidden rounded border-2 ${painting ? 'border-accent' : 'border-line'}`}
          >
            <MaskPicture mask={mask} layerId={layer.id} />
          </button>
        </Tip>
        {naming ? (
          <NameInput
            name={mask.name}
            label="Name of the mask"
            className="h-6 min-w-0 flex-1 px-1"
            onAccept={(name) => edit(setMaskEdit(sheet, mask, { name }), `Rename ${mask.name}`)}
            onRefuse={say}
            done={() => setNaming(false)}
          />
        ) : (
          <button
            type="button"
            title="Double click to rename"
            onDoubleClick={() => setNaming(true)}
            className="min-w-0 flex-1 truncate text-left"
          >
            {mask.name}
          </button>
        )}
        {users.length > 1 && (
          <Tip label={`One mask, used by ${users.map((u) => u.name).join(', ')}`}>
            <span className="inline-flex items-center gap-0.5 text-accent-ink">
              <Link2 size={12} />
              {users.length}
            </span>
          </Tip>
        )}
        <button
          type="button"
          role="switch"
          aria-checked={layer.mask!.on}
          aria-label="Mask on"
          onClick={() =>
            edit(
              setLayerEdit(sheet, layer, { mask: { id: mask.id, on: !layer.mask!.on } }),
              `${layer.name}: mask ${layer.mask!.on ? 'off' : 'on'}`,
            )
          }
          className={`h-6 rounded px-1 hover:bg-field ${layer.mask!.on ? '' : 'text-ink-soft line-through'}`}
        >
          on
        </button>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <span>
              <IconButton label="More about the mask">
                <MoreHorizontal size={14} />
              </IconButton>
            </span>
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
              <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setTimeout(() => setNaming(true))}>
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
                    <DropdownMenu.SubContent className={`${MENU_BOX} max-h-72 overflow-y-auto`}>
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
              <DropdownMenu.Item
                className={MENU_ITEM}
                onSelect={() => (users.length > 1 ? setTimeout(() => setAsking(true)) : deleteMask(mask))}
              >
                Delete the mask
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
      <div className="pl-[62px]">
        <RecipeSentence sheet={sheet} mask={mask} layerId={layer.id} />
      </div>
      {open && <StepEditor sheet={sheet} mask={mask} step={open} />}
      <div className="flex items-center gap-1.5 pl-[62px]">
        <Segments
          label="Look at the mask"
          value={maskMode ?? 'off'}
          options={[
            { value: 'off', label: 'Off', hint: 'The work as it is', keys: keysFor('mask-look') },
            { value: 'over', label: 'Over', hint: 'Tinted where it shows' },
            { value: 'alone', label: 'Alone', hint: 'The mask by itself' },
            { value: 'black', label: 'On black', hint: 'Black where it hides' },
          ]}
          onChange={(v) => useBench.setState({ maskMode: v === 'off' ? null : v })}
        />
      </div>
      <AlertDialog.Root open={asking} onOpenChange={setAsking}>
        <AlertDialog.Portal>
          <AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
          <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 w-[420px] -translate-x-1/2 -translate-y-1/2 rounded-lg bg-panel p-5 shadow-2xl">
            <AlertDialog.Title className="text-[16px] font-semibold">
              {mask.name} is used by {users.length} layers
            </AlertDialog.Title>
            <AlertDialog.Description className="mt-2 text-ink-soft">
              {users.map((u) => u.name).join(', ')} would show all over without it. Undo brings it back.
            </AlertDialog.Description>
            <div className="mt-5 flex justify-end gap-2">
              <AlertDialog.Cancel asChild>
                <Button>Keep it</Button>
              </AlertDialog.Cancel>
              <AlertDialog.Action asChild>
                <Button kind="main" onClick={() => deleteMask(mask)}>
                  Delete it everywhere
                </Button>
              </AlertDialog.Action>
            </div>
          </AlertDialog.Content>
        </AlertDialog.Portal>
      </AlertDialog.Root>
    </div>
  );
}
