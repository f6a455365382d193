'use client';
/** The open step of a recipe: what it is made from, how it joins, what is done to it. */
import { ArrowLeft, ArrowRight, Brush, MousePointerClick, Trash2 } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { mapInfo, mapKind } from '@/core/kinds/maps';
import { STEP_BLENDS, type Mask, type Sheet, type Step, type StepBlend } from '@/core/document/schema';
import type { StepSource } from '@/core/kinds/steps';
import { GREY_LABELS, GREYS } from '@/core/kinds/grey';
import { SOURCES } from '@/core/kinds/sources';
import { Choice } from '../../common/Choice';
import { IconButton, Switch, Tip } from '../../common/controls';
import { NumberField } from '../../common/NumberField';
import { FilterSteps } from '../filters/FilterSteps';
import { moveStep, previewStep, removeStep, setStep } from '../maskCommands';
import { PlacementEditor } from '../sources/PlacementEditor';
import { RulePicture, SourcePicker } from '../sources/SourcePicker';
import { SourceEditor } from '../sources/SourceEditor';
import { useBench } from '../store';
import { JOINING, stepWord } from './RecipeSentence';

const GREY_OPTIONS = GREYS.map((value) => ({ value, label: GREY_LABELS[value] }));

export function StepEditor({ sheet, mask, step }: { sheet: Sheet; mask: Mask; step: Step }) {
  const n = mask.steps.indexOf(step);
  const set = (after: Partial<Step>, label: string) => setStep(mask, step.id, after, label);
  const box = useRef<HTMLDivElement>(null);
  // What was opened is to be seen; the list knows its new height a frame later.
  useEffect(() => {
    const frame = requestAnimationFrame(() => box.current?.scrollIntoView({ block: 'nearest' }));
    return () => cancelAnimationFrame(frame);
  }, [step.id]);
  return (
    <div ref={box} className="space-y-1 rounded border border-line bg-panel p-1.5" data-testid="step">
      <div className="flex items-center gap-1">
        <span className="min-w-0 flex-1 truncate pl-0.5 font-semibold first-letter:uppercase">{stepWord(step, sheet)}</span>
        <Switch
          label={step.on ? 'On' : 'Off'}
          checked={step.on}
          onChange={(on) => set({ on }, on ? 'a step on' : 'a step off')}
        />
        <IconButton label="Earlier" className="h-6 w-6" disabled={n === 0} onClick={() => moveStep(mask, step.id, -1)}>
          <ArrowLeft size={13} />
        </IconButton>
        <IconButton
          label="Later"
          className="h-6 w-6"
          disabled={n === mask.steps.length - 1}
          onClick={() => moveStep(mask, step.id, 1)}
        >
          <ArrowRight size={13} />
        </IconButton>
        <IconButton label="Take this step out of the mask" className="h-6 w-6" onClick={() => removeStep(mask, step.id)}>
          <Trash2 size={13} />
        </IconButton>
      </div>
      <div className="flex items-center gap-2">
        <div className="min-w-0 flex-1">
          <Choice
            label="Joins"
            value={step.blend}
            options={STEP_BLENDS.map((value) => ({ value, label: `${JOINING[value]} (${value})` }))}
            onChange={(blend: StepBlend) => set({ blend }, JOINING[blend])}
          />
        </div>
        <Switch
          label="Not"
          hint="Turns its values round"
          checked={step.invert}
          onChange={(invert) => set({ invert }, 'turned round')}
        />
      </div>
      <NumberField
        label="Amount"
        labelWidth="68px"
        unit="%"
        min={0}
        max={100}
        reset={100}
        value={step.amount * 100}
        onPreview={(v) => previewStep(mask, step.id, { amount: v / 100 })}
        onCommit={(v) => set({ amount: v / 100 }, `amount ${Math.round(v)} %`)}
      />
      <SourceOf sheet={sheet} mask={mask} step={step} />
      <FilterSteps
        filters={step.filters}
        kinds={['mask']}
        onPreview={(filters) => previewStep(mask, step.id, { filters })}
        onCommit={(filters, label) => set({ filters }, label)}
      />
    </div>
  );
}

