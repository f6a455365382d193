'use client';
/** The hand: brush, what it writes, wells and palette, close under the work. */
import { ArrowLeftRight } from 'lucide-react';
import { useSyncExternalStore } from 'react';
import { TOOLS, type ToolType } from '@/core/hand/tools';
import { mapInfo } from '@/core/kinds/maps';
import { ColourField } from '../common/ColourField';
import { IconButton, Segments, Switch, Tip } from '../common/controls';
import { NumberField } from '../common/NumberField';
import { keysFor } from './commands';
import { Controls } from './Controls';
import {
  currentMask,
  currentSheet,
  edit,
  setBrush,
  settingsOf,
  setToolSettings,
  setWell,
  setWrite,
  swapWells,
  useBench,
  writeOf,
} from './store';
import { HAND_TOOLS } from './tools';
import { hover, pickedLine } from './usePanePointer';

export function Hand() {
  return (
    <section aria-label="Hand" className="flex h-[148px] shrink-0 divide-x divide-line border-t border-line">
      <Brush />
      <WritesPanel />
      <Wells />
    </section>
  );
}

function useHoverTexels(): number | null {
  return useSyncExternalStore(
    (listen) => {
      hover.listeners.add(listen);
      return () => hover.listeners.delete(listen);
    },
    () => hover.texels,
    () => null,
  );
}

function Brush() {
  const brush = useBench((s) => s.brush);
  const tool = useBench((s) => s.tool);
  // A tool's own settings take the place of what is set once and seldom changed.
  const own = tool !== 'pick' && TOOLS[tool].controls.length > 0;
  const texels = useHoverTexels();
  const isModel = useBench((s) => s.geometry !== null);
  const percent = (
    key: 'hardness' | 'flow' | 'opacity' | 'smoothing' | 'spacing',
    label: string,
    reset: number,
    hint: string,
    max = 100,
  ) => (
    <NumberField
      label={label}
      labelWidth="60px"
      unit="%"
      value={brush[key] * 100}
      min={key === 'spacing' ? 2 : 0}
      max={max}
      reset={reset}
      hint={hint}
      onPreview={(v) => setBrush({ [key]: v / 100 })}
      onCommit={(v) => setBrush({ [key]: v / 100 })}
    />
  );
  return (
    <div className="flex min-w-0 flex-[1.7] gap-2 py-2 pr-3 pl-2">
      <div className="flex flex-col gap-0.5">
        {HAND_TOOLS.map(({ type, icon: Icon, label, hint }) => (
          <IconButton
            key={type}
            label={`${label}. ${hint}`}
            keys={keysFor(type)}
            active={tool === type}
            onClick={() => useBench.setState({ tool: type })}
          >
            <Icon size={16} />
          </IconButton>
        ))}
      </div>
      <div className="grid min-w-0 flex-1 grid-cols-2 content-start gap-x-5 gap-y-0.5">
        <NumberField
          label="Size"
          labelWidth="60px"
          unit={brush.sizeUnit === 'screen' ? 'px' : 'mm'}
          value={brush.size}
          min={1}
          max={512}
          curve="fine"
          digits={brush.size < 10 ? 1 : 0}
          reset={40}
          hint="Diameter. Keys: brackets."
          onPreview={(v) => setBrush({ size: v })}
          onCommit={(v) => setBrush({ size: Math.max(1, v) })}
        />
        {percent('flow', 'Flow', 60, 'How much each dab adds.')}
        {percent('hardness', 'Hardness', 70, 'How sharp the rim is.')}
        {percent('opacity', 'Opacity', 100, 'No stroke covers more than this. Keys: digits.')}
        {!own && percent('spacing', 'Spacing', 12, 'Distance of the dabs, in diameters.', 200)}
        {!own && percent('smoothing', 'Smoothing', 30, 'Calms an unsteady hand.')}
        {tool !== 'pick' && <ToolControls tool={tool} />}
        <div className="col-span-2 mt-1 flex flex-wrap items-center gap-x-2">
          {!own && (
            <Segments
              label="The size is kept"
              value={brush.sizeUnit}
              options={[
                { value: 'screen', label: 'On screen', hint: 'The tip keeps its size on the screen, whatever the zoom' },
                {
                  value: 'model',
                  label: isModel ? 'On model' : 'On canvas',
                  hint: 'The tip keeps its size on the surface, whatever the zoom. A canvas counts as 1 m wide',
                },
              ]}
              onChange={(v) => setBrush({ sizeUnit: v })}
            />
          )}
          <Switch
            label="Pen: size"
            checked={brush.pressureSize}
            onChange={(v) => setBrush({ pressureSize: v })}
            hint="Pressure changes the size"
          />
          <Switch
            label="Pen: opacity"
            checked={brush.pressureOpacity}
            onChange={(v) => setBrush({ pressureOpacity: v })}
            hint="Pressure changes the opacity"
          />
          {isModel && (
            <Switch
              label="Same surface"
              checked={brush.reach === 'connected'}
              onChange={(v) => setBrush({ reach: v ? 'connected' : 'all' })}
              hint="On: only the surface that hangs together under the tip. Off: everything within its reach, neighbouring parts too"
            />
          )}
          <span className="figures ml-auto text-ink-soft">{texels === null ? '' : `${texels} texels`}</span>
        </div>
      </div>
    </div>
  );
}

