'use client';
/** The tool in hand and how it lays down. */
import { TOOLS, type ToolType } from '@/core/hand/tools';
import { IconButton, Segments } from '../../common/controls';
import { NumberField } from '../../common/NumberField';
import { keysFor } from '../commands';
import { Controls } from '../Controls';
import { setBrush, settingsOf, setToolSettings, useBench } from '../store';
import { HAND_TOOLS } from '../tools';
import { usePointed } from '../pointer/pointed';
import { BrushCard } from './BrushCard';
import { MirrorChip } from './MirrorChip';
import { Percent } from './Percent';

export function Brush() {
  const brush = useBench((s) => s.brush);
  const tool = useBench((s) => s.tool);
  // Many settings of its own take the place of what is set once and seldom changed.
  const own = tool !== 'pick' && TOOLS[tool].controls.length > 2;
  const texels = usePointed((p) => p.texels);
  const isModel = useBench((s) => s.geometry !== null);
  const percent = (key: 'hardness' | 'flow' | 'opacity', label: string, reset: number, hint: string) => (
    <Percent
      label={label}
      labelWidth="60px"
      value={brush[key]}
      reset={reset}
      hint={hint}
      onChange={(v) => setBrush({ [key]: v })}
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
        {tool !== 'pick' && <ToolControls tool={tool} />}
        {!own && (
          <span className="flex items-center">
            <MirrorChip />
          </span>
        )}
        <div className="col-span-2 mt-1 flex items-center gap-x-2">
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
          <BrushCard />
          {own && <MirrorChip />}
          <span className="figures w-[50px] text-right text-ink-soft" title="The tip in texels of the sheet">
            {texels === null ? '' : `${texels} tx`}
          </span>
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
      className={controls.length > 1 ? 'col-span-2 grid grid-cols-2 gap-x-5 gap-y-0.5' : ''}
      controls={controls}
      settings={settingsOf(tool, { toolSettings })}
      start={start}
      onPreview={set}
      onCommit={set}
    />
  );
}
