'use client';
/** The brush at hand as a card with its own stroke and sentence; it opens the tip and what varies, above the hand. */
import { ChevronDown, ChevronUp } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useRef, useState } from 'react';
import type { SmallPicture } from '@/engine/pictures';
import { hexToSrgb } from '@/core/colour/transfer';
import { LEAST_ROUNDNESS } from '@/core/hand/tip';
import { Segments, Switch } from '../../common/controls';
import { NumberField } from '../../common/NumberField';
import { SmallPictureView } from '../SmallPictureView';
import { setBrush, useBench } from '../store';
import { useSmallPicture } from '../thumbnails';
import { Lines } from './Lines';
import { Percent } from './Percent';
import { brushSentence } from './sentences';

export function BrushCard() {
  const [open, setOpen] = useState(false);
  const brush = useBench((s) => s.brush);
  const Chevron = open ? ChevronDown : ChevronUp;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={`Brush: ${brushSentence(brush)}`}
          className="flex h-7 min-w-0 flex-1 items-center gap-1 rounded border border-line bg-raised px-2 text-left hover:bg-field data-[state=open]:border-accent"
        >
          <span className="truncate">{brushSentence(brush)}</span>
          <Chevron size={14} className="ml-auto shrink-0" />
        </button>
      </Popover.Trigger>
      {/* Over the strata, beside the work. Behind the trigger, which would else be taken for it. */}
      <Popover.Anchor className="absolute top-0 -left-[328px]" />
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={8}
          collisionPadding={8}
          aria-label="Brush"
          // It stays while its owner paints.
          onInteractOutside={(e) => e.preventDefault()}
          onKeyDown={(e) => e.key !== 'Escape' && e.stopPropagation()}
          className="z-30 max-h-(--radix-popover-content-available-height) w-[320px] overflow-y-auto rounded-md border border-line bg-panel p-3 shadow-xl"
        >
          <Sample />
          <TipFields />
          <Reach />
          <Lines lines={brush.vary} onChange={(vary) => setBrush({ vary })} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A stroke of the brush, drawn by the engine; while a newer one is on its way the last one stays. */
function Sample() {
  const brush = useBench((s) => s.brush);
  const well = useBench((s) => s.wells[0]);
  const writes = { 'base-colour': { on: true, value: hexToSrgb(well), amount: 1 } };
  const picture = useSmallPicture({ of: 'stroke', brush: { ...brush, writes } });
  const last = useRef<SmallPicture | null>(null);
  if (picture) last.current = picture;
  const shown = picture ?? last.current;
  return (
    <div className="mb-2 h-[60px] w-full overflow-hidden rounded bg-field" role="img" aria-label="A stroke of this brush">
      {shown && <SmallPictureView picture={shown} className="h-full w-full object-contain" />}
    </div>
  );
}

/** Where on the model a dab goes. */
function Reach() {
  const isModel = useBench((s) => s.geometry !== null);
  const reach = useBench((s) => s.brush.reach);
  if (!isModel) return null;
  return (
    <Switch
      label="Same surface"
      checked={reach === 'connected'}
      onChange={(v) => setBrush({ reach: v ? 'connected' : 'all' })}
      hint="On: only the surface that hangs together under the tip. Off: everything within its reach, neighbouring parts too"
    />
  );
}

function TipFields() {
  const tip = useBench((s) => s.brush.tip);
  const set = (change: Partial<typeof tip>) => setBrush({ tip: { ...useBench.getState().brush.tip, ...change } });
  return (
    <section aria-label="Tip" className="mb-2 space-y-0.5">
      <div className="flex items-center gap-3">
        <Segments
          label="Tip"
          value={tip.shape}
          options={[
            { value: 'round', label: 'Round' },
            { value: 'square', label: 'Square' },
          ]}
          onChange={(shape) => set({ shape })}
        />
        <Switch
          label="Texel grid"
          checked={tip.grid}
          onChange={(grid) => set({ grid })}
          hint="Whole texels without soft edges, for small sheets"
        />
      </div>
      <Percent
        label="Roundness"
        labelWidth="72px"
        value={tip.roundness}
        min={LEAST_ROUNDNESS}
        reset={100}
        hint="Short side of the tip beside its long side."
        onChange={(roundness) => set({ roundness })}
      />
      <NumberField
        label="Angle"
        labelWidth="72px"
        unit="°"
        value={tip.angle}
        min={-180}
        max={180}
        reset={0}
        hint="How the tip is turned, clockwise."
        onPreview={(angle) => set({ angle })}
        onCommit={(angle) => set({ angle })}
      />
      <StrokeFields />
    </section>
  );
}

/** How dabs follow each other, and the hand. */
function StrokeFields() {
  const { spacing, smoothing } = useBench((s) => s.brush);
  return (
    <>
      <Percent
        label="Spacing"
        labelWidth="72px"
        value={spacing}
        min={0.02}
        max={2}
        reset={12}
        hint="Distance of the dabs, in diameters."
        onChange={(v) => setBrush({ spacing: v })}
      />
      <Percent
        label="Smoothing"
        labelWidth="72px"
        value={smoothing}
        reset={30}
        hint="Calms an unsteady hand."
        onChange={(v) => setBrush({ smoothing: v })}
      />
    </>
  );
}
