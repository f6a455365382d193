'use client';
import { NumberField } from '../../../common/NumberField';

interface ShareProps {
  label: string;
  /** 0 … 1, or −1 … 1. */
  value: number;
  min?: 0 | -1;
  reset?: number;
  onPreview: (v: number) => void;
  onCommit: (v: number, label: string) => void;
}

/** A share in percent. */
export function Share({ label, value, min = 0, reset = 0, onPreview, onCommit }: ShareProps) {
  return (
    <NumberField
      label={label}
      labelWidth="68px"
      unit="%"
      min={min * 100}
      max={100}
      reset={reset * 100}
      value={value * 100}
      onPreview={(v) => onPreview(v / 100)}
      onCommit={(v) => onCommit(v / 100, label.toLowerCase())}
    />
  );
}
