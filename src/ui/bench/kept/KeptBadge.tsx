'use client';
/** Whether what was painted is safe; a click says more, and shows what was set aside. */
import { useEffect, useState } from 'react';
import { Popup } from '../../kit/Popup';
import { ago } from '../../common/api';
import { ConflictDialog } from './ConflictDialog';
import { KeptPanel } from './KeptPanel';
import { keptLook, keptNow } from './keptLook';
import { bench, useBench } from '../store';

/** The time, in milliseconds since 1970, renewed when what `ago` says of `since` may have changed. */
function useNow(since: number): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const seconds = (now - since) / 1000;
    const next = seconds < 60 ? 1 : seconds < 3600 ? 60 : 3600;
    const timer = setTimeout(() => setNow(Date.now()), next * 1000);
    return () => clearTimeout(timer);
  }, [now, since]);
  return now;
}

export function KeptBadge() {
  const kept = useBench((s) => s.kept);
  const journal = useBench((s) => s.journal);
  const now = useNow(kept.at);
  const look = keptLook(kept, journal, ago(kept.at, Math.max(now, kept.at)));
  const shown = keptNow(kept, journal.asked);
  return (
    <>
      <Popup
        label="What is kept"
        tip={look.hint}
        align="end"
        className="w-[400px] p-3"
        onOpenChange={(open) => open && bench().send({ type: 'retry' })}
        trigger={
          <button
            type="button"
            data-testid="kept"
            data-state={shown.state}
            data-waiting={shown.waiting}
            data-aside={kept.aside.length}
            data-journal={journal.failing ? 'failing' : 'ok'}
            className={`inline-flex h-7 min-w-28 items-center gap-1.5 rounded px-1.5 whitespace-nowrap hover:bg-field ${look.tone}`}
          >
            <span className={`h-2 w-2 shrink-0 rounded-full ${look.dot}`} />
            {look.text}
          </button>
        }
      >
        <KeptPanel hint={look.hint} />
      </Popup>
      <ConflictDialog />
    </>
  );
}
