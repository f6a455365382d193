'use client';
/** The two colours in hand, those of late and those of the piece. */
import { ArrowLeftRight } from 'lucide-react';
import { toneSteps, TONES_EACH_WAY, TONE_START } from '@/core/colour/tones';
import { hexToSrgb, srgbToHex } from '@/core/colour/transfer';
import { FootPopup } from '../../kit/Popup';
import { ColourField } from '../../kit/ColourField';
import { ColourStrip } from '../../kit/ColourStrip';
import { IconButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { NumberField } from '../../kit/NumberField';
import { PercentField } from '../../kit/PercentField';
import { keysFor } from '../keys/commands';
import { addToPalette } from '../palette/commands';
import { PaletteButton } from '../palette/PalettePanel';
import { setWell, swapWells, useBench } from '../store';
import { usePointed } from '../pointer/pointed';

/** The two colours, one of them in use. */
export function WellPair({ small = false }: { small?: boolean }) {
  const [first, second] = useBench((s) => s.wells);
  return (
    <div className={`flex gap-1.5 ${small ? 'items-center' : 'mb-1.5 items-end'}`}>
      <ColourField colour={first} label="Active well" onPreview={setWell} onCommit={setWell}>
        <button
          type="button"
          aria-label={`Active well ${first}, click to change`}
          data-testid="well"
          className={`rounded border-2 border-accent ${small ? 'h-7 w-12' : 'h-9 w-14'}`}
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
  );
}

/** Five darker and five lighter tones of the well, and the well between them. */
function ToneSteps() {
  const well = useBench((s) => s.wells[0]);
  const tones = useBench((s) => s.tones);
  const steps = toneSteps(hexToSrgb(well), tones).map(srgbToHex);
  const set = (change: Partial<typeof tones>) => useBench.setState((s) => ({ tones: { ...s.tones, ...change } }));
  return (
    <div className="mb-1 flex items-center gap-0.5">
      <ColourStrip
        label="Tone steps"
        colours={steps}
        taken={TONES_EACH_WAY}
        onTake={(n) => setWell(steps[n])}
        nameOf={(n) => `Tone ${n - TONES_EACH_WAY} ${steps[n]}`}
        titleOf={(n) => `${steps[n]}${n === TONES_EACH_WAY ? ' · the well' : ''}`}
        className="flex min-w-0 flex-1 gap-0.5"
        chipClass={(n) =>
          `h-5 min-w-0 flex-1 ${n === TONES_EACH_WAY ? 'ring-1 ring-ink' : ''} ${n === 0 ? 'rounded-l-sm' : n === steps.length - 1 ? 'rounded-r-sm' : ''}`
        }
      />
      <FootPopup
        label="Tone steps"
        tip="How tones turn and how far they go"
        width="w-64"
        trigger={
          <button
            type="button"
            aria-label="How tones turn and how far they go"
            className="h-6 w-6 shrink-0 rounded text-[11px] hover:bg-field"
          >
            ⋯
          </button>
        }
      >
        <p className="text-ink-soft">Shadows turn cool, lights turn warm.</p>
        <NumberField
          label="Turn"
          labelWidth="60px"
          unit="°"
          min={0}
          max={120}
          reset={TONE_START.turn}
          value={tones.turn}
          onPreview={(turn) => set({ turn })}
          onCommit={(turn) => set({ turn })}
        />
        <PercentField
          label="Amount"
          labelWidth="60px"
          min={0.05}
          reset={TONE_START.amount}
          value={tones.amount}
          hint="How far from the well the last steps lie."
          onPreview={(v) => set({ amount: v })}
          onCommit={(v) => set({ amount: v })}
        />
      </FootPopup>
    </div>
  );
}

/** Of the palette so many have room; the box has them all. */
const LARGE_CHIPS = 8;
const MOST_CHIPS = 18;

export function Wells() {
  const first = useBench((s) => s.wells[0]);
  const recent = useBench((s) => s.recent);
  const palette = useBench((s) => s.document!.palette);
  const picked = usePointed((p) => p.picked);
  const chips = (colours: readonly string[], label: string, small = false) => (
    <ColourStrip
      label={label}
      colours={colours}
      taken={colours.indexOf(first)}
      onTake={(n) => setWell(colours[n])}
      nameOf={(n) => `${label} ${colours[n]}`}
      className={`flex flex-wrap ${small ? 'gap-0.5' : 'gap-[3px]'}`}
      chipClass={(n) =>
        `${small ? 'h-3 w-3' : 'h-[18px] w-[18px]'} rounded-sm border ${colours[n] === first ? 'border-ink' : 'border-line'}`
      }
    />
  );
  return (
    <div className="w-[158px] shrink-0 px-2.5 py-2">
      <WellPair />
      <ToneSteps />
      <div className="space-y-1">
        {chips(recent.length ? recent.slice(0, 6) : [], 'Recent')}
        <div className="flex items-start gap-1">
          {chips(palette.slice(0, MOST_CHIPS), 'Palette', palette.length > LARGE_CHIPS)}
          <Tip label="Add the active well to the piece’s palette">
            <button
              type="button"
              aria-label="Add to palette"
              disabled={palette.includes(first) || palette.length >= 256}
              onClick={() => addToPalette(first)}
              className="h-6 w-6 shrink-0 rounded-sm border border-line text-[13px] leading-none hover:bg-field disabled:opacity-35"
            >
              +
            </button>
          </Tip>
          <PaletteButton />
        </div>
        <p className="truncate text-[11.5px] text-ink-soft" aria-live="polite" title={picked}>
          {picked}
        </p>
      </div>
    </div>
  );
}
