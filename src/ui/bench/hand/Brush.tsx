'use client';
/** The numbers of the brush that hands reach for, and those of the tool. */
import { TOOLS } from '@/core/hand/tools';
import { NumberField } from '../../common/NumberField';
import { setBrush, sourceInHand, useBench } from '../store';
import { Percent } from './Percent';
import { ToolControls } from './Tools';

const WIDTH = '52px';
const UNITS = { screen: 'px', model: 'mm', texel: 'tx' } as const;

export function SizeField() {
  const { size, sizeUnit } = useBench((s) => s.brush);
  return (
    <NumberField
      label="Size"
      labelWidth={WIDTH}
      unit={UNITS[sizeUnit]}
      value={size}
      min={1}
      max={512}
      curve="fine"
      digits={size < 10 ? 1 : 0}
      reset={40}
      hint="Diameter. Keys: brackets."
      onPreview={(v) => setBrush({ size: v })}
      onCommit={(v) => setBrush({ size: Math.max(1, v) })}
    />
  );
}

type Share = 'hardness' | 'flow' | 'opacity';
const SHARES = {
  hardness: { label: 'Hardness', reset: 70, hint: 'How sharp the rim is.' },
  flow: { label: 'Flow', reset: 60, hint: 'How much each dab adds.' },
  opacity: { label: 'Opacity', reset: 100, hint: 'No stroke covers more than this. Keys: digits.' },
} as const;

export function ShareField({ of }: { of: Share }) {
  const value = useBench((s) => s.brush[of]);
  return <Percent {...SHARES[of]} labelWidth={WIDTH} value={value} onChange={(v) => setBrush({ [of]: v })} />;
}

export function BrushNumbers() {
  const tool = useBench((s) => s.tool);
  // The picture of a tip has its own softness.
  const hasRim = useBench((s) => s.brush.tip.shape !== 'picture' && !s.brush.tip.grid);
  return (
    <div className="flex min-w-0 flex-1 gap-3.5">
      <div className="min-w-0 flex-1 space-y-0.5">
        <SizeField />
        <ShareField of="flow" />
        {hasRim && <ShareField of="hardness" />}
        <ShareField of="opacity" />
      </div>
      <div className="min-w-0 flex-1 space-y-0.5">
        {tool !== 'pick' && <ToolControls tool={tool} />}
        <SourceHint />
      </div>
    </div>
  );
}

/** A tool that takes from elsewhere says so until it is told where. */
function SourceHint() {
  const tool = useBench((s) => s.tool);
  const set = useBench((s) => sourceInHand(s) !== undefined);
  if (tool === 'pick' || !TOOLS[tool].needsSource || set) return null;
  return <p className="leading-4 text-accent-ink">Alt-click sets where it takes from.</p>;
}
