'use client';
import { NumberField, type NumberFieldProps } from './NumberField';

/** All numbers are shares: 1 is shown as 100 %. */
export type PercentFieldProps = Omit<NumberFieldProps, 'unit' | 'step' | 'digits' | 'min' | 'max'> & {
  min?: number;
  max?: number;
};

/** A number field for a share, shown in percent; from 0 to 100 % unless it says otherwise. */
export function PercentField({ value, min = 0, max = 1, reset, onPreview, onCommit, ...rest }: PercentFieldProps) {
  return (
    <NumberField
      unit="%"
      value={value * 100}
      min={min * 100}
      max={max * 100}
      reset={reset * 100}
      onPreview={onPreview && ((percent) => onPreview(percent / 100))}
      onCommit={(percent) => onCommit(percent / 100)}
      {...rest}
    />
  );
}
