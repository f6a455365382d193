'use client';
import { PercentField, type PercentFieldProps } from '../../kit/PercentField';

interface PercentProps extends Omit<PercentFieldProps, 'onPreview' | 'onCommit'> {
  onChange: (share: number) => void;
}

/** A share of the brush: the brush follows it while it is dragged. */
export function Percent({ onChange, ...rest }: PercentProps) {
  return <PercentField onPreview={onChange} onCommit={onChange} {...rest} />;
}
