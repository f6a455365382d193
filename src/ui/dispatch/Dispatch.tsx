'use client';
/** Dispatch: what goes out, at which size, under which names. */
import { ArrowLeft, Package } from 'lucide-react';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { dispatchSchema, outputLabel, outputsOf, PATTERN_FIELDS, planDispatch, type DispatchOptions } from '@/core/deliver/plan';
import type { Piece } from '@/core/document/schema';
import { useOpenPiece } from '../bench/Bench';
import { ConflictDialog } from '../bench/ConflictDialog';
import { exportPieceFile, runDispatch } from '../bench/deliver';
import { JobBar } from '../bench/JobBar';
import { useBench } from '../bench/store';
import { Waiting } from '../bench/Waiting';
import { Button, Segments, Switch } from '../common/controls';
import { NumberField } from '../common/NumberField';

export function Dispatch({ pieceId }: { pieceId: string }) {
  const takeOver = useOpenPiece(pieceId);
  const phase = useBench((s) => s.phase);
  const piece = useBench((s) => s.document);
  if (phase !== 'open' || !piece) return <Waiting pieceId={pieceId} onTakeOver={takeOver} />;
  return <DispatchPage piece={piece} />;
}

function DispatchPage({ piece }: { piece: Piece }) {
  const [options, setOptions] = useState<DispatchOptions>(() => ({
    ...dispatchSchema.parse({}),
    sheets: piece.sheets.map((s) => s.id),
    glb: piece.kind === 'model',
  }));
  const [result, setResult] = useState('');
  const [failure, setFailure] = useState('');
  const job = useBench((s) => s.job);
  const outputs = outputsOf(piece);
  const change = (next: Partial<DispatchOptions>) => setOptions({ ...options, ...next });
  const plan = useMemo(
    () =>
      options.sheets.length === 0
        ? { ok: false as const, message: 'No sheet is chosen: choose at least one.' }
        : planDispatch(piece, options),
    [piece, options],
  );
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
  const toggle = <T,>(list: T[], item: T, order: readonly T[]) =>
    order.filter((x) => (x === item ? !list.includes(x) : list.includes(x)));
  return (
    <div className="min-h-dvh">
      <ConflictDialog />
      <header className="flex h-14 items-center gap-3 border-b border-line px-6">
        <Link href={`/pieces/${piece.id}`} aria-label="Back to the bench" className="rounded p-1 hover:bg-field">
          <ArrowLeft size={18} />
        </Link>
        <h1 className="text-[17px] font-semibold">Dispatch</h1>
        <span className="text-[15px] text-ink-soft">{piece.name}</span>
      </header>
      <main className="mx-auto grid max-w-[1180px] grid-cols-[minmax(0,1fr)_minmax(0,440px)] gap-10 p-6">
        <div className="space-y-6">
          <Section title="Sheets">
            {piece.sheets.map((s) => (
              <Check
                key={s.id}
                label={s.name}
                note={`${s.width} × ${s.height}`}
                checked={options.sheets.includes(s.id)}
                onChange={() =>
                  change({
                    sheets: toggle(
                      options.sheets,
                      s.id,
                      piece.sheets.map((x) => x.id),
                    ),
                  })
                }
              />
            ))}
          </Section>
          <Section title="Maps, as PNG">
            <div className="grid grid-cols-2 gap-x-6">
              {outputs.map((m) => (
                <Check
                  key={m}
                  label={outputLabel(m, piece)}
                  checked={options.maps.includes(m)}
                  onChange={() => change({ maps: toggle(options.maps, m, outputs) })}
                />
              ))}
            </div>
          </Section>
          <Section title="How">
            <Row label="Size">
              <Segments
                label="Size"
                value={String(options.divide)}
                options={['1', '2', '4', '8'].map((d) => ({
                  value: d,
                  label: d === '1' ? 'Full' : `1/${d}`,
                  hint: `${Math.round(piece.sheets[0].width / Number(d))} × ${Math.round(piece.sheets[0].height / Number(d))}`,
                }))}
                onChange={(d) => change({ divide: Number(d) as DispatchOptions['divide'] })}
              />
            </Row>
            <Row label="Depth">
              <Segments
                label="Depth"
                value={String(options.bits)}
                options={[
                  { value: '8', label: '8 bit' },
                  { value: '16', label: '16 bit' },
                ]}
                onChange={(b) => change({ bits: Number(b) as 8 | 16 })}
              />
            </Row>
            <Row label="Normal’s green">
              <Segments
                label="Normal’s green"
                value={options.normalY}
                options={[
                  { value: 'up', label: 'Y up', hint: 'As in glTF and OpenGL' },
                  { value: 'down', label: 'Y down', hint: 'As in Direct3D' },
                ]}
                onChange={(normalY) => change({ normalY })}
              />
            </Row>
            {piece.kind === 'model' && (
              <Row label="Margin">
                <div className="w-72">
                  <NumberField
                    label=""
                    unit="tx"
                    value={options.margin}
                    min={0}
                    max={64}
                    reset={16}
                    hint="How far the colour of each island goes on around it, against bleeding"
                    onCommit={(v) => change({ margin: Math.round(v) })}
                  />
                </div>
              </Row>
            )}
            <Row label="Model">
              <Switch
                label="Also a GLB with its textures"
                checked={options.glb}
                onChange={(glb) => change({ glb })}
                hint="glTF 2.0, 8 bit, occlusion, roughness and metallic packed as the standard has it"
              />
            </Row>
          </Section>
          <Section title="Names">
            <input
              aria-label="Naming pattern"
              value={options.pattern}
              onChange={(e) => change({ pattern: e.target.value })}
              onBlur={() => options.pattern.trim() === '' && change({ pattern: '{piece}_{sheet}_{map}' })}
              className="figures h-8 w-full rounded border border-line bg-raised px-2"
            />
            <p className="mt-1.5 text-ink-soft">
              {PATTERN_FIELDS.map((f) => (
                <button
                  key={f}
                  type="button"
                  className="figures mr-2 rounded bg-field px-1.5 py-0.5 hover:text-accent-ink"
                  onClick={() => change({ pattern: `${options.pattern}{${f}}` })}
                >{`{${f}}`}</button>
              ))}
            </p>
          </Section>
        </div>
        <aside className="space-y-4">
          <h2 className="font-semibold">In the archive</h2>
          {plan.ok ? (
            <ul className="max-h-[360px] overflow-auto rounded-lg border border-line bg-raised py-1" data-testid="planned-files">
              {plan.files.map((f) => (
                <li key={f.name} className="flex justify-between gap-4 px-3 py-0.5">
                  <span className="figures truncate" title={f.name}>
                    {f.name}
                  </span>
                  <span className="figures shrink-0 text-ink-soft">
                    {f.width} × {f.height}
                  </span>
                </li>
              ))}
              {plan.glbName && (
                <li className="flex justify-between gap-4 px-3 py-0.5">
                  <span className="figures truncate">{plan.glbName}</span>
                  <span className="text-ink-soft">model</span>
                </li>
              )}
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
      </main>
      <JobBar />
    </div>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section>
      <h2 className="mb-2 border-b border-line pb-1 font-semibold">{title}</h2>
      {children}
    </section>
  );
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="flex h-9 items-center gap-3">
      <span className="w-28 text-ink-soft">{label}</span>
      {children}
    </div>
  );
}

function Check({ label, note, checked, onChange }: { label: string; note?: string; checked: boolean; onChange: () => void }) {
  return (
    <label className="flex h-7 cursor-pointer items-center gap-2">
      <input type="checkbox" checked={checked} onChange={onChange} className="h-4 w-4 accent-(--accent)" />
      {label}
      {note && <span className="figures text-ink-soft">{note}</span>}
    </label>
  );
}
