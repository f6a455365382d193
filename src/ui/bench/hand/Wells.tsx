'use client';
/** The two colours in hand, those of late and those of the piece. */
import { ArrowLeftRight } from 'lucide-react';
import { ColourField } from '../../common/ColourField';
import { IconButton, Tip } from '../../common/controls';
import { keysFor } from '../commands';
import { edit, setWell, swapWells, useBench } from '../store';
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

export function Wells() {
  const first = useBench((s) => s.wells[0]);
  const recent = useBench((s) => s.recent);
  const palette = useBench((s) => s.document!.palette);
  const picked = usePointed((p) => p.picked);
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
    <div className="w-[150px] shrink-0 px-2.5 py-2">
      <WellPair />
      <div className="space-y-1.5">
        {chips(recent.length ? recent.slice(0, 6) : [], 'Recent')}
        <div className="flex items-start gap-1">
          {chips(palette.slice(0, 9), 'Palette')}
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
