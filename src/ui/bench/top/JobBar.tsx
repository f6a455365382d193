'use client';
/** Long work: what, how far, how long, and Cancel. */
import { useEffect, useState } from 'react';
import { Button } from '../../kit/Button';
import { cancelJob, useBench } from '../store';

export function JobBar() {
  const job = useBench((s) => s.job);
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (!job) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [job]);
  if (!job) return null;
  const elapsed = (now - job.startedAt) / 1000;
  const left = job.done > 0 && elapsed > 1 ? Math.ceil((elapsed / job.done) * (job.total - job.done)) : null;
  return (
    <div role="status" className="fixed right-4 bottom-4 z-30 w-80 rounded-md border border-line bg-panel p-3 shadow-xl">
      <div className="mb-2 flex items-center justify-between gap-3">
        <span className="truncate">
          {job.what}{' '}
          <span className="figures text-ink-soft">
            {job.done + 1} / {job.total}
          </span>
        </span>
        <Button kind="quiet" onClick={cancelJob}>
          Cancel
        </Button>
      </div>
      <div className="h-1 overflow-hidden rounded bg-line">
        <div className="h-full bg-accent transition-all" style={{ width: `${(100 * job.done) / Math.max(1, job.total)}%` }} />
      </div>
      {left !== null && <p className="mt-1 text-[11.5px] text-ink-soft">about {left} s left</p>}
    </div>
  );
}
