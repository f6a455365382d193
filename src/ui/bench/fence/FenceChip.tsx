'use client';
/** The fence: a switch with its sentence, and what it is made of. */
import { Fence as FenceIcon, MoreHorizontal } from 'lucide-react';
import { fenceMask, NO_FENCE, setFenceEdit } from '@/core/document/fence';
import type { Sheet } from '@/core/document/schema';
import { FootPopup } from '../../kit/Popup';
import { Menu, MenuItem, SubMenu } from '../../kit/Menu';
import { Chip, IconButton } from '../../kit/Button';
import { Switch } from '../../kit/Switch';
import { NumberField } from '../../kit/NumberField';
import { keysFor } from '../keys/commands';
import { KeptRow } from '../kept/KeptRow';
import { JOINING, RecipeSentence, stepWord } from '../recipe/RecipeSentence';
import { StepEditor } from '../recipe/StepEditor';
import { currentSheet, preview, useBench } from '../store';
import {
  deleteKept,
  dropFence,
  fenceFromLayer,
  fenceFromMask,
  fenceToMask,
  hideFenced,
  keepFence,
  renameKept,
  setFence,
  toggleFence,
  putOn,
} from './commands';

/** "Only Shell, less Rim." */
export function fenceSentence(sheet: Sheet): string {
  const { steps, invert } = sheet.fence?.fence ?? NO_FENCE;
  const words = steps
    .filter((s) => s.on)
    .map((s, n) => `${n > 0 ? `${JOINING[s.blend]} ` : ''}${s.invert ? 'not ' : ''}${stepWord(s, sheet)}`);
  if (words.length === 0) return 'No fence: paint goes anywhere.';
  return `${invert ? 'All but' : 'Only'} ${words.join(' ')}.`;
}

export function FenceChip() {
  const sheet = useBench((s) => currentSheet(s));
  const on = sheet.fence?.on ?? false;
  const sentence = fenceSentence(sheet);
  return (
    <FootPopup
      label="Fence"
      tip={on ? `Fence. ${sentence}` : 'Fence: limit where paint may go'}
      keys={keysFor('fence')}
      width="w-[340px]"
      // Clicks in the panes pick what a step covers: they must not close the box.
      onInteractOutside={(e) => useBench.getState().picking && e.preventDefault()}
      onOpenChange={(open) => {
        if (!open) useBench.setState({ picking: null });
      }}
      trigger={
        <Chip on={on} aria-label={`Fence: ${on ? sentence : 'off'}`} className="min-w-0 max-w-64 shrink">
          <FenceIcon size={14} className="shrink-0" />
          <span className="truncate">{on ? sentence.replace(/\.$/, '') : 'Fence'}</span>
        </Chip>
      }
    >
      <FenceBox sheet={sheet} />
    </FootPopup>
  );
}

function FenceBox({ sheet }: { sheet: Sheet }) {
  const mask = fenceMask(sheet);
  const { soften, invert } = sheet.fence?.fence ?? NO_FENCE;
  const open = useBench((s) => mask.steps.find((step) => step.id === s.openStep));
  return (
    <>
      <div className="flex items-center gap-2">
        <Switch
          label="Limit paint"
          checked={sheet.fence?.on ?? false}
          onChange={toggleFence}
          hint="Hatched is what stays clean"
        />
        <span className="flex-1" />
        <FenceMenu sheet={sheet} />
      </div>
      <div className="flex items-baseline gap-1.5">
        <span className="shrink-0 text-ink-soft">{invert ? 'All but' : 'Only'}</span>
        {mask.steps.length > 0 ? (
          <RecipeSentence sheet={sheet} mask={mask} layerId={null} />
        ) : (
          <div className="space-y-1">
            <p className="text-ink-soft">what you choose: hold O and click a part, or add a step.</p>
            <RecipeSentence sheet={sheet} mask={mask} layerId={null} />
          </div>
        )}
      </div>
      {open && <StepEditor sheet={sheet} mask={mask} step={open} />}
      <NumberField
        label="Soften"
        labelWidth="68px"
        unit="tx"
        min={0}
        max={64}
        reset={0}
        value={soften}
        hint="Its edge rises over so many texels, inwards: outside nothing is touched."
        onPreview={(v) => preview(setFenceEdit(sheet, { soften: v }))}
        onCommit={(v) => setFence({ soften: v }, `softened ${Math.round(v)} texels`)}
      />
      <div className="flex items-center gap-2">
        <Switch label="Invert" checked={invert} onChange={(next) => setFence({ invert: next }, 'turned round')} />
        <span className="flex-1" />
        {sheet.fence && (
          <button type="button" className="h-6 rounded px-1.5 hover:bg-field" onClick={dropFence}>
            No fence
          </button>
        )}
      </div>
      {sheet.fences.length > 0 && <Kept sheet={sheet} />}
    </>
  );
}

function FenceMenu({ sheet }: { sheet: Sheet }) {
  const onModel = useBench((s) => s.geometry !== null);
  return (
    <Menu
      align="end"
      trigger={
        <IconButton label="More about the fence">
          <MoreHorizontal size={14} />
        </IconButton>
      }
    >
      <MenuItem onSelect={keepFence}>Keep it under a name</MenuItem>
      <MenuItem onSelect={fenceToMask}>Make it the layer’s mask</MenuItem>
      {onModel && (
        <>
          <MenuItem onSelect={() => void hideFenced(true)}>Show only these faces</MenuItem>
          <MenuItem onSelect={() => void hideFenced(false)}>Hide these faces</MenuItem>
        </>
      )}
      <MenuItem onSelect={fenceFromLayer}>Take the layer’s alpha</MenuItem>
      {sheet.masks.length > 0 && (
        <SubMenu label="Take a mask">
          {sheet.masks.map((m) => (
            <MenuItem key={m.id} onSelect={() => fenceFromMask(m)}>
              {m.name}
            </MenuItem>
          ))}
        </SubMenu>
      )}
    </Menu>
  );
}

function Kept({ sheet }: { sheet: Sheet }) {
  return (
    <div role="group" aria-label="Kept fences" className="border-t border-line pt-2">
      <p className="mb-1 text-[12px] text-ink-soft">Kept with this sheet</p>
      {sheet.fences.map((kept) => (
        <KeptRow
          key={kept.id}
          name={kept.name}
          what="fence"
          title="Put it on"
          onTake={() => putOn(kept)}
          onRename={(name) => renameKept(kept, name)}
          onDelete={() => deleteKept(kept)}
        />
      ))}
    </div>
  );
}
