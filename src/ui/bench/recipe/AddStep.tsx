'use client';
/** What a mask's next step can be made from. */
import { Plus } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { mapInfo, mapKind } from '@/core/kinds/maps';
import type { Mask, Sheet } from '@/core/document/schema';
import type { StepSource } from '@/core/kinds/steps';
import { SOURCES, type Made } from '@/core/kinds/sources';
import { MENU, MENU_ITEM } from '../../common/controls';
import { addStep } from '../maskCommands';
import { addPictureStep, chooseFiles } from '../pictureSet';
import { footToHead, startPlacement } from '../sources/presets';
import { SourcePicker } from '../sources/SourcePicker';
import { currentLayer, useBench } from '../store';

const LABEL = 'px-2 pt-1.5 pb-0.5 text-[12px] text-ink-soft';

export function AddStep({ sheet, mask }: { sheet: Sheet; mask: Mask }) {
  const [sourcing, setSourcing] = useState(false);
  const onModel = useBench((s) => s.geometry !== null);
  const layer = currentLayer();
  const add = (source: StepSource, label: string) => addStep(mask, source, label);
  const made = (m: Made, label = SOURCES[m.type].label.toLowerCase()) =>
    add({ type: 'made', made: m, placement: startPlacement(SOURCES[m.type].group) }, label);
  const foot = footToHead();
  const others = sheet.masks.filter((m) => m.id !== mask.id);
  const layers = sheet.layers.filter((l) => l.id !== layer?.id && l.kind !== 'adjust').toReversed();
  if (sourcing)
    return (
      <SourcePicker
        onPick={(m) => {
          setSourcing(false);
          made(m.type === 'gradient' && foot ? foot : m);
        }}
      >
        <button type="button" ref={(el) => el?.click()} className="inline-flex h-6 items-center rounded px-1 text-ink-soft">
          choose …
        </button>
      </SourcePicker>
    );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label="Add a step to the mask"
        title="Add a step"
        className="inline-flex h-6 w-6 items-center justify-center rounded border border-dashed border-line text-ink-soft hover:bg-field hover:text-ink"
      >
        <Plus size={12} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={4} className={`${MENU} max-h-[70vh] min-w-56 overflow-y-auto`}>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => add({ type: 'paint' }, 'a painted step')}>
            Paint
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => setTimeout(() => setSourcing(true))}>
            Noise, pattern, gradient …
          </DropdownMenu.Item>
          {foot && (
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => made(foot, 'from the foot up')}>
              From the foot up
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item
            className={MENU_ITEM}
            onSelect={() => chooseFiles(false, ([file]) => void addPictureStep(mask, file))}
          >
            Picture …
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => add({ type: 'constant', value: 0.5 }, 'an even value')}>
            Even value
          </DropdownMenu.Item>
          {onModel && (
            <>
              <DropdownMenu.Label className={LABEL}>Of the model</DropdownMenu.Label>
              {(['parts', 'islands', 'faces'] as const).map((type) => (
                <DropdownMenu.Item
                  key={type}
                  className={`${MENU_ITEM} capitalize`}
                  onSelect={() => add(type === 'parts' ? { type, names: [] } : { type, ids: [] }, type)}
                >
                  {type}
                </DropdownMenu.Item>
              ))}
            </>
          )}
          <DropdownMenu.Label className={LABEL}>From the strata</DropdownMenu.Label>
          {sheet.maps.includes('height') && layer && (
            <DropdownMenu.Item
              className={MENU_ITEM}
              title="Where this layer's height rises above what lies below it"
              onSelect={() => add({ type: 'contact', offset: 0, contrast: 0.7, line: 0 }, 'higher than below')}
            >
              Higher than what is below
            </DropdownMenu.Item>
          )}
          <Sub label="A map below">
            {sheet.maps
              .filter((m) => mapKind(m) !== 'normal')
              .map((m) => (
                <DropdownMenu.Item
                  key={m}
                  className={MENU_ITEM}
                  onSelect={() =>
                    add({ type: 'below', map: m, by: 'luminance' }, `${mapInfo(m, sheet.ownMaps).label.toLowerCase()} below`)
                  }
                >
                  {mapInfo(m, sheet.ownMaps).label}
                </DropdownMenu.Item>
              ))}
          </Sub>
          {layers.length > 0 && (
            <Sub label="A layer’s alpha">
              {layers.map((l) => (
                <DropdownMenu.Item
                  key={l.id}
                  className={MENU_ITEM}
                  onSelect={() =>
                    add(
                      {
                        type: 'layer',
                        of: l.id,
                        map: sheet.maps.find((m) => l.cells[m]?.on) ?? sheet.maps[0],
                        take: 'alpha',
                        by: 'luminance',
                      },
                      `alpha of ${l.name}`,
                    )
                  }
                >
                  {l.name}
                </DropdownMenu.Item>
              ))}
            </Sub>
          )}
          {others.length > 0 && (
            <Sub label="Another mask, linked">
              {others.map((m) => (
                <DropdownMenu.Item key={m.id} className={MENU_ITEM} onSelect={() => add({ type: 'mask', of: m.id }, m.name)}>
                  {m.name}
                </DropdownMenu.Item>
              ))}
            </Sub>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Sub({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <DropdownMenu.Sub>
      <DropdownMenu.SubTrigger className={MENU_ITEM}>
        {label} <span className="text-ink-soft">▸</span>
      </DropdownMenu.SubTrigger>
      <DropdownMenu.Portal>
        <DropdownMenu.SubContent sideOffset={2} className={`${MENU} max-h-72 min-w-40 overflow-y-auto`}>
          {children}
        </DropdownMenu.SubContent>
      </DropdownMenu.Portal>
    </DropdownMenu.Sub>
  );
}
