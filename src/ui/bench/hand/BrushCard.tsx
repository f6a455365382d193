'use client';
/** The brush at hand as a card: its name, a stroke of it, its sentence. It opens the rack and what the brush is made of. */
import { ChevronDown, ChevronUp } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useEffect, useState } from 'react';
import { entryOf, isEdited, loadRack, useBench, useRack } from '../store';
import { BrushPanel, StrokePicture, type PanelTab } from './BrushPanel';
import { brushSentence } from './sentences';

export function BrushCard({ small = false }: { small?: boolean }) {
  const open = useBench((s) => s.brushPanel);
  const [tab, setTab] = useState<PanelTab>('rack');
  const brush = useBench((s) => s.brush);
  const brushId = useBench((s) => s.brushId);
  useRack((s) => s.entries);
  useEffect(() => void (useRack.getState().entries ?? loadRack()), []);
  const entry = entryOf(brushId);
  const sentence = brushSentence(brush);
  const name = entry ? `${entry.name}${isEdited(entry, brush) ? ' ·' : ''}` : 'Brush';
  const Chevron = open ? ChevronDown : ChevronUp;
  return (
    <Popover.Root open={open} onOpenChange={(brushPanel) => useBench.setState({ brushPanel })}>
      <Popover.Trigger asChild>
        <button
          type="button"
          title={`${name}: opens the rack of brushes, and what this one is made of`}
          aria-label={small ? `Brush: ${name}` : `Brush: ${name} ${sentence}`}
          className={`min-w-0 rounded border border-line bg-raised text-left hover:bg-field data-[state=open]:border-accent ${
            small ? 'flex h-7 w-44 items-center gap-1 px-2' : 'flex flex-1 flex-col px-1.5 py-1.5'
          }`}
        >
          <span className="flex w-full min-w-0 items-center gap-1">
            <span className="truncate font-medium" data-name="">
              {/* The space separates the name from the sentence in the text that screen readers and tests read. */}
              {name}{' '}
            </span>
            {small && <Chevron size={14} className="ml-auto shrink-0" />}
          </span>
          {!small && (
            <>
              <StrokePicture className="my-1 h-[34px] bg-transparent" />
              <span className="line-clamp-2 text-[11.5px] leading-[14px] text-ink-soft">{sentence}</span>
            </>
          )}
        </button>
      </Popover.Trigger>
      {/* Over the strata, beside the work. Behind the trigger, which would else be taken for it. */}
      <Popover.Anchor className="absolute top-0 -left-[328px]" />
      <Popover.Portal>
        <BrushPanel tab={tab} onTab={setTab} />
      </Popover.Portal>
    </Popover.Root>
  );
}
