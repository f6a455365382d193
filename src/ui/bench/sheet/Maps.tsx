'use client';
/** Which maps the sheet carries. */
import { useState } from 'react';
import { setSheetEdit } from '@/core/document/edits';
import { isOwnMap, MAP_IDS, mapInfo, type MapId, type OwnMap } from '@/core/kinds/maps';
import { LIMITS, nameSchema, type Sheet } from '@/core/document/schema';
import { NORMAL_KERNELS, type NormalKernel } from '@/core/tile/normal';
import { Button } from '../../kit/Button';
import { Segments } from '../../kit/Segments';
import { NumberField } from '../../kit/NumberField';
import { edit, preview } from '../store';

export function Maps({ sheet, fail }: { sheet: Sheet; fail: (message: string) => void }) {
  const [name, setName] = useState('');
  const set = (after: Partial<Sheet>, label: string) => {
    fail('');
    edit(setSheetEdit(sheet, after), label);
  };
  const toggle = (map: MapId) => {
    const label = mapInfo(map, sheet.ownMaps).label;
    if (!sheet.maps.includes(map)) {
      // In the order of the registry, one's own at the end.
      const next = [...MAP_IDS.filter((m) => m === map || sheet.maps.includes(m)), ...sheet.maps.filter(isOwnMap)];
      return set({ maps: next }, `Add the map ${label}`);
    }
    if (sheet.maps.length === 1) return fail('A sheet needs at least one map.');
    set({ maps: sheet.maps.filter((m) => m !== map) }, `Take off the map ${label}`);
  };
  const addOwn = () => {
    const parsed = nameSchema.safeParse(name);
    if (!parsed.success) return fail(parsed.error.issues[0].message);
    if (sheet.ownMaps.some((o) => o.name === parsed.data))
      return fail(`There is a map "${parsed.data}" already: choose another name.`);
    if (sheet.maps.length >= LIMITS.maxMaps) return fail(`A sheet carries up to ${LIMITS.maxMaps} maps.`);
    const own: OwnMap = { id: `own-${crypto.randomUUID().slice(0, 8)}`, name: parsed.data };
    set({ ownMaps: [...sheet.ownMaps, own], maps: [...sheet.maps, own.id] }, `Add the mask map ${own.name}`);
    setName('');
  };
  return (
    <div className="space-y-4">
      <div className="grid grid-cols-2 gap-x-5">
        {[...MAP_IDS, ...sheet.ownMaps.map((o) => o.id)].map((map) => {
          const info = mapInfo(map, sheet.ownMaps);
          return (
            <label key={map} className="flex h-7 items-center gap-2" title={info.hint}>
              <input
                type="checkbox"
                checked={sheet.maps.includes(map)}
                onChange={() => toggle(map)}
                className="accent-[var(--accent)]"
              />
              {info.label}
              {isOwnMap(map) && <span className="text-ink-soft">yours</span>}
            </label>
          );
        })}
      </div>
      <p className="text-ink-soft">A map that is taken off keeps its paint: it is there again when the map is added back.</p>
      <div className="flex items-center gap-2">
        <input
          aria-label="Name of a mask map of your own"
          placeholder="A mask map of your own, e.g. oil"
          value={name}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === 'Enter') addOwn();
          }}
          className="h-7 flex-1 rounded border border-line bg-raised px-2"
        />
        <Button className="h-7" onClick={addOwn}>
          Add
        </Button>
      </div>
      <div className="flex items-center gap-3">
        <span className="text-ink-soft">Meant for</span>
        <Segments
          label="Depth"
          value={String(sheet.depth) as '8' | '16'}
          options={[
            { value: '8', label: '8 bit' },
            { value: '16', label: '16 bit' },
          ]}
          onChange={(v) => set({ depth: Number(v) as 8 | 16 }, `${sheet.name}: ${v} bit`)}
        />
        <span className="text-ink-soft">Paint is always kept at 16.</span>
      </div>
      <div className="flex items-center gap-3">
        <span className="text-ink-soft">Normal from height</span>
        <Segments
          label="Kernel of the normal from height"
          value={String(sheet.normalKernel)}
          options={NORMAL_KERNELS.map((k) => ({ value: String(k), label: `${k} × ${k}` }))}
          onChange={(k) => set({ normalKernel: Number(k) as NormalKernel }, `${sheet.name}: normals ${k} × ${k}`)}
        />
        <div className="min-w-0 flex-1">
          <NumberField
            label="Relief"
            unit="tx"
            min={0}
            max={Math.round(0.1 * sheet.width)}
            digits={1}
            curve="fine"
            reset={16}
            hint="How high the whole range of height is, in texels: how strong the normal comes out"
            value={sheet.heightSpan * sheet.width}
            onPreview={(v) => preview(setSheetEdit(sheet, { heightSpan: v / sheet.width }))}
            onCommit={(v) => set({ heightSpan: v / sheet.width }, `${sheet.name}: relief ${Math.round(v)} texels`)}
          />
        </div>
      </div>
    </div>
  );
}
