'use client';
/** What will be in the archive, under which names; and its making. */
import { Package } from 'lucide-react';
import { useState } from 'react';
import type { DispatchOptions } from '@/core/deliver/options';
import type { Plan } from '@/core/deliver/plan';
import { exportPieceFile, runDispatch } from '../bench/top/deliver';
import { useBench } from '../bench/store';
import { Button } from '../kit/Button';

export function Archive({ plan, options }: { plan: Plan; options: DispatchOptions }) {
  const [result, setResult] = useState('');
  const [failure, setFailure] = useState('');
  const job = useBench((s) => s.job);
  const go = async () => {
    setResult('');
    setFailure('');
    try {
      const made = await runDispatch(options);
      setFailure(made?.warning ?? '');
      setResult(
        made ? `${made.name} is in your downloads, ${(made.bytes / 1048576).toFixed(1)} MiB.` : 'Cancelled: nothing was written.',
      );
    } catch (error) {
      setFailure((error as Error).message);
    }
  };
  return (
    <aside className="space-y-4">
      <h2 className="font-semibold">In the archive</h2>
      {plan.ok ? (
        <ul className="max-h-[360px] overflow-auto rounded-lg border border-line bg-raised py-1" data-testid="planned-files">
          {plan.files.map((f) => (
            <li key={f.name} className="flex justify-between gap-4 px-3 py-0.5">
              <span className="figures truncate" title={f.name}>
                {f.name}
              </span>
              <span className="figures shrink-0 text-ink-soft">{f.sheet ? `${f.width} × ${f.height}` : 'model'}</span>
            </li>
          ))}
        </ul>
      ) : (
        <p role="alert" className="rounded border border-fault/50 bg-raised px-3 py-2 text-fault">
          {plan.message}
        </p>
      )}
      <Button kind="main" disabled={!plan.ok || job !== null} onClick={() => void go()}>
        <Package size={15} /> {job ? 'Packing …' : 'Dispatch as one zip'}
      </Button>
      {result && (
        <p role="status" className="text-kept">
          {result}
        </p>
      )}
      {failure && (
        <p role="alert" className="text-fault">
          {failure}
        </p>
      )}
      <div className="border-t border-line pt-4">
        <p className="mb-2 text-ink-soft">The whole piece with its layers, to keep or to hand on:</p>
        <Button disabled={job !== null} onClick={() => void exportPieceFile()}>
          Save a piece file (.brindle)
        </Button>
      </div>
    </aside>
  );
}
