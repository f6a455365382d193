'use client';
/** All sources with what they look like; a click takes one, as it begins on this piece. */
import { useState, type ReactElement } from 'react';
import { PLAIN } from '@/core/kinds/placement';
import { SOURCES, SOURCE_TYPES, type Made, type SourceType } from '@/core/kinds/sources';
import { SOURCE_GROUPS } from '@/core/kinds/sources/source';
import { Popup } from '../../kit/Popup';
import { SmallPictureView } from '../pictures/SmallPictureView';
import { useSmallPicture } from '../pictures/thumbnails';
import { startOf } from './presets';

/** What a rule looks like, as large as its box. */
export function RulePicture({ made }: { made: Made }) {
  const picture = useSmallPicture({ of: 'rule', made: SOURCES[made.type].onSquare?.(made) ?? made, placement: PLAIN });
  return (
    <span className="block h-full w-full bg-field">
      {picture && <SmallPictureView picture={picture} className="h-full w-full object-cover" />}
    </span>
  );
}

export function SourcePicker({ children, onPick }: { children: ReactElement; onPick: (made: Made) => void }) {
  const [open, setOpen] = useState(false);
  return (
    <Popup
      label="Sources"
      side="right"
      className="w-[348px] p-3"
      maxHeight="76vh"
      open={open}
      onOpenChange={setOpen}
      trigger={children}
    >
      {Object.entries(SOURCE_GROUPS).map(([group, { label }]) => (
        <section key={group} className="mb-2 last:mb-0">
          <h2 className="mb-1 text-ink-soft">{label}</h2>
          <div className="grid grid-cols-5 gap-1.5">
            {SOURCE_TYPES.filter((t) => SOURCES[t].group === group).map((type) => (
              <Swatch
                key={type}
                type={type}
                onPick={() => {
                  setOpen(false);
                  onPick(startOf(type));
                }}
              />
            ))}
          </div>
        </section>
      ))}
    </Popup>
  );
}

function Swatch({ type, onPick }: { type: SourceType; onPick: () => void }) {
  const def = SOURCES[type];
  return (
    <button
      type="button"
      title={def.hint}
      onClick={onPick}
      className="rounded p-0.5 text-center text-[11.5px] leading-4 hover:bg-field focus-visible:bg-field"
    >
      <span className="mb-0.5 block h-14 overflow-hidden rounded-sm border border-line">
        <RulePicture made={def.start} />
      </span>
      {def.label}
    </button>
  );
}
