'use client';
/** The pinboard in a window of its own: it shows what hangs in the bench, and hands on what is done here. */
import { useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import type { Pin } from '@/core/document/pin';
import { channelName, type FromPinWindow, type BoardOwner, type ToPinWindow } from './board';
import { PinBoard } from './PinBoard';

export function PinWindow({ pieceId }: { pieceId: string }) {
  const [pins, setPins] = useState<Pin[] | null>(null);
  const channel = useRef<BroadcastChannel | null>(null);
  useEffect(() => {
    const c = (channel.current = new BroadcastChannel(channelName(pieceId)));
    c.onmessage = ({ data }: MessageEvent<ToPinWindow | FromPinWindow>) =>
      'pins' in data && !('do' in data) && setPins(data.pins);
    const hello = () => c.postMessage({ do: 'hello' } satisfies FromPinWindow);
    hello();
    // The bench may be opened after this.
    const timer = setInterval(hello, 2000);
    return () => {
      clearInterval(timer);
      c.close();
    };
  }, [pieceId]);
  const owner = useMemo(
    (): BoardOwner => ({
      pins: pins ?? [],
      change: (next, label) => {
        setPins(next);
        channel.current?.postMessage({ do: 'change', pins: next, label } satisfies FromPinWindow);
      },
      colour: (hex) => {
        channel.current?.postMessage({ do: 'colour', hex } satisfies FromPinWindow);
        toast(`${hex} is in the well.`, { id: 'pin' });
      },
      say: (message) => toast(message, { id: 'pin' }),
    }),
    [pins],
  );
  return (
    <main className="h-dvh">
      <h1 className="sr-only">Pinboard</h1>
      {pins ? (
        <PinBoard owner={owner} />
      ) : (
        <p className="p-6 text-ink-soft">
          Waiting for the bench: open this piece in another window, and its pinboard is shown here.
        </p>
      )}
    </main>
  );
}
