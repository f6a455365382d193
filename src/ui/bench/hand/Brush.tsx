'use client';
/** The numbers of the brush that hands reach for, and those of the tool. */
import { Choice } from '../../kit/Choice';
import { Switch } from '../../kit/Switch';
import { NumberField } from '../../kit/NumberField';
import { setBrush, sourceInHand, takesFromElsewhere, useBench } from '../store';
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
  hardness: { label: 'Hardness', reset: 0.7, hint: 'How sharp the rim is.' },
  flow: { label: 'Flow', reset: 0.6, hint: 'How much each dab adds.' },
  opacity: { label: 'Opacity', reset: 1, hint: 'No stroke covers more than this. Keys: digits.' },
} as const;

export function ShareField({ of }: { of: Share }) {
  const value = useBench((s) => s.brush[of]);
  return <Percent {...SHARES[of]} labelWidth={WIDTH} value={value} onChange={(v) => setBrush({ [of]: v })} />;
}

export function BrushNumbers() {
  const tool = useBench((s) => s.tool);
  // The picture of a tip has its own softness, and so has a curve.
  const hasRim = useBench((s) => s.brush.tip.shape !== 'picture' && !s.brush.tip.grid && !s.brush.tip.edge);
  return (
    <div className="flex min-w-[310px] flex-1 gap-2.5">
      <div className="min-w-[150px] flex-1 space-y-0.5">
        <SizeField />
        <ShareField of="flow" />
        {hasRim && <ShareField of="hardness" />}
        <ShareField of="opacity" />
      </div>
      <div className="min-w-[150px] flex-1 space-y-0.5">
        {tool === 'pick' ? <PickSettings /> : <ToolControls tool={tool} />}
        <SourceHint />
      </div>
    </div>
  );
}

/** What picking takes. */
function PickSettings() {
  const picks = useBench((s) => s.picks);
  const set = (change: Partial<typeof picks>) => useBench.setState((s) => ({ picks: { ...s.picks, ...change } }));
  return (
    <>
      <Choice
        label="Of"
        labelWidth="48px"
        value={picks.of}
        options={[
          { value: 'seen', label: 'all layers' },
          { value: 'layer', label: 'this layer' },
        ]}
        onChange={(of) => set({ of })}
      />
      <Switch
        label="All maps"
        checked={picks.all}
        onChange={(all) => set({ all })}
        hint="The brush writes that material then. Or hold Shift while picking"
      />
    </>
  );
}

/** A tool that takes from elsewhere says so until it is told where. */
function SourceHint() {
  const set = useBench((s) => sourceInHand(s) !== undefined);
  const takes = useBench(takesFromElsewhere);
  if (!takes || set) return null;
  return <p className="leading-4 text-accent-ink">Alt-click sets where it takes from.</p>;
}
