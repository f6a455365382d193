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
  const { label, plural } = BAKES[of];
  const [are, they, them] = plural ? ['are', 'they are', 'them'] : ['is', 'it is', 'it'];
  return (
    <p className="text-ink-soft">
      {label} {are} not baked yet: the step shows nothing until {they}.{' '}
      <button type="button" className="underline" onClick={() => wantBake(of)}>
        Bake {them}
      </button>
    </p>
  );
}
