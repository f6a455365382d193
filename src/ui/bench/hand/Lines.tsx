'use client';
/** What varies in a brush: lines that read as sentences. One of them is open and shows what it is made of. */
import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import {
  DRIVER_TYPES,
  DRIVERS,
  LENGTH_UNITS,
  MOST_LINES,
  VARIED,
  VARIED_TYPES,
  type DriverType,
  type VariedType,
  type Vary,
} from '@/core/hand/vary';
import { Choice } from '../../kit/Choice';
import { Button, IconButton } from '../../kit/Button';
import { NumberField } from '../../kit/NumberField';
import { Percent } from './Percent';
import { lineWords } from './sentences';

/** What a new line starts with, and one whose thing or driver was changed. */
export function startLine(what: VariedType, by: DriverType): Vary {
  const chance = by === 'dab' || by === 'stroke';
  const amount = {
    share: chance ? 0.25 : by === 'length' || by === 'speed' ? -1 : 1,
    turn: chance ? 15 : 90,
    shift: 0.5,
    hue: 12,
    mix: chance ? 0.5 : 1,
  };
  return { what, by, amount: amount[VARIED[what].kind], bend: 0, over: 10, unit: 'diameters' };
}

const UNIT = { diameters: 'dia.', millimetres: 'mm', texels: 'tx' } as const;
const label = (line: Vary) => `${VARIED[line.what].label} ${lineWords(line)}`;

export function Lines({ lines, onChange }: { lines: readonly Vary[]; onChange: (lines: Vary[]) => void }) {
  const [open, setOpen] = useState<number | null>(null);
  const change = (n: number, line: Vary) => onChange(lines.map((l, i) => (i === n ? line : l)));
  const full = lines.length >= MOST_LINES;
  return (
    <section aria-label="What varies">
      {lines.length === 0 && <p className="py-1 text-ink-soft">Every dab is the same. Add what is to vary.</p>}
      <ul>
        {lines.map((line, n) => (
          <li key={n} className="border-t border-line">
            <div className="flex items-center">
              <button
                type="button"
                aria-expanded={open === n}
                onClick={() => setOpen(open === n ? null : n)}
                className={`h-7 min-w-0 flex-1 truncate rounded px-1 text-left hover:bg-field ${open === n ? 'font-medium text-accent-ink' : ''}`}
              >
                {label(line)}
              </button>
              <IconButton
                label={`Remove: ${label(line)}`}
                onClick={() => {
                  onChange(lines.filter((_, i) => i !== n));
                  setOpen(null);
                }}
              >
                <X size={14} />
              </IconButton>
            </div>
            {open === n && <LineFields line={line} onChange={(next) => change(n, next)} />}
          </li>
        ))}
      </ul>
      <div className="border-t border-line pt-2">
        <Button
          kind="quiet"
          className="h-7 px-2"
          disabled={full}
          title={full ? `A brush has up to ${MOST_LINES} lines.` : undefined}
          onClick={() => {
            onChange([...lines, startLine('size', lines.some((l) => l.by === 'pressure') ? 'dab' : 'pressure')]);
            setOpen(lines.length);
          }}
        >
          <Plus size={14} />
          Vary more
        </Button>
      </div>
    </section>
  );
}

const options = <T extends string>(types: readonly T[], of: Record<T, { label: string }>) =>
  types.map((value) => ({ value, label: of[value].label }));

function LineFields({ line, onChange }: { line: Vary; onChange: (line: Vary) => void }) {
  const { kind, range } = VARIED[line.what];
  const set = (change: Partial<Vary>) => onChange({ ...line, ...change });
  const inPercent = kind === 'share' || kind === 'mix';
  const scale = inPercent ? 100 : 1;
  const { direction, chance } = DRIVERS[line.by] as { direction?: boolean; chance?: boolean };
  // By chance it goes to both sides anyway.
  const least = chance ? 0 : range[0];
  const follows = line.what === 'angle' && direction;
  return (
    <div className="space-y-0.5 pb-2 pl-1">
      <Choice
        label="Varies"
        value={line.what}
        options={options(VARIED_TYPES, VARIED)}
        onChange={(what) => onChange(VARIED[what].kind === kind ? { ...line, what } : startLine(what, line.by))}
      />
      <Choice
        label="Driven by"
        value={line.by}
        options={options(DRIVER_TYPES, DRIVERS)}
        onChange={(by) => onChange(startLine(line.what, by))}
      />
      {!follows && (
        <NumberField
          label="How far"
          labelWidth="68px"
          unit={inPercent ? '%' : kind === 'shift' ? 'dia.' : '°'}
          value={line.amount * scale}
          min={least * scale}
          max={range[1] * scale}
          digits={kind === 'shift' ? 2 : 0}
          reset={startLine(line.what, line.by).amount * scale}
          hint={chance ? (kind === 'mix' ? 'Up to so much.' : 'To both sides.') : 'Below 0: the other way round.'}
          onPreview={(v) => set({ amount: v / scale })}
          onCommit={(v) => set({ amount: v / scale })}
        />
      )}
      {line.by === 'length' && (
        <>
          <NumberField
            label="Over"
            labelWidth="68px"
            unit={UNIT[line.unit]}
            value={line.over}
            min={0.1}
            max={line.unit === 'diameters' ? 100 : 4096}
            curve="fine"
            digits={1}
            reset={10}
            onPreview={(over) => set({ over })}
            onCommit={(over) => set({ over })}
          />
          <Choice
            label="Counted in"
            value={line.unit}
            options={LENGTH_UNITS.map((value) => ({ value, label: value }))}
            onChange={(unit) => set({ unit })}
          />
        </>
      )}
      {!follows && (
        <Percent
          label="Response"
          labelWidth="68px"
          value={line.bend}
          min={-1}
          reset={0}
          hint="Above 0 it comes early, below 0 late."
          onChange={(bend) => set({ bend })}
        />
      )}
    </div>
  );
}
