'use client';
/** What is in hand: tools, the brush, what it writes, the colours. It folds to one line. */
import { ChevronDown, ChevronUp } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { Choice } from '../../kit/Choice';
import { IconButton } from '../../kit/Button';
import { LayingRow, LayingSettings } from '../areas/AreaBar';
import { HintLine } from '../top/HintLine';
import { FenceChip } from '../fence/FenceChip';
import { keysFor } from '../keys/commands';
import { useBench } from '../store';
import { takeTool } from '../store/toolBrushes';
import { HAND_TOOLS } from '../keys/tools';
import { StencilChip } from '../stencil/StencilChip';
import { usePointed } from '../pointer/pointed';
import { BrushNumbers, ShareField, SizeField } from './Brush';
import { BrushCard } from './BrushCard';
import { MirrorChip } from './MirrorChip';
import { ToolGrid } from './Tools';
import { WellPair, Wells } from './Wells';
import { WritesPanel } from './Writes';

export function Hand() {
  const folded = useBench((s) => s.handFolded);
  return folded ? <Folded /> : <Whole />;
}

function Whole() {
  return (
    <section aria-label="Hand" className="relative flex h-[172px] shrink-0 flex-col border-t border-line">
      <div className="flex h-8 shrink-0 items-center gap-2 border-b border-line px-2" data-testid="hand-head">
        <LayingRow />
        <LayingSettings />
        <HintLine />
        <span className="min-w-0 flex-1" />
        <Chips />
        <Fold />
      </div>
      <div className="flex min-h-0 flex-1 divide-x divide-line">
        <div className="flex min-w-[520px] flex-[2.4] gap-2.5 py-2 pr-2.5 pl-2">
          <ToolGrid />
          <div className="flex w-[133px] min-w-[80px] shrink-[2] flex-col gap-1">
            <BrushCard />
            <div className="flex h-5 items-center gap-1">
              <TexelSize />
            </div>
          </div>
          <BrushNumbers />
        </div>
        <WritesPanel />
        <Wells />
      </div>
    </section>
  );
}

/** What limits and repeats strokes: each a switch with its sentence. */
function Chips() {
  return (
    <>
      <FenceChip />
      <StencilChip />
      <MirrorChip />
    </>
  );
}

function Folded() {
  const tool = useBench((s) => s.tool);
  return (
    <section aria-label="Hand" className="relative flex h-10 shrink-0 items-center gap-3 border-t border-line px-2">
      <div className="w-44">
        <Choice
          label="Tool"
          labelWidth="32px"
          value={tool}
          options={HAND_TOOLS.map(({ type, label }) => ({ value: type, label }))}
          onChange={takeTool}
        />
      </div>
      <BrushCard small />
      <div className="w-40">
        <SizeField />
      </div>
      <div className="w-40">
        <ShareField of="flow" />
      </div>
      <div className="w-40">
        <ShareField of="opacity" />
      </div>
      <span className="ml-auto" />
      <Chips />
      <WellPair small />
      <Fold />
    </section>
  );
}

function TexelSize() {
  const text = useRef<HTMLSpanElement>(null);
  // Written past React: it changes with every place that the pointer is at.
  useEffect(() => {
    const show = ({ texels }: { texels: number | null }) => {
      text.current!.textContent = texels === null ? '' : `${texels}tx`;
    };
    show(usePointed.getState());
    return usePointed.subscribe(show);
  }, []);
  return (
    <span
      ref={text}
      className="figures min-w-0 flex-1 text-right text-[11px] whitespace-nowrap text-ink-soft"
      title="The tip in texels of the sheet"
    />
  );
}

function Fold() {
  const folded = useBench((s) => s.handFolded);
  return (
    <IconButton
      label={folded ? 'Open the hand' : 'Fold the hand to one line'}
      keys={keysFor('fold-hand')}
      onClick={() => useBench.setState({ handFolded: !folded })}
    >
      {folded ? <ChevronUp size={14} /> : <ChevronDown size={14} />}
    </IconButton>
  );
}