/** What only this tool has to set. */
function ToolControls({ tool }: { tool: ToolType }) {
  const toolSettings = useBench((s) => s.toolSettings);
  const { controls, start } = TOOLS[tool];
  if (controls.length === 0) return null;
  const set = (settings: typeof start) => setToolSettings(tool, settings);
  return (
    <Controls
      className="col-span-2 grid grid-cols-2 gap-x-5 gap-y-0.5"
      controls={controls}
      settings={settingsOf(tool, { toolSettings })}
      start={start}
      onPreview={set}
      onCommit={set}
    />
  );
}

function WritesPanel() {
  const target = useBench((s) => s.target);
  return target === 'mask' ? <MaskPanel /> : <MapsPanel />;
}

/** While a mask is painted: how much it lets through where the brush goes. */
function MaskPanel() {
  const value = useBench((s) => s.maskValue);
  const mask = useBench((s) => currentMask(s));
  const set = (maskValue: number) => useBench.setState({ maskValue });
  return (
    <div className="min-w-[250px] flex-1 bg-accent-wash px-3 py-2" aria-label="What the brush writes">
      <div className="mb-1 flex justify-between text-accent-ink">
        <span className="truncate">Painting {mask?.name ?? 'the mask'}</span>
      </div>
      <NumberField
        label="Shows"
        labelWidth="60px"
        unit="%"
        value={value * 100}
        min={0}
        max={100}
        reset={100}
        onPreview={(v) => set(v / 100)}
        onCommit={(v) => set(v / 100)}
      />
      <div className="mt-1 flex flex-wrap items-center gap-1.5">
        {[
          { v: 1, label: 'Show' },
          { v: 0, label: 'Hide' },
        ].map(({ v, label }) => (
          <button
            key={label}
            type="button"
            aria-pressed={value === v}
            onClick={() => set(v)}
            className={`inline-flex h-7 items-center gap-1.5 rounded border px-2 ${value === v ? 'border-accent bg-raised' : 'border-line'}`}
          >
            <span className="h-3.5 w-3.5 rounded-sm border border-line" style={{ background: v ? '#fff' : '#000' }} />
            {label}
          </button>
        ))}
        <IconButton label="Swap showing and hiding" keys={keysFor('swap')} onClick={swapWells}>
          <ArrowLeftRight size={14} />
        </IconButton>
        <button
          type="button"
          className="ml-auto h-7 rounded px-2 whitespace-nowrap hover:bg-field"
          onClick={() => useBench.setState({ target: 'layer' })}
        >
          Back to the layer
        </button>
      </div>
    </div>
  );
}

function MapsPanel() {
  const writes = useBench((s) => s.writes);
  const well = useBench((s) => s.wells[0]);
  const sheet = useBench((s) => currentSheet(s));
  return (
    <div className="min-w-[250px] flex-1 overflow-y-auto px-3 py-2" aria-label="What the brush writes">
      <div className="mb-1 flex justify-between text-ink-soft">
        Writes<span className="text-[11px]">value · amount</span>
      </div>
      {sheet.maps.map((map) => {
        const info = mapInfo(map, sheet.ownMaps);
        // Directions are not painted by hand: height makes them.
        if (info.kind === 'normal') return null;
        const w = writeOf(writes, map);
        const value = info.kind === 'colour' ? null : w.value;
        const offset = info.display === 'offset';
        return (
          <div key={map} className="flex h-[26px] items-center gap-1.5">
            <Tip label={`${w.on ? 'Strokes write' : 'Strokes leave alone'}: ${info.label.toLowerCase()}. ${info.hint}`}>
              <button
                type="button"
                aria-pressed={w.on}
                data-write={map}
                onClick={() => setWrite(map, { on: !w.on })}
                className={`flex h-[22px] w-[84px] shrink-0 items-center gap-1.5 rounded border px-1.5 ${w.on ? 'border-accent bg-raised' : 'border-line text-ink-soft'}`}
              >
                {info.kind === 'colour' && (
                  <span className="h-3 w-3 rounded-sm border border-line" style={{ background: well }} />
                )}
                <span className="truncate">{info.label.replace('Base colour', 'Colour')}</span>
              </button>
            </Tip>
            {value !== null ? (
              <div className="min-w-0 flex-1">
                <NumberField
                  label=""
                  unit="%"
                  value={offset ? (value - 0.5) * 100 : value * 100}
                  min={offset ? -50 : 0}
                  max={offset ? 50 : 100}
                  reset={offset ? 12 : info.start[0] * 100}
                  disabled={!w.on}
                  hint={offset ? 'Raise (+) or sink (−), as a share of the sheet’s height range' : info.label}
                  onPreview={(v) => setWrite(map, { value: offset ? v / 100 + 0.5 : v / 100 })}
                  onCommit={(v) => setWrite(map, { value: offset ? v / 100 + 0.5 : v / 100 })}
                />
              </div>
            ) : (
              <span className="figures min-w-0 flex-1 truncate text-ink-soft">{well}</span>
            )}
            <AmountInput
              label={`${info.label} amount`}
              amount={w.amount}
              disabled={!w.on}
              onChange={(amount) => setWrite(map, { amount })}
            />
          </div>
        );
      })}
    </div>
  );
}

