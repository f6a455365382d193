'use client';
/** The size and the lie of a sheet, and the maps that it carries. Everything here is one step of the trail. */
import { FlipHorizontal2, FlipVertical2, RotateCcw, RotateCw, X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useEffect, useState, type CSSProperties } from 'react';
import { setSheetEdit } from '@/core/document/edits';
import { MAP_IDS, mapInfo, type MapId, type OwnMap } from '@/core/kinds/maps';
import { LIMITS, nameSchema, type Sheet } from '@/core/document/schema';
import { extentFault, reshapedExtent, type Reshape } from '@/core/document/reshape';
import { NORMAL_KERNELS, type NormalKernel } from '@/core/tile/normal';
import { Button, IconButton, Segments } from '../common/controls';
import { NumberField } from '../common/NumberField';
import { bench, edit, preview, work } from './store';

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

/** The sheet as it is drawn. */
function usePicture(sheetId: string): string | null {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    bench()
      .ask({ ask: 'sheet-picture', sheetId })
      .then((p) => {
        if (gone || !p) return;
        const canvas = document.createElement('canvas');
        [canvas.width, canvas.height] = [p.width, p.height];
        canvas.getContext('2d')!.putImageData(new ImageData(p.data, p.width, p.height), 0, 0);
        setUrl(canvas.toDataURL());
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [sheetId]);
  return url;
}

function Number_({ label, value, onChange }: { label: string; value: number; onChange: (v: number) => void }) {
  return (
    <label className="flex items-center justify-between gap-3">
      <span className="text-ink-soft">{label}</span>
      <span>
        <input
          type="number"
          value={Number.isFinite(value) ? value : ''}
          onChange={(e) => onChange(e.target.value === '' ? NaN : Number(e.target.value))}
          onKeyDown={(e) => e.stopPropagation()}
          className="figures h-7 w-20 rounded border border-line bg-raised px-1.5 text-right"
        />{' '}
        <span className="text-[11px] text-ink-soft">tx</span>
      </span>
    </label>
  );
}

interface PartProps {
  sheet: Sheet;
  apply: (by: Reshape) => void;
}

const BOX = 210;

function Resize({ sheet, apply }: PartProps) {
  const [width, setWidth] = useState(sheet.width);
  const [height, setHeight] = useState(sheet.height);
  const picture = usePicture(sheet.id);
  const keep = (w: number) => {
    setWidth(w);
    setHeight(Math.round((w * sheet.height) / sheet.width));
  };
  const scale = BOX / Math.max(width || 1, height || 1, sheet.width, sheet.height);
  const frame = (w: number, h: number): CSSProperties => ({ width: w * scale, height: h * scale });
  return (
    <div className="flex gap-5">
      <div className="flex w-[214px] items-center justify-center bg-work" style={{ height: BOX + 4 }}>
        <div className="relative flex items-center justify-center">
          {picture && <img src={picture} alt="The sheet at its new size beside the old" style={frame(width || 1, height || 1)} />}
          <span className="absolute border border-dashed border-white" style={frame(sheet.width, sheet.height)} />
        </div>
      </div>
      <div className="flex-1 space-y-2">
        <Number_ label="Width" value={width} onChange={keep} />
        <Number_ label="Height" value={height} onChange={setHeight} />
        <div className="flex flex-wrap gap-1">
          {[0.5, 2].map((f) => (
            <Button key={f} className="h-7" onClick={() => keep(Math.round(sheet.width * f))}>
              {f === 2 ? 'Twice' : 'Half'}
            </Button>
          ))}
          {[512, 1024, 2048, 4096].map((n) => (
            <Button key={n} className="h-7" onClick={() => keep(n)}>
              {n}
            </Button>
          ))}
        </div>
        <p className="text-ink-soft">Paint is filtered (Lanczos, colour in linear light). Coats and adjustments stay exact.</p>
        <Button
          kind="main"
          disabled={width === sheet.width && height === sheet.height}
          onClick={() => apply({ kind: 'resize', width, height })}
        >
          Resize
        </Button>
      </div>
    </div>
  );
}

function Frame({ sheet, apply }: PartProps) {
  const [sides, setSides] = useState({ left: 0, top: 0, right: 0, bottom: 0 });
  const picture = usePicture(sheet.id);
  const width = sheet.width + sides.left + sides.right;
  const height = sheet.height + sides.top + sides.bottom;
  const extent = Math.max(
    sheet.width + Math.abs(sides.left) + Math.abs(sides.right),
    sheet.height + Math.abs(sides.top) + Math.abs(sides.bottom),
    1,
  );
  const scale = BOX / extent;
  const side = (key: keyof typeof sides, label: string) => (
    <Number_ label={label} value={sides[key]} onChange={(v) => setSides({ ...sides, [key]: v })} />
  );
  return (
    <div className="flex gap-5">
      <div className="flex w-[214px] items-center justify-center bg-work" style={{ height: BOX + 4 }}>
        <div className="relative" style={{ width: sheet.width * scale, height: sheet.height * scale }}>
          {picture && <img src={picture} alt="The sheet with its new frame" className="h-full w-full" />}
          <span
            className="absolute border-2 border-white"
            style={{
              left: -sides.left * scale,
              top: -sides.top * scale,
              width: Math.max(0, width * scale),
              height: Math.max(0, height * scale),
            }}
          />
        </div>
      </div>
      <div className="flex-1 space-y-2">
        <p className="text-ink-soft">Texels more on a side, or less with a minus.</p>
        {side('left', 'Left')}
        {side('top', 'Top')}
        {side('right', 'Right')}
        {side('bottom', 'Bottom')}
        <p>
          Becomes{' '}
          <span className="figures">
            {width} × {height}
          </span>
        </p>
        <Button
          kind="main"
          disabled={Object.values(sides).every((v) => v === 0)}
          onClick={() => apply({ kind: 'frame', x: -sides.left, y: -sides.top, width, height })}
        >
          Set the frame
        </Button>
      </div>
    </div>
  );
}

const TURNS: { by: Reshape; label: string; icon: typeof RotateCw; css: string }[] = [
  { by: { kind: 'turn', quarters: 1 }, label: 'Rotate 90° right', icon: RotateCw, css: 'rotate(90deg)' },
  { by: { kind: 'turn', quarters: 3 }, label: 'Rotate 90° left', icon: RotateCcw, css: 'rotate(-90deg)' },
  { by: { kind: 'turn', quarters: 2 }, label: 'Rotate 180°', icon: RotateCw, css: 'rotate(180deg)' },
  { by: { kind: 'mirror', axis: 'x' }, label: 'Flip horizontal', icon: FlipVertical2, css: 'scaleX(-1)' },
  { by: { kind: 'mirror', axis: 'y' }, label: 'Flip vertical', icon: FlipHorizontal2, css: 'scaleY(-1)' },
];

function Turn({ sheet, apply }: PartProps) {
  const picture = usePicture(sheet.id);
  const scale = 84 / Math.max(sheet.width, sheet.height);
  return (
    <div className="grid grid-cols-5 gap-2">
      {TURNS.map(({ by, label, icon: Icon, css }) => (
        <button
          key={label}
          type="button"
          onClick={() => apply(by)}
          className="flex flex-col items-center gap-1.5 rounded p-1.5 hover:bg-field"
        >
          <span className="flex h-[88px] w-[88px] items-center justify-center bg-work">
            {picture && (
              <img src={picture} alt="" style={{ width: sheet.width * scale, height: sheet.height * scale, transform: css }} />
            )}
          </span>
          <span className="inline-flex items-start gap-1 text-center text-[12px] leading-4">
            <Icon size={13} className="mt-0.5 shrink-0" /> {label}
          </span>
        </button>
      ))}
    </div>
  );
}

function Maps({ sheet, fail }: { sheet: Sheet; fail: (message: string) => void }) {
  const [name, setName] = useState('');
  const set = (after: Partial<Sheet>, label: string) => {
    fail('');
    edit(setSheetEdit(sheet, after), label);
  };
  const toggle = (map: MapId) => {
    const label = mapInfo(map, sheet.ownMaps).label;
    if (!sheet.maps.includes(map)) {
      // In the order of the registry, one's own at the end.
      const next = [
        ...MAP_IDS.filter((m) => m === map || sheet.maps.includes(m)),
        ...sheet.maps.filter((m) => m.startsWith('own-')),
      ];
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
              {map.startsWith('own-') && <span className="text-ink-soft">yours</span>}
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
