'use client';
import { bakeOf, bakeState } from '@/core/document/bake';
import type { Sheet } from '@/core/document/schema';
import { BAKES, type BakeType } from '@/core/kinds/bakes';
import { wantBake } from '../../bakes/commands';
import { useBench } from '../../store';

/** Says so where a bake that a step takes its values from is not there yet. */
export function BakeMissing({ sheet, of }: { sheet: Sheet; of: BakeType }) {
  const picture = bakeOf(sheet, of);
  const piece = useBench((s) => s.document!);
  const state = picture ? bakeState(piece, sheet, picture) : 'none';
  if (state !== 'none') return null;
  return (
    <p className="text-ink-soft">
      {BAKES[of].label} {of === 'ids' ? 'are' : 'is'} not baked yet: the step shows nothing until{' '}
      {of === 'ids' ? 'they are' : 'it is'}.{' '}
      <button type="button" className="underline" onClick={() => wantBake(of)}>
        Bake {of === 'ids' ? 'them' : 'it'}
      </button>
    </p>
  );
}
