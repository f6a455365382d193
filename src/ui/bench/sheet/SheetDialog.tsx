'use client';
/** The size and the lie of a sheet, and the maps that it carries. Everything here is one step of the trail. */
import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { type Sheet } from '@/core/document/schema';
import { extentFault, reshapedExtent, type Reshape } from '@/core/document/reshape';
import { IconButton, Segments } from '../../common/controls';
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
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 w-[560px] -translate-x-1/2 -translate-y-1/2 rounded-lg bg-panel p-5 shadow-2xl"
        >
          <div className="mb-3 flex items-center">
            <Dialog.Title className="flex-1 text-[16px] font-semibold">{sheet.name}</Dialog.Title>
            <Dialog.Close asChild>
              <span>
                <IconButton label="Close" onClick={onClose}>
                  <X size={15} />
                </IconButton>
              </span>
            </Dialog.Close>
          </div>
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
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
