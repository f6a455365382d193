'use client';
/** The pinboard over the bench: a card that floats, is dragged by its head, made larger at its corner, and opened as a window. */
import { ExternalLink, X } from 'lucide-react';
import { useEffect, useMemo, useRef, type PointerEvent } from 'react';
import { setPieceEdit } from '@/core/document/edits';
import type { Pin } from '@/core/document/pin';
import { IconButton } from '../../kit/Button';
import { keysFor } from '../keys/commands';
import { edit, say, setWell, takesFromElsewhere, useBench } from '../store';
import { takeFromPin } from './takeFromPin';
import { channelName, type FromPinWindow, type BoardOwner, type ToPinWindow } from './board';
import { PinBoard } from './PinBoard';

const LEAST = { width: 240, height: 200 };

function useOwner(): BoardOwner {
  const pins = useBench((s) => s.document!.pins);
  return useMemo(
    () => ({
      pins,
      change: (next: Pin[], label: string) => edit(setPieceEdit(useBench.getState().document!, { pins: next }), label),
      colour: (hex: string) => {
        setWell(hex);
        say(`${hex} is in the well.`);
      },
      source: (pin: Pin, x: number, y: number) => {
        if (!takesFromElsewhere()) return false;
        void takeFromPin(pin, x, y).catch((error: unknown) => say((error as Error).message));
        return true;
      },
      say,
    }),
    [pins],
  );
}

export function Pins({ pieceId }: { pieceId: string }) {
  const place = useBench((s) => s.pins);
  const owner = useOwner();
  useFollower(pieceId, owner);
  const drag = useRef<{ x: number; y: number; from: typeof place; size: boolean } | null>(null);
  if (!place.open) return null;
  const set = (change: Partial<typeof place>) => useBench.setState((s) => ({ pins: { ...s.pins, ...change } }));
  const begin = (size: boolean) => (e: PointerEvent<HTMLElement>) => {
    if (e.button !== 0 || (e.target as HTMLElement).closest('button')) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { x: e.clientX, y: e.clientY, from: place, size };
  };
  const move = (e: PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const [dx, dy] = [e.clientX - d.x, e.clientY - d.y];
    if (d.size) set({ width: Math.max(LEAST.width, d.from.width + dx), height: Math.max(LEAST.height, d.from.height + dy) });
    else set({ x: Math.max(0, d.from.x + dx), y: Math.max(0, d.from.y + dy) });
  };
  const end = () => (drag.current = null);
  const { innerWidth, innerHeight } = window;
  return (
    <section
      aria-label="Pinboard"
      className="fixed z-20 flex flex-col overflow-hidden rounded-md border border-line bg-panel shadow-xl"
      style={{
        left: Math.min(place.x, innerWidth - 120),
        top: Math.min(place.y, innerHeight - 80),
        width: Math.min(place.width, innerWidth),
        height: Math.min(place.height, innerHeight),
      }}
      onKeyDown={(e) => /^(INPUT|SELECT)$/.test((e.target as HTMLElement).tagName) && e.stopPropagation()}
    >
      <header
        className="flex h-8 shrink-0 cursor-grab touch-none items-center border-b border-line pl-2.5"
        onPointerDown={begin(false)}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={end}
      >
        <span className="flex-1 font-semibold">Pinboard</span>
        <IconButton
          label="Open it in a window of its own, which follows this one"
          className="h-6 w-6"
          onClick={() => window.open(`/pieces/${pieceId}/pins`, `pins-${pieceId}`, 'popup,width=900,height=700')}
        >
          <ExternalLink size={13} />
        </IconButton>
        <IconButton label="Put the pinboard away" keys={keysFor('pins')} className="h-6 w-6" onClick={() => set({ open: false })}>
          <X size={14} />
        </IconButton>
      </header>
      <div className="min-h-0 flex-1">
        <PinBoard owner={owner} />
      </div>
      <span
        role="presentation"
        data-testid="pins-corner"
        className="absolute right-0 bottom-0 h-4 w-4 cursor-nwse-resize touch-none"
        onPointerDown={begin(true)}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={end}
      />
    </section>
  );
}

/** A window of its own is told what hangs there, and asks for what is done in it. */
function useFollower(pieceId: string, owner: BoardOwner): void {
  const channel = useRef<BroadcastChannel | null>(null);
  const latest = useRef(owner);
  latest.current = owner;
  useEffect(() => {
    const c = (channel.current = new BroadcastChannel(channelName(pieceId)));
    c.onmessage = ({ data }: MessageEvent<FromPinWindow>) => {
      const { change, colour, pins } = latest.current;
      if (data.do === 'hello') c.postMessage({ pins: [...pins] } satisfies ToPinWindow);
      else if (data.do === 'change') change(data.pins, data.label);
      else if (data.do === 'colour') colour(data.hex);
    };
    return () => c.close();
  }, [pieceId]);
  useEffect(() => {
    channel.current?.postMessage({ pins: [...owner.pins] } satisfies ToPinWindow);
  }, [owner.pins]);
}
