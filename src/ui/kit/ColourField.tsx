'use client';
/** Choosing a colour: a chip that opens a picker with the hex value. */
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { Popup } from './Popup';
import { ColourPicker } from './ColourPicker';

export function ColourField({
  colour,
  label,
  onPreview,
  onCommit,
  children,
}: {
  /** sRGB hex. */
  colour: string;
  label: string;
  onPreview?: (colour: string) => void;
  onCommit: (colour: string) => void;
  children: ReactElement;
}) {
  const [draft, setDraft] = useState(colour);
  const latest = useRef(colour);
  useEffect(() => {
    latest.current = colour;
    setDraft(colour);
  }, [colour]);
  const [typed, setTyped] = useState<string | null>(null);
  const follow = (next: string) => {
    latest.current = next;
    setDraft(next);
    onPreview?.(next);
  };
  const commit = () => draft !== colour && onCommit(draft);
  return (
    <Popup label={label} side="top" align="center" className="p-3" trigger={children} onOpenChange={(open) => !open && commit()}>
      <ColourPicker colour={draft} label={label} onChange={follow} onCommit={() => onCommit(latest.current)} />
      <label className="mt-2 flex items-center gap-2">
        <span className="text-ink-soft">sRGB</span>
        <input
          aria-label={`${label}, hex`}
          value={typed ?? draft}
          onChange={(e) => {
            setTyped(e.target.value);
            const hex = e.target.value.trim().replace(/^#?/, '#').toLowerCase();
            if (/^#[0-9a-f]{6}$/.test(hex)) follow(hex);
          }}
          onBlur={() => {
            setTyped(null);
            commit();
          }}
          onKeyDown={(e) => e.key === 'Enter' && commit()}
          className="figures w-24 rounded border border-line bg-raised px-2 py-1"
        />
      </label>
    </Popup>
  );
}
