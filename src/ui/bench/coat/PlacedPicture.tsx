'use client';
/** A picture that a coat lays down, and how. */
import { mapInfo } from '@/core/kinds/maps';
import type { Cell } from '@/core/document/schema';
import { GREY_LABELS, GREYS } from '@/core/kinds/grey';
import { Choice } from '../../kit/Choice';
import { Button } from '../../kit/Button';
import { PercentField } from '../../kit/PercentField';
import { edit, preview } from '../store';
import { askForPicture, type CoatValueProps } from './props';

export function PlacedPicture({ sheet, layer, map, cell, change, what }: CoatValueProps & { cell: Cell }) {
  const placed = cell.placed!;
  const info = mapInfo(map, sheet.ownMaps);
  const name = sheet.pictures.find((p) => p.id === placed.picture)?.name ?? 'A picture that is gone';
  const set = (next: Partial<typeof placed>) => change({ placed: { ...placed, ...next } });
  return (
    <div className="space-y-1">
      <p className="truncate text-ink-soft" title={name}>
        {name}
      </p>
      {info.kind === 'value' && (
        <Choice
          label="Takes"
          labelWidth="52px"
          value={placed.take}
          options={GREYS.map((g) => ({ value: g, label: GREY_LABELS[g] }))}
          onChange={(take) => edit(set({ take }), `${what}: ${GREY_LABELS[take].toLowerCase()}`)}
        />
      )}
      {info.kind !== 'normal' && (
        <PercentField
          label="Neutral"
          labelWidth="52px"
          reset={0}
          hint="Moves its mean to the middle grey, so that it tints and shades what is below (with overlay or soft light)"
          value={placed.neutral}
          onPreview={(v) => preview(set({ neutral: v }))}
          onCommit={(v) => edit(set({ neutral: v }), `${what}: neutral ${Math.round(v * 100)} %`)}
        />
      )}
      <div className="flex gap-1">
        <Button className="h-7" onClick={() => askForPicture(layer, map)}>
          Another …
        </Button>
        <Button className="h-7" onClick={() => edit(change({ placed: undefined }), `${what}: no picture`)}>
          Even value
        </Button>
      </div>
    </div>
  );
}
