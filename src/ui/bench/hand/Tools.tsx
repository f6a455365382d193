'use client';
/** The tools, each with its key; and what only the one at hand has to set. */
import { TOOLS, type ToolType } from '@/core/hand/tools';
import { IconButton } from '../../kit/Button';
import { keysFor } from '../keys/commands';
import { Controls } from '../Controls';
import { currentSheet, settingsOf, setToolSettings, useBench } from '../store';
import { Choice } from '../../kit/Choice';
import { HAND_TOOLS } from '../keys/tools';
import { takeTool } from '../store/toolBrushes';

export function ToolGrid() {
  const tool = useBench((s) => s.tool);
  return (
    <div role="group" aria-label="Tools" className="grid shrink-0 grid-cols-3 content-start gap-0.5">
      {HAND_TOOLS.map(({ type, icon: Icon, label, hint }) => (
        <IconButton
          key={type}
          label={`${label}. ${hint}`}
          keys={keysFor(type)}
          active={tool === type}
          onClick={() => takeTool(type)}
        >
          <Icon size={16} />
        </IconButton>
      ))}
    </div>
  );
}

/** What only this tool has to set. */
export function ToolControls({ tool }: { tool: ToolType }) {
  const toolSettings = useBench((s) => s.toolSettings);
  const { controls, start, needsSource } = TOOLS[tool];
  if (controls.length === 0) return null;
  const settings = settingsOf(tool, { toolSettings });
  const set = (next: typeof start) => setToolSettings(tool, next);
  const plain = needsSource ? controls.filter(({ key }) => key !== 'of') : controls;
  return (
    <>
      <Controls labelWidth="48px" controls={plain} settings={settings} start={start} onPreview={set} onCommit={set} />
      {needsSource && <OfLayer of={String(settings.of)} onChange={(of) => set({ ...settings, of })} />}
    </>
  );
}

/** What is seen, the layer's own paint, or another layer's. */
function OfLayer({ of, onChange }: { of: string; onChange: (of: string) => void }) {
  const sheet = useBench((s) => currentSheet(s));
  const options = [
    { value: 'all', label: 'all layers' },
    { value: 'layer', label: 'own paint' },
    ...sheet.layers.toReversed().map(({ id, name }) => ({ value: `layer:${id}`, label: name })),
  ];
  const known = options.some(({ value }) => value === of);
  return <Choice label="Of" labelWidth="48px" value={known ? of : 'all'} options={options} onChange={onChange} />;
}
