'use client';
/** What opens above the hand: the rack, or all that the brush in hand is made of. */
import { COLOUR_MAP } from '@/core/kinds/maps';
import { Popover } from 'radix-ui';
import { useRef, useState } from 'react';
import type { SmallPicture } from '@/engine/answers/pictures';
import { hexToSrgb } from '@/core/colour/transfer';
import { coversSeen } from '@/core/hand/walk';
import { Choice } from '../../kit/Choice';
import { Button } from '../../kit/Button';
import { Segments } from '../../kit/Segments';
import { SmallPictureView } from '../pictures/SmallPictureView';
import { entryOf, isEdited, keepBrush, setBrush, takeBrush, useBench, useRack } from '../store';
import { useSmallPicture } from '../pictures/thumbnails';
import { Lines } from './Lines';
import { Percent } from './Percent';
import { Rack } from './Rack';
import { TextureFields } from './TextureFields';
import { TipFields } from './TipFields';

export type PanelTab = 'rack' | 'brush';

export function BrushPanel({ tab, onTab }: { tab: PanelTab; onTab: (tab: PanelTab) => void }) {
  return (
    <Popover.Content
      side="top"
      align="start"
      sideOffset={8}
      collisionPadding={8}
      aria-label="Brush"
      data-beside
      // It stays while its owner paints.
      onInteractOutside={(e) => e.preventDefault()}
      onKeyDown={(e) => e.key !== 'Escape' && e.stopPropagation()}
      className="z-30 flex h-(--radix-popover-content-available-height) max-h-[600px] w-[320px] flex-col rounded-md border border-line bg-panel shadow-xl"
    >
      <div className="flex shrink-0 items-center justify-between border-b border-line px-3 py-2">
        <Segments
          label="Brush or rack"
          value={tab}
          options={[
            { value: 'rack', label: 'Rack' },
            { value: 'brush', label: 'This brush' },
          ]}
          onChange={onTab}
        />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto p-3">{tab === 'rack' ? <Rack /> : <Parts />}</div>
    </Popover.Content>
  );
}

function Parts() {
  const brush = useBench((s) => s.brush);
  return (
    <>
      <StrokePicture className="mb-2 h-[60px]" />
      <Keeping />
      <TipFields />
      <Reach />
      <TextureFields />
      <Lines lines={brush.vary} onChange={(vary) => setBrush({ vary })} />
    </>
  );
}

/** A stroke of the brush in hand, drawn by the engine; while a newer one is on its way the last one stays. */
export function StrokePicture({ className }: { className: string }) {
  const brush = useBench((s) => s.brush);
  const [well, other] = useBench((s) => s.wells);
  const writes = { [COLOUR_MAP]: { on: true, value: hexToSrgb(well), amount: 1 } };
  const picture = useSmallPicture({ of: 'stroke', brush: { ...brush, second: hexToSrgb(other), writes } });
  const last = useRef<SmallPicture | null>(null);
  if (picture) last.current = picture;
  const shown = picture ?? last.current;
  return (
    <div className={`w-full overflow-hidden rounded bg-field ${className}`} role="img" aria-label="A stroke of this brush">
      {shown && <SmallPictureView picture={shown} className="h-full w-full object-contain" />}
    </div>
  );
}

const REACHES = [
  { value: 'connected', label: 'the surface under the tip' },
  { value: 'all', label: 'all within the ball' },
  { value: 'seen', label: 'what the eye sees' },
  { value: 'through', label: 'what lies behind, too' },
] as const;

/** What of the model a dab reaches. */
function Reach() {
  const isModel = useBench((s) => s.geometry !== null);
  const { reach, grazing } = useBench((s) => s.brush);
  if (!isModel) return null;
  return (
    <>
      <Choice label="Reaches" value={reach} options={REACHES} onChange={(next) => setBrush({ reach: next })} />
      {coversSeen({ reach }) && (
        <Percent
          label="Grazing"
          labelWidth="68px"
          value={grazing}
          reset={0.2}
          hint="Where the surface turns away from the eye paint fades out; 0: it does not."
          onChange={(v) => setBrush({ grazing: v })}
        />
      )}
    </>
  );
}

/** Keeps what was changed, as it is or as a brush of its own. */
function Keeping() {
  const brush = useBench((s) => s.brush);
  const brushId = useBench((s) => s.brushId);
  useRack((s) => s.entries);
  const entry = entryOf(brushId) ?? undefined;
  const [naming, setNaming] = useState<string | null>(null);
  const edited = isEdited(entry, brush);
  if (naming !== null)
    return (
      <form
        className="mb-2 flex items-center gap-1"
        onSubmit={(e) => {
          e.preventDefault();
          const name = naming.trim();
          if (!name) return;
          void keepBrush({ name, group: entry && !entry.shipped ? entry.group : 'Own' });
          setNaming(null);
        }}
      >
        <input
          autoFocus
          aria-label="Name of the new brush"
          maxLength={60}
          value={naming}
          onChange={(e) => setNaming(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== 'Escape') return;
            e.stopPropagation();
            setNaming(null);
          }}
          className="h-7 min-w-0 flex-1 rounded border border-line bg-raised px-2"
        />
        <Button type="submit" className="h-7 px-2" disabled={!naming.trim()}>
          Keep
        </Button>
        <Button type="button" kind="quiet" className="h-7 px-2" onClick={() => setNaming(null)}>
          Cancel
        </Button>
      </form>
    );
  return (
    <div className="mb-2 flex items-center gap-1">
      <span className="min-w-0 flex-1 truncate font-medium">
        {entry?.name ?? 'A brush of its own'}
        {edited && <span className="font-normal text-ink-soft"> · changed</span>}
      </span>
      {entry && edited && (
        <>
          <Button kind="quiet" className="h-7 px-2" onClick={() => takeBrush(entry)}>
            Put back
          </Button>
          <Button className="h-7 px-2" onClick={() => void keepBrush(entry)}>
            Keep
          </Button>
        </>
      )}
      <Button
        kind={edited ? 'quiet' : 'plain'}
        className="h-7 px-2"
        onClick={() => setNaming(entry ? `${entry.name} 2` : 'My brush')}
      >
        As new
      </Button>
    </div>
  );
}
