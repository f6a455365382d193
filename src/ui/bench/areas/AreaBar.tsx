'use client';
/** How paint is laid, and what that has to set: the head of the hand. */
import { areaStart, areaWay, type AreaSettings } from '@/core/hand/areas';
import type { AreaControl } from '@/core/hand/areas/area';
import { Select } from '../../kit/Choice';
import { IconButton } from '../../kit/Button';
import { Segments } from '../../kit/Segments';
import { Switch } from '../../kit/Switch';
import { Tip } from '../../kit/Tip';
import { NumberField } from '../../kit/NumberField';
import { keysFor } from '../keys/commands';
import { useBench } from '../store';
import { layings } from './laying';

const START = areaStart();

export function LayingRow() {
  const laying = useBench((s) => s.laying);
  return (
    <div role="group" aria-label="How paint is laid" className="flex shrink-0 items-center">
      {layings().map(({ id, icon: Icon, label, hint }) => (
        <IconButton
          key={id}
          className="h-6 w-6"
          label={`${label}. ${hint}`}
          keys={keysFor(`lay-${id}`)}
          active={laying === id}
          onClick={() => useBench.setState({ laying: id })}
        >
          <Icon size={15} />
        </IconButton>
      ))}
    </div>
  );
}

/** What the way of laying that is chosen has to set. */
export function LayingSettings() {
  const laying = useBench((s) => s.laying);
  const settings = useBench((s) => s.areas);
  const onModel = useBench((s) => s.geometry !== null);
  return areaWay(laying)
    ?.controls.filter(
      (c) => (onModel || !c.onModel) && Object.entries(c.where ?? {}).every(([key, value]) => settings[key] === value),
    )
    .map((control) => <AreaField key={control.key} control={control} value={settings[control.key]} onModel={onModel} />);
}

interface FieldProps {
  control: AreaControl;
  value: AreaSettings[string];
  onModel: boolean;
}

function AreaField({ control, value, onModel }: FieldProps) {
  const { key, label, hint } = control;
  const set = (v: AreaSettings[string]) => useBench.setState((s) => ({ areas: { ...s.areas, [key]: v } }));
  switch (control.kind) {
    case 'number':
      return (
        <div className="w-32 shrink-0">
          <NumberField
            label={label}
            labelWidth="36px"
            unit={control.unit ?? ''}
            value={value as number}
            min={control.min}
            max={control.max}
            reset={START[key] as number}
            curve="fine"
            digits={Number.isInteger(value) ? 0 : 1}
            onPreview={set}
            onCommit={set}
          />
        </div>
      );
    case 'segments':
      return <Segments label={label} value={value as string} options={[...control.options]} onChange={set} />;
    case 'switch':
      return <Switch label={label} checked={value as boolean} onChange={set} hint={hint} />;
    case 'choice': {
      const options = control.options.filter((o) => onModel || !o.onModel);
      const there = options.some((o) => o.value === value) ? (value as string) : options[0].value;
      return (
        <Tip label={label}>
          <span className="inline-flex">
            <Select label={label} value={there} options={options} onChange={set} />
          </span>
        </Tip>
      );
    }
  }
}