function SourceOf({ sheet, mask, step }: { sheet: Sheet; mask: Mask; step: Step }) {
  const { source } = step;
  const set = (next: StepSource, label: string) => setStep(mask, step.id, { source: next }, label);
  const show = (next: StepSource) => previewStep(mask, step.id, { source: next });
  const owner = { kind: 'step' as const, maskId: mask.id, stepId: step.id };
  const share = (label: string, value: number, min: number, to: (v: number) => StepSource, reset = 0) => (
    <NumberField
      label={label}
      labelWidth="68px"
      unit="%"
      min={min}
      max={100}
      reset={reset}
      value={value * 100}
      onPreview={(v) => show(to(v / 100))}
      onCommit={(v) => set(to(v / 100), label.toLowerCase())}
    />
  );
  switch (source.type) {
    case 'constant':
      return share('Value', source.value, 0, (value) => ({ ...source, value }), 50);
    case 'paint':
      return <PaintStep step={step} />;
    case 'made':
      return (
        <>
          <SourcePicker onPick={(made) => set({ ...source, made }, SOURCES[made.type].label.toLowerCase())}>
            <button
              type="button"
              className="inline-flex h-7 items-center gap-1.5 rounded border border-line bg-raised px-1 pr-2 hover:bg-field"
            >
              <span className="h-5 w-5 overflow-hidden rounded-sm">
                <RulePicture made={source.made} />
              </span>
              {SOURCES[source.made.type].label}
            </button>
          </SourcePicker>
          <SourceEditor
            made={source.made}
            owner={owner}
            onPreview={(made) => show({ ...source, made })}
            onCommit={(made, label) => set({ ...source, made }, label.toLowerCase())}
          />
          {SOURCES[source.made.type].where(source.made) === 'placed' && (
            <PlacementEditor
              placement={source.placement}
              solid={SOURCES[source.made.type].group === 'noise'}
              picture={false}
              owner={owner}
              onPreview={(placement) => show({ ...source, placement })}
              onCommit={(placement, label) => set({ ...source, placement }, label.toLowerCase())}
            />
          )}
        </>
      );
    case 'picture':
      return (
        <>
          <Choice
            label="Takes"
            value={source.use.take}
            options={GREY_OPTIONS}
            onChange={(take) => set({ ...source, use: { ...source.use, take } }, GREY_LABELS[take].toLowerCase())}
          />
          <PlacementEditor
            placement={source.placement}
            solid={false}
            picture
            owner={owner}
            onPreview={(placement) => show({ ...source, placement })}
            onCommit={(placement, label) => set({ ...source, placement }, label.toLowerCase())}
          />
        </>
      );
    case 'parts':
      return <PartsStep step={step} names={source.names} onChange={(names, label) => set({ ...source, names }, label)} />;
    case 'islands':
    case 'faces':
      return (
        <div className="flex items-center gap-2">
          <PickSwitch step={step} what={source.type} />
          <span className="figures flex-1 text-ink-soft">{source.ids.length}</span>
          {source.ids.length > 0 && (
            <button type="button" className="h-6 rounded px-1 hover:bg-field" onClick={() => set({ ...source, ids: [] }, 'none')}>
              None
            </button>
          )}
        </div>
      );
    case 'layer':
      return (
        <>
          <Choice
            label="Of it"
            value={source.take === 'alpha' ? 'alpha' : source.map}
            options={[
              { value: 'alpha', label: 'where it is' },
              ...sheet.maps
                .filter((m) => mapKind(m) !== 'normal')
                .map((m) => ({ value: m, label: `its ${mapInfo(m, sheet.ownMaps).label.toLowerCase()}` })),
            ]}
            onChange={(v) =>
              set(v === 'alpha' ? { ...source, take: 'alpha' } : { ...source, take: 'value', map: v }, 'taken otherwise')
            }
          />
          {source.take === 'value' && mapKind(source.map) === 'colour' && (
            <Choice
              label="Takes"
              value={source.by}
              options={GREY_OPTIONS}
              onChange={(by) => set({ ...source, by }, GREY_LABELS[by].toLowerCase())}
            />
          )}
        </>
      );
    case 'below':
      return mapKind(source.map) === 'colour' ? (
        <Choice
          label="Takes"
          value={source.by}
          options={GREY_OPTIONS}
          onChange={(by) => set({ ...source, by }, GREY_LABELS[by].toLowerCase())}
        />
      ) : null;
    case 'contact':
      return (
        <>
          {share('Offset', source.offset, -100, (offset) => ({ ...source, offset }))}
          {share('Contrast', source.contrast, 0, (contrast) => ({ ...source, contrast }), 70)}
          {share('Line', source.line, 0, (line) => ({ ...source, line }))}
        </>
      );
    case 'mask':
      return <p className="text-[12px] text-ink-soft">Linked: it changes where the other mask is changed.</p>;
  }
}

function PaintStep({ step }: { step: Step }) {
  const painting = useBench((s) => s.target === 'mask' && s.openStep === step.id);
  return (
    <button
      type="button"
      aria-pressed={painting}
      onClick={() => useBench.setState({ target: painting ? 'layer' : 'mask' })}
      className={`inline-flex h-6 items-center gap-1 rounded px-1.5 ${painting ? 'bg-accent-wash text-accent-ink' : 'hover:bg-field'}`}
    >
      <Brush size={13} /> {painting ? 'Strokes go here' : 'Paint it'}
    </button>
  );
}

function PickSwitch({ step, what }: { step: Step; what: string }) {
  const picking = useBench((s) => s.picking === step.id);
  return (
    <Tip label={picking ? 'Done: clicks paint again' : `Click ${what} in either pane to take them in or out`}>
      <button
        type="button"
        aria-pressed={picking}
        onClick={() => useBench.setState({ picking: picking ? null : step.id })}
        className={`inline-flex h-6 items-center gap-1 rounded px-1.5 ${picking ? 'bg-accent-wash text-accent-ink' : 'hover:bg-field'}`}
      >
        <MousePointerClick size={13} /> {picking ? 'Click on them' : 'Pick by clicking'}
      </button>
    </Tip>
  );
}

function PartsStep({
  step,
  names,
  onChange,
}: {
  step: Step;
  names: readonly string[];
  onChange: (names: string[], label: string) => void;
}) {
  const parts = useBench((s) => s.geometry?.parts);
  return (
    <>
      <PickSwitch step={step} what="parts" />
      <div className="flex flex-wrap gap-1">
        {(parts ?? []).map((part) => {
          const on = names.includes(part);
          return (
            <button
              key={part}
              type="button"
              aria-pressed={on}
              onClick={() => onChange(on ? names.filter((x) => x !== part) : [...names, part], part)}
              className={`h-6 rounded border px-1.5 ${on ? 'border-ink bg-ink text-panel' : 'border-line hover:bg-field'}`}
            >
              {part}
            </button>
          );
        })}
      </div>
    </>
  );
}
