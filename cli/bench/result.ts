import type { Result } from '../bench';

/** A value beside its reference. */
export const result = (name: string, value: number, unit: string, reference: string, referenceValue: number): Result => ({
  name,
  value,
  unit,
  reference,
  referenceValue,
  ratio: value / referenceValue,
});
