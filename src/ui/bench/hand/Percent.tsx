'use client';
/** A share of the brush's, shown in percent, that the brush follows while it is dragged. */
import { NumberField, type NumberFieldProps } from '../../kit/NumberField';

interface PercentProps extends Pick<NumberFieldProps, 'label' | 'labelWidth' | 'hint'> {
  /** These three in shares, 0 … 1. */
  value: number;
  min?: number;
  max?: number;
  /** In percent. */
  reset: number;
  onChange: (share: number) => void;
}

export function Percent({ value, min = 0, max = 1, onChange, ...rest }: PercentProps) {
  const set = (percent: number) => onChange(percent / 100);
  return <NumberField unit="%" value={value * 100} min={min * 100} max={max * 100} onPreview={set} onCommit={set} {...rest} />;
}
