'use client';
/** The size and the lie of a sheet, and the maps that it carries. Everything here is one step of the trail. */
import { useState } from 'react';
import type { Sheet } from '@/core/document/schema';
import { extentFault, reshapedExtent, type Reshape } from '@/core/document/reshape';
import { Segments } from '../../kit/Segments';
import { DialogBox } from '../../kit/DialogBox';
import { work } from '../store';
import { Resize } from './Resize';
import { Frame } from './Frame';
import { Turn } from './Turn';
import { Maps } from './Maps';

type Tab = 'size' | 'frame' | 'turn' | 'maps';

export function SheetDialog({ sheet, onClose }: { sheet: Sheet; onClose: () => void }) {
  const onModel = sheet.materialIndex !== null;
  const [tab, setTab] = useState<Tab>('size');
  const [failure, setFailure] = useState('');
  const apply = (by: Reshape) => {
    const fault = extentFault(reshapedExtent(sheet, by));
    if (fault) return setFailure(`${fault}.`);
    work({ do: 'reshape', sheetId: sheet.id, by });
    onClose();
  };
  const tabs = [
    { value: 'size' as const, label: 'Size' },
    ...(onModel
      ? []
      : [
          { value: 'frame' as const, label: 'Crop, extend' },
          { value: 'turn' as const, label: 'Rotate, flip' },
        ]),
    { value: 'maps' as const, label: 'Maps, depth' },
  ];
  return (
    <DialogBox title={sheet.name} onClose={onClose}>
      <Segments
        label="What to change"
        value={tab}
        options={tabs}
        onChange={(t) => {
          setFailure('');
          setTab(t);
        }}
      />
      <div className="mt-4 min-h-56">
        {tab === 'size' && <Resize sheet={sheet} apply={apply} />}
        {tab === 'frame' && <Frame sheet={sheet} apply={apply} />}
        {tab === 'turn' && <Turn sheet={sheet} apply={apply} />}
        {tab === 'maps' && <Maps sheet={sheet} fail={setFailure} />}
      </div>
      {failure && (
        <p role="alert" className="mt-2 text-fault">
          {failure}
        </p>
      )}
      {onModel && tab === 'size' && (
        <p className="mt-2 text-ink-soft">The model’s UVs say how this sheet lies: crop, turn and mirror are for canvases.</p>
      )}
    </DialogBox>
  );
}
