'use client';
/** The small tools in the corner of each pane: framing, sides, parts; fit, 1:1, wire. */
import { Box, Contrast, Eye, EyeOff, Focus, Grid3x3, Scan, TriangleAlert } from 'lucide-react';
import { Popover } from 'radix-ui';
import { IconButton } from '../common/controls';
import { NumberField } from '../common/NumberField';
import { fitFlat, frameModel, keysFor, lookFrom, oneToOne } from './commands';
import { GuidesMenu } from './GuideLines';
import { edit, currentSheet, useBench } from './store';

const CARD = 'z-30 rounded-md border border-line bg-panel p-2 shadow-xl';

export function ModelTools() {
  const isModel = useBench((s) => s.geometry !== null);
  return (
    <div className="flex items-center gap-px rounded bg-panel/85">
      <IconButton label="Frame the model" keys="F" onClick={frameModel}>
        <Focus size={14} />
      </IconButton>
      {(['front', 'side', 'top'] as const).map((side) => (
        <button
          key={side}
          type="button"
          className="h-7 rounded px-1.5 text-[12px] capitalize hover:bg-field"
          onClick={() => lookFrom(side)}
        >
          {side}
        </button>
      ))}
      {isModel ? <Parts /> : <Repeats />}
      <Checks />
    </div>
  );
}

function Parts() {
  const parts = useBench((s) => s.geometry!.parts);
  const hidden = useBench((s) => s.document!.hiddenParts);
  const hide = (names: string[], label: string) =>
    edit({ type: 'set-piece', before: { hiddenParts: hidden }, after: { hiddenParts: names } }, label);
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          className={`inline-flex h-7 items-center gap-1 rounded px-1.5 text-[12px] hover:bg-field ${hidden.length ? 'text-accent-ink' : ''}`}
        >
          <Box size={14} /> Parts{hidden.length > 0 && ` · ${hidden.length} hidden`}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          className={`${CARD} max-h-80 w-56 overflow-auto`}
          aria-label="Parts of the model"
        >
          {parts.map((part) => {
            const off = hidden.includes(part);
            return (
              <div key={part} className="group flex items-center rounded hover:bg-field">
                <button
                  type="button"
                  aria-label={`${off ? 'Show' : 'Hide'} ${part}`}
                  className="flex h-7 min-w-0 flex-1 items-center gap-2 px-1.5 text-left"
                  onClick={() =>
                    hide(off ? hidden.filter((h) => h !== part) : [...hidden, part], `${off ? 'Show' : 'Hide'} ${part}`)
                  }
                >
                  {off ? <EyeOff size={14} className="text-ink-soft" /> : <Eye size={14} />}
                  <span className={`truncate ${off ? 'text-ink-soft' : ''}`}>{part}</span>
                </button>
                <button
                  type="button"
                  className="h-7 px-2 text-[12px] text-ink-soft opacity-0 group-hover:opacity-100 hover:text-ink focus:opacity-100"
                  onClick={() =>
                    hide(
                      parts.filter((p) => p !== part),
                      `Only ${part}`,
                    )
                  }
                >
                  Only this
                </button>
              </div>
            );
          })}
          <button
            type="button"
            disabled={hidden.length === 0}
            className="mt-1 h-7 w-full rounded border-t border-line text-left px-1.5 hover:bg-field disabled:opacity-40"
            onClick={() => hide([], 'Show all parts')}
          >
            Show all
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Ways to check values without changing anything. */
function Checks() {
  const squint = useBench((s) => s.squint);
  const marks = useBench((s) => s.albedoMarks);
  return (
    <>
      <IconButton
        label="Squint: light and dark only"
        keys={keysFor('squint')}
        active={squint}
        onClick={() => useBench.setState({ squint: !squint })}
      >
        <Contrast size={14} />
      </IconButton>
      <IconButton
        label="Mark colours that no real surface has: blue too dark, red too light"
        keys={keysFor('albedo-marks')}
        active={marks}
        onClick={() => useBench.setState({ albedoMarks: !marks })}
      >
        <TriangleAlert size={14} />
      </IconButton>
    </>
  );
}

function Repeats() {
  const repeats = useBench((s) => s.document!.planeRepeats);
  return (
    <div className="w-48 px-2">
      <NumberField
        label="Repeats"
        value={repeats}
        min={1}
        max={16}
        reset={2}
        onCommit={(v) =>
          edit(
            { type: 'set-piece', before: { planeRepeats: repeats }, after: { planeRepeats: Math.round(v) } },
            'Repeats on the plane',
          )
        }
      />
    </div>
  );
}

export function FlatTools() {
  const wire = useBench((s) => s.wireOpacity);
  const isModel = useBench((s) => s.geometry !== null);
  const sheet = useBench((s) => (s.document ? currentSheet(s) : null));
  return (
    <div className="flex items-center gap-px rounded bg-panel/85">
      <IconButton label="Fit the sheet" keys="Shift F" onClick={fitFlat}>
        <Scan size={14} />
      </IconButton>
      <button
        type="button"
        className="figures h-7 rounded px-1.5 hover:bg-field"
        onClick={oneToOne}
        aria-label="One texel per pixel"
      >
        1:1
      </button>
      {isModel && (
        <Popover.Root>
          <Popover.Trigger asChild>
            <button type="button" className="inline-flex h-7 items-center gap-1 rounded px-1.5 text-[12px] hover:bg-field">
              <Grid3x3 size={14} /> Wire
            </button>
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content align="start" sideOffset={6} className={`${CARD} w-56`} aria-label="UV wireframe">
              <NumberField
                label="Opacity"
                unit="%"
                value={wire * 100}
                min={0}
                max={100}
                reset={25}
                onPreview={(v) => useBench.setState({ wireOpacity: v / 100 })}
                onCommit={(v) => useBench.setState({ wireOpacity: v / 100 })}
              />
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      )}
      <GuidesMenu />
      {sheet && (
        <span className="figures px-1.5 text-ink-soft">
          {sheet.width} × {sheet.height}
        </span>
      )}
    </div>
  );
}