function AmountInput({
  label,
  amount,
  disabled,
  onChange,
}: {
  label: string;
  amount: number;
  disabled: boolean;
  onChange: (amount: number) => void;
}) {
  return (
    <Tip label={`${label}: share of the stroke that this map gets`}>
      <input
        type="number"
        aria-label={label}
        min={0}
        max={100}
        step={5}
        disabled={disabled}
        value={Math.round(amount * 100)}
        onChange={(e) => e.target.value !== '' && onChange(Math.min(1, Math.max(0, Number(e.target.value) / 100)))}
        onDoubleClick={() => onChange(1)}
        onKeyDown={(e) => e.stopPropagation()}
        className="figures h-[22px] w-12 shrink-0 rounded border border-line bg-raised px-1 text-right disabled:opacity-40"
      />
    </Tip>
  );
}

function Wells() {
  const [first, second] = useBench((s) => s.wells);
  const recent = useBench((s) => s.recent);
  const palette = useBench((s) => s.document!.palette);
  const picked = useSyncExternalStore(
    (listen) => {
      pickedLine.listeners.add(listen);
      return () => pickedLine.listeners.delete(listen);
    },
    () => pickedLine.text,
    () => '',
  );
  const chips = (colours: readonly string[], label: string) => (
    <div className="flex flex-wrap gap-1" role="group" aria-label={label}>
      {colours.map((c) => (
        <button
          key={c}
          type="button"
          aria-label={`${label} ${c}`}
          title={c}
          onClick={() => setWell(c)}
          className={`h-[18px] w-[18px] rounded-sm border ${c === first ? 'border-ink' : 'border-line'}`}
          style={{ background: c }}
        />
      ))}
    </div>
  );
  return (
    <div className="w-[224px] shrink-0 px-3 py-2">
      <div className="mb-1.5 flex items-end gap-1.5">
        <ColourField colour={first} label="Active well" onPreview={setWell} onCommit={setWell}>
          <button
            type="button"
            aria-label={`Active well ${first}, click to change`}
            data-testid="well"
            className="h-9 w-24 rounded border-2 border-accent"
            style={{ background: first }}
          />
        </ColourField>
        <button
          type="button"
          aria-label={`Other well ${second}, click to swap`}
          onClick={swapWells}
          className="h-7 w-8 rounded border border-line"
          style={{ background: second }}
        />
        <IconButton label="Swap the wells" keys={keysFor('swap')} onClick={swapWells}>
          <ArrowLeftRight size={14} />
        </IconButton>
      </div>
      <div className="space-y-1.5">
        {chips(recent.length ? recent.slice(0, 9) : [], 'Recent')}
        <div className="flex items-start gap-1">
          {chips(palette.slice(0, 17), 'Palette')}
          <Tip label="Add the active well to the piece’s palette">
            <button
              type="button"
              aria-label="Add to palette"
              disabled={palette.includes(first) || palette.length >= 256}
              onClick={() =>
                edit({ type: 'set-piece', before: { palette }, after: { palette: [...palette, first] } }, `Palette: add ${first}`)
              }
              className="h-[18px] w-[18px] shrink-0 rounded-sm border border-line text-[13px] leading-none hover:bg-field disabled:opacity-35"
            >
              +
            </button>
          </Tip>
        </div>
        <p className="truncate text-[11.5px] text-ink-soft" aria-live="polite" title={picked}>
          {picked}
        </p>
      </div>
    </div>
  );
}
