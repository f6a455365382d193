'use client';
/** What a mask's next step can be made from. */
import { Plus } from 'lucide-react';
import { useState } from 'react';
import type { Mask, Sheet } from '@/core/document/schema';
import type { StepSource } from '@/core/kinds/steps';
import { SOURCES } from '@/core/kinds/sources';
import { Menu, MenuItem, MenuLabel, SubMenu } from '../../kit/Menu';
import { addStep } from '../mask/steps';
import { startPlacement } from '../sources/presets';
import { SourcePicker } from '../sources/SourcePicker';
import { currentLayer, useBench } from '../store';
import { stepUis } from './steps';
import { GROUPS, type Entry } from './steps/stepUi';

export function AddStep({ sheet, mask }: { sheet: Sheet; mask: Mask }) {
  const [sourcing, setSourcing] = useState(false);
  const onModel = useBench((s) => s.geometry !== null);
  const add = (source: StepSource, label: string) => addStep(mask, source, label);
  if (sourcing)
    return (
      <SourcePicker
        onPick={(made) => {
          setSourcing(false);
          add({ type: 'made', made, placement: startPlacement(made.type) }, SOURCES[made.type].label.toLowerCase());
        }}
      >
        <button type="button" ref={(el) => el?.click()} className="inline-flex h-6 items-center rounded px-1 text-ink-soft">
          choose …
        </button>
      </SourcePicker>
    );
  // After the menu has closed, or it takes the focus back from what opens.
  const chooseRule = () => void setTimeout(() => setSourcing(true));
  const entries = stepUis().flatMap((ui) => ui.entries({ sheet, mask, layer: currentLayer() ?? null, onModel, add, chooseRule }));
  return (
    <Menu
      width="min-w-56"
      trigger={
        <button
          type="button"
          aria-label="Add a step to the mask"
          title="Add a step"
          className="inline-flex h-6 w-6 items-center justify-center rounded border border-dashed border-line text-ink-soft hover:bg-field hover:text-ink"
        >
          <Plus size={12} />
        </button>
      }
    >
      {Object.entries(GROUPS).map(([group, title]) => (
        <Group key={group} title={title} entries={entries.filter((e) => e.group === group)} />
      ))}
    </Menu>
  );
}

function Group({ title, entries }: { title: string; entries: Entry[] }) {
  if (entries.length === 0) return null;
  const subs = [...new Set(entries.map((e) => e.sub).filter((sub) => sub !== undefined))];
  return (
    <>
      {title && <MenuLabel>{title}</MenuLabel>}
      <Items entries={entries.filter((e) => e.sub === undefined)} />
      {subs.map((sub) => (
        <SubMenu key={sub} label={sub}>
          <Items entries={entries.filter((e) => e.sub === sub)} />
        </SubMenu>
      ))}
    </>
  );
}

const Items = ({ entries }: { entries: Entry[] }) =>
  entries.map((e, n) => (
    <MenuItem key={n} hint={e.hint} onSelect={e.onSelect}>
      {e.label}
    </MenuItem>
  ));
