/** What is measured, always beside a reference. */
export interface Result {
  name: string;
  value: number;
  unit: string;
  /** What the value is held against. */
  reference: string;
  referenceValue: number;
  ratio: number;
}

/** A value beside its reference. */
export const result = (name: string, value: number, unit: string, reference: string, referenceValue: number): Result => ({
  name,
  value,
  unit,
  reference,
  referenceValue,
  ratio: value / referenceValue,
});

/** A value beside the one that was asked for. */
export const asked = (name: string, value: number, unit: string, wanted: number): Result =>
  result(name, value, unit, 'what was asked for', wanted);
