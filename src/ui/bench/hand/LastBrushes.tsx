'use client';
/** The last eight brushes, in a ring around the pointer: one click, or a digit, takes one. */
import { useEffect } from 'react';
import type { RackEntry } from '@/core/hand/rack/brushes';
import { SmallPictureView } from '../pictures/SmallPictureView';
import { lastUsed, loadRack, takeBrush, useBench, useRack } from '../store';
import { useSmallPicture } from '../pictures/thumbnails';
import { cardBrush } from './Rack';

const COUNT = 8;
const RADIUS = 104;

export function LastBrushes() {
  const at = useBench((s) => s.brushRing);
  return at ? <Ring at={at} /> : null;
}

function Ring({ at }: { at: { x: number; y: number } }) {
  const entries = useRack((s) => s.entries);
  useEffect(() => void (useRack.getState().entries ?? loadRack()), []);
  const used = lastUsed(entries ?? [], COUNT);
  // Until there are eight, the first of the rack fill up.
  const list = [...used, ...(entries ?? []).filter((e) => !used.includes(e))].slice(0, COUNT);
  const close = () => useBench.setState({ brushRing: null });
  const take = (entry: RackEntry) => {
    takeBrush(entry);
    close();
  };
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      const entry = list[Number(e.key) - 1];
      if (e.key === 'Escape' || entry) {
        e.preventDefault();
        e.stopPropagation();
      }
      if (entry) take(entry);
      else if (e.key === 'Escape') close();
    };
    window.addEventListener('keydown', keys, { capture: true });
    return () => window.removeEventListener('keydown', keys, { capture: true });
  });
  const x = Math.min(window.innerWidth - 160, Math.max(160, at.x));
  const y = Math.min(window.innerHeight - 140, Math.max(140, at.y));
  return (
    <div className="fixed inset-0 z-40" onPointerDown={close} role="presentation">
      <ul role="menu" aria-label="The last brushes" className="absolute" style={{ left: x, top: y }}>
        {list.map((entry, n) => {
          const a = (n / COUNT) * 2 * Math.PI - Math.PI / 2;
          return (
            <li
              key={entry.id}
              role="none"
              className="absolute"
              style={{ left: Math.cos(a) * RADIUS * 1.15 - 44, top: Math.sin(a) * RADIUS - 24 }}
            >
              <RingCard entry={entry} digit={n + 1} onTake={() => take(entry)} />
            </li>
          );
        })}
      </ul>
    </div>
  );
}

function RingCard({ entry, digit, onTake }: { entry: RackEntry; digit: number; onTake: () => void }) {
  const picture = useSmallPicture({ of: 'stroke', brush: cardBrush(entry.brush) });
  return (
    <button
      type="button"
      role="menuitem"
      aria-label={entry.name}
      onPointerDown={(e) => e.stopPropagation()}
      onClick={onTake}
      className="block h-12 w-[88px] overflow-hidden rounded border border-line bg-panel text-left shadow-lg hover:border-accent focus-visible:border-accent"
    >
      <span className="block h-7 bg-[#dcdad6]">
        {picture && <SmallPictureView picture={picture} className="h-full w-full object-cover" />}
      </span>
      <span className="flex items-center px-1 text-[11px] leading-[18px]">
        <span className="truncate">{entry.name}</span>
        <span className="figures ml-auto text-ink-soft">{digit}</span>
      </span>
    </button>
  );
}
