'use client';
import { BLEND_GROUPS, BLEND_LABELS, HEIGHT_LABELS, type BlendId } from '@/core/colour/blend';

/** Modes that a kind of map can have, in groups. `inherit`: what an empty choice stands for. */
export function BlendSelect({
  kind,
  value,
  inherit,
  label,
  disabled,
  onChange,
}: {
  kind: keyof typeof BLEND_GROUPS;
  value: BlendId | undefined;
  inherit?: string;
  label: string;
  disabled?: boolean;
  onChange: (blend: BlendId | undefined) => void;
}) {
  const name = (b: BlendId) => (kind === 'height' && HEIGHT_LABELS[b]) || BLEND_LABELS[b];
  return (
    <select
      aria-label={label}
      value={value ?? ''}
      disabled={disabled}
      onChange={(e) => onChange((e.target.value || undefined) as BlendId | undefined)}
      className="h-6 min-w-0 flex-1 rounded border border-line bg-raised px-1 disabled:opacity-40"
    >
      {inherit !== undefined && <option value="">{inherit}</option>}
      {BLEND_GROUPS[kind].map((group, n) => (
        <optgroup key={n} label={n === 0 && group.length === 1 ? ' ' : '──'}>
          {group.map((b) => (
            <option key={b} value={b}>
              {name(b)}
            </option>
          ))}
        </optgroup>
      ))}
    </select>
  );
}
