'use client';
/** Which parts of a dense model belong to which of the model's, chosen by hand. */
import { ChevronDown } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { matchingOf } from '@/core/bake/matching';
import type { TwinUse } from '@/core/kinds/bakes/spec';
import { Menu, MenuCheck } from '../../kit/Menu';
import { say, useBench } from '../store';
import { askParts } from './commands';

type Pair = TwinUse['pairs'][number];

/** Parts of the model that faces of a material belong to. */
function usePartsOf(material: number | null): string[] {
  const geometry = useBench((s) => s.geometry);
  return useMemo(() => {
    if (!geometry) return [];
    const there = new Set<number>();
    geometry.faceMaterial.forEach((m, f) => (material === null || m === material) && there.add(geometry.facePart[f]));
    return geometry.parts.filter((_, n) => there.has(n));
  }, [geometry, material]);
}

/** What matching by name would choose: where choosing by hand begins. */
export async function pairsByName(pictureId: string): Promise<Pair[]> {
  const low = useBench.getState().geometry?.parts ?? [];
  const dense = await askParts(pictureId);
  const found = matchingOf({ match: 'names', pairs: [] }, low, dense) ?? [];
  return found.flatMap((list, i) => (list ?? []).map((j): Pair => [low[i], dense[j]]));
}

export function Pairs({
  pictureId,
  twin,
  material,
  set,
}: {
  pictureId: string;
  twin: TwinUse;
  material: number | null;
  set: (pairs: Pair[], label: string) => void;
}) {
  const own = usePartsOf(material);
  const [dense, setDense] = useState<string[] | null>(null);
  const { file, pairs } = twin;
  useEffect(() => {
    let gone = false;
    setDense(null);
    askParts(pictureId)
      .then((parts) => !gone && setDense(parts))
      .catch((error: unknown) => !gone && say((error as Error).message));
    return () => {
      gone = true;
    };
  }, [pictureId, file]);
  if (!dense) return <p className="text-ink-soft">Reading the parts of the dense model …</p>;
  return (
    <ul aria-label="Pairs of parts" className="max-h-36 overflow-y-auto">
      {own.map((part) => {
        const chosen = dense.filter((d) => pairs.some(([a, b]) => a === part && b === d));
        const toggle = (d: string, on: boolean) => {
          const rest = pairs.filter(([a, b]) => a !== part || b !== d);
          set(on ? [...rest, [part, d]] : rest, `${part} and ${d}`);
        };
        return (
          <li key={part} className="flex h-7 items-center gap-2">
            <span className="w-[84px] shrink-0 truncate text-ink-soft" title={part}>
              {part}
            </span>
            <Menu
              width="min-w-40"
              maxHeight="18rem"
              trigger={
                <button
                  type="button"
                  aria-label={`Parts of the dense model for ${part}`}
                  className="flex h-6 min-w-0 flex-1 items-center gap-1 rounded border border-line bg-raised px-1.5 text-left"
                >
                  <span className={`min-w-0 flex-1 truncate ${chosen.length === 0 ? 'text-ink-soft' : ''}`}>
                    {chosen.length === 0
                      ? 'none: missed'
                      : chosen.length === 1
                        ? chosen[0]
                        : `${chosen[0]} +${chosen.length - 1}`}
                  </span>
                  <ChevronDown size={12} />
                </button>
              }
            >
              {dense.map((d) => (
                <MenuCheck key={d} checked={chosen.includes(d)} onChange={(on) => toggle(d, on)}>
                  {d}
                </MenuCheck>
              ))}
            </Menu>
          </li>
        );
      })}
    </ul>
  );
}
