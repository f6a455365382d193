'use client';
/** How paint is laid, and what that has to set: the head of the hand. */
import type { ComponentProps } from 'react';
import { FIGURES } from '@/core/hand/areas/shape';
import { Select } from '../../common/Choice';
import { IconButton, Segments, Switch, Tip } from '../../common/controls';
import { NumberField } from '../../common/NumberField';
import { keysFor } from '../commands';
import { useBench } from '../store';
import type { AreaSettings } from './laying';
import { LAYINGS } from './laying';

const set = (change: Partial<AreaSettings>) => useBench.setState((s) => ({ areas: { ...s.areas, ...change } }));

export function LayingRow() {
  const laying = useBench((s) => s.laying);
  return (
    <div role="group" aria-label="How paint is laid" className="flex shrink-0 items-center">
      {LAYINGS.map(({ type, icon: Icon, label, hint }) => (
        <IconButton
          key={type}
          className="h-6 w-6"
          label={`${label}. ${hint}`}
          keys={keysFor(`lay-${type}`)}
          active={laying === type}
          onClick={() => useBench.setState({ laying: type })}
        >
          <Icon size={15} />
        </IconButton>
      ))}
    </div>
  );
}

/** A choice in the row, without a label of its own: its tooltip has it. */
function Pick<T extends string>(choice: ComponentProps<typeof Select<T>>) {
  return (
    <Tip label={choice.label}>
      <span className="inline-flex">
        <Select {...choice} />
      </span>
    </Tip>
  );
}

function Figure({
  label,
  value,
  unit,
  min,
  max,
  reset,
  onChange,
}: {
  label: string;
  value: number;
  unit: string;
  min: number;
  max: number;
  reset: number;
  onChange: (v: number) => void;
}) {
  return (
    <div className="w-32 shrink-0">
      <NumberField
        label={label}
        labelWidth="36px"
        unit={unit}
        value={value}
        min={min}
        max={max}
        reset={reset}
        curve="fine"
        digits={Number.isInteger(value) ? 0 : 1}
        onPreview={onChange}
        onCommit={onChange}
      />
    </div>
  );
}

/** What the way of laying that is chosen has to set. */
export function LayingSettings() {
  const laying = useBench((s) => s.laying);
  const s = useBench((state) => state.areas);
  const onModel = useBench((state) => state.geometry !== null);
  const layers = onModel && (
    <Pick
      label="Through the eye: what is seen, or what lies behind it too"
      value={s.layers}
      options={[
        { value: 'front', label: 'what is seen' },
        { value: 'all', label: 'all layers' },
      ]}
      onChange={(v) => set({ layers: v })}
    />
  );
  const soft = <Figure label="Soft" value={s.soft} unit="" min={0} max={400} reset={0} onChange={(v) => set({ soft: v })} />;
  const width = <Figure label="Width" value={s.width} unit="" min={1} max={400} reset={8} onChange={(v) => set({ width: v })} />;
  if (laying === 'line')
    return (
      <>
        {width}
        {soft}
        {layers}
      </>
    );
  if (laying === 'lasso' || (FIGURES as readonly string[]).includes(laying))
    return (
      <>
        <Segments
          label="Filled or outlined"
          value={s.outlined ? 'outline' : 'fill'}
          options={[
            { value: 'fill', label: 'Filled' },
            { value: 'outline', label: 'Outline' },
          ]}
          onChange={(v) => set({ outlined: v === 'outline' })}
        />
        {s.outlined && width}
        {soft}
        {layers}
      </>
    );
  switch (laying) {
    case 'gradient':
      return (
        <>
          <Pick
            label="Form of the gradient"
            value={s.form}
            options={[
              { value: 'linear', label: 'linear' },
              { value: 'radial', label: 'radial' },
            ]}
            onChange={(form) => set({ form })}
          />
          <Pick
            label="Its ends"
            value={s.ends}
            options={[
              { value: 'wells', label: 'well to well' },
              { value: 'fade', label: 'fades to nothing' },
            ]}
            onChange={(ends) => set({ ends })}
          />
          {onModel && (
            <Pick
              label="On the model"
              value={s.through}
              options={[
                { value: 'surface', label: 'along the model' },
                { value: 'view', label: 'across the view' },
              ]}
              onChange={(through) => set({ through })}
            />
          )}
          {s.through === 'view' && layers}
        </>
      );
    case 'fill':
      return (
        <Pick
          label="What a click fills"
          value={onModel ? s.fill : 'sheet'}
          options={[
            { value: 'sheet', label: 'the whole sheet' },
            ...(onModel
              ? ([
                  { value: 'material', label: 'the material' },
                  { value: 'part', label: 'the part' },
                  { value: 'island', label: 'the island' },
                  { value: 'face', label: 'the flat face' },
                ] as const)
              : []),
          ]}
          onChange={(fill) => set({ fill })}
        />
      );
    case 'same':
      return (
        <>
          <Figure
            label="Like"
            value={s.tolerance}
            unit="%"
            min={0}
            max={100}
            reset={6}
            onChange={(tolerance) => set({ tolerance })}
          />
          <Switch
            label="Touching"
            checked={s.contiguous}
            onChange={(contiguous) => set({ contiguous })}
            hint="Only what hangs together, over seams too; off: everywhere on the sheet"
          />
          <Pick
            label="Which texels are looked at"
            value={s.sameOf}
            options={[
              { value: 'all', label: 'all layers' },
              { value: 'layer', label: 'this layer' },
            ]}
            onChange={(sameOf) => set({ sameOf })}
          />
        </>
      );
    case 'frame':
      return (
        <>
          <Figure
            label="Width"
            value={s.frameWidth}
            unit="tx"
            min={1}
            max={128}
            reset={4}
            onChange={(frameWidth) => set({ frameWidth })}
          />
          {onModel && (
            <>
              <Pick
                label="Which islands"
                value={s.frameOf}
                options={[
                  { value: 'all', label: 'every island' },
                  { value: 'island', label: 'the one clicked' },
                ]}
                onChange={(frameOf) => set({ frameOf })}
              />
              <Pick
                label="On which side of the edge"
                value={s.frameSide}
                options={[
                  { value: 'inside', label: 'inside' },
                  { value: 'outside', label: 'outside' },
                ]}
                onChange={(frameSide) => set({ frameSide })}
              />
            </>
          )}
        </>
      );
    default:
      return null;
  }
}
