'use client';
/** The small tools in the corner of each pane: framing, sides, parts; fit, 1:1, wire. */
import {
  Box,
  Contrast,
  Cuboid,
  Eye,
  EyeOff,
  FlipHorizontal2,
  Focus,
  Grid3x3,
  Pin as PinIcon,
  Scan,
  Shapes,
  TriangleAlert,
} from 'lucide-react';
import type { Sheet } from '@/core/document/schema';
import { Popup } from '../../kit/Popup';
import { IconButton, PaneButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { NumberField } from '../../kit/NumberField';
import { PercentField } from '../../kit/PercentField';
import { fitFlat, frameModel, keysFor, lookFrom, oneToOne, toggleForm, turnFlat } from '../keys/commands';
import { GuidesMenu } from './GuideLines';
import { hide as hideParts, showAll } from '../fence/commands';
import { edit, currentSheet, useBench } from '../store';
import { useView } from './useView';

export function ModelTools() {
  const wraps = useBench((s) => s.document?.sheets.some(({ wrapU, wrapV }) => wrapU || wrapV));
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
      {isModel ? <Parts /> : wraps && <Repeats />}
      <Checks />
    </div>
  );
}

function Parts() {
  const parts = useBench((s) => s.geometry!.parts);
  const hidden = useBench((s) => s.document!.hiddenParts);
  const faces = useBench((s) => s.document!.hiddenFaces);
  const hide = (names: string[], label: string) => hideParts(names, faces, label);
  const count = faces.reduce((n, [from, to]) => n + to - from + 1, 0);
  const anything = hidden.length + count > 0;
  return (
    <Popup
      label="Parts of the model"
      className="w-56 p-2"
      maxHeight="20rem"
      trigger={
        <PaneButton active={anything}>
          <Box size={14} /> Parts{hidden.length > 0 ? ` · ${hidden.length} hidden` : count > 0 ? ' · faces hidden' : ''}
        </PaneButton>
      }
    >
      {parts.map((part) => {
        const off = hidden.includes(part);
        return (
          <div key={part} className="group flex items-center rounded hover:bg-field">
            <button
              type="button"
              aria-label={`${off ? 'Show' : 'Hide'} ${part}`}
              className="flex h-7 min-w-0 flex-1 items-center gap-2 px-1.5 text-left"
              onClick={() => hide(off ? hidden.filter((h) => h !== part) : [...hidden, part], `${off ? 'Show' : 'Hide'} ${part}`)}
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
        disabled={!anything}
        className="mt-1 h-7 w-full rounded border-t border-line text-left px-1.5 hover:bg-field disabled:opacity-40"
        onClick={showAll}
      >
        Show all{count > 0 && ` (${count.toLocaleString('en')} faces are hidden)`}
      </button>
    </Popup>
  );
}

/** Ways to check values without changing anything. */
function Checks() {
  const squint = useBench((s) => s.squint);
  const marks = useBench((s) => s.albedoMarks);
  const form = useBench((s) => s.form && s.view !== 'lit');
  const isModel = useBench((s) => s.geometry !== null);
  const pins = useBench((s) => s.pins.open);
  const bakes = useBench((s) => s.bakes.open);
  return (
    <>
      <IconButton
        label="Pinboard: reference pictures"
        keys={keysFor('pins')}
        active={pins}
        onClick={() => useBench.setState((s) => ({ pins: { ...s.pins, open: !s.pins.open } }))}
      >
        <PinIcon size={14} />
      </IconButton>
      <IconButton
        label="Bakes: mesh maps of the model"
        keys={keysFor('bakes')}
        active={bakes}
        onClick={() => useBench.setState((s) => ({ bakes: { ...s.bakes, open: !s.bakes.open } }))}
      >
        <Shapes size={14} />
      </IconButton>
      {isModel && (
        <IconButton
          label="Unlit, with form: hollows of the model dark, no light"
          keys={keysFor('form')}
          active={form}
          onClick={toggleForm}
        >
          <Cuboid size={14} />
        </IconButton>
      )}
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

/** How the flat sheet lies on the screen, while it is turned or flipped; and back. */
function Turned() {
  const { viewport } = useView(true);
  const [angle, flipped] = viewport ? [viewport.flatCamera.angle, viewport.flatCamera.flipped] : [0, false];
  return (
    <>
      <IconButton
        label="Flip the flat sheet, as in a mirror"
        keys={keysFor('flip-flat')}
        active={flipped}
        onClick={() => turnFlat('flip')}
      >
        <FlipHorizontal2 size={14} />
      </IconButton>
      {(angle !== 0 || flipped) && (
        <Tip label="Turned and flipped: click to lay it straight. Shift and right drag turns it" keys={keysFor('upright')}>
          <button
            type="button"
            className="figures h-7 rounded px-1.5 text-accent-ink hover:bg-field"
            onClick={() => turnFlat('upright')}
          >
            {Math.round((angle * 180) / Math.PI)}°
          </button>
        </Tip>
      )}
    </>
  );
}

/** The next odd number, so that the sheet itself lies in the middle. */
const oddTowards = (v: number, from: number) => 2 * Math[v > from ? 'ceil' : 'floor']((v - 1) / 2) + 1;

/** How often a sheet that wraps is seen around itself. */
function FlatRepeats({ sheet }: { sheet: Pick<Sheet, 'wrapU' | 'wrapV'> }) {
  const repeats = useBench((s) => s.flatRepeats);
  const shown = [sheet.wrapU ? repeats[0] : 1, sheet.wrapV ? repeats[1] : 1];
  const field = (axis: 0 | 1, label: string) => {
    const set = (v: number) =>
      useBench.setState({ flatRepeats: repeats.with(axis, oddTowards(v, repeats[axis])) as [number, number] });
    return <NumberField label={label} min={1} max={9} reset={3} value={repeats[axis]} onPreview={set} onCommit={set} />;
  };
  return (
    <Popup
      label="Repeats in the flat pane"
      tip="How often the sheet is seen around itself; all of them can be painted on"
      beside
      className="w-56 space-y-1 p-2"
      trigger={
        <button
          type="button"
          aria-label={`Repeats in the flat pane: ${shown.join(' × ')}`}
          className="figures h-7 rounded px-1.5 hover:bg-field"
        >
          {shown.join(' × ')}
        </button>
      }
    >
      {sheet.wrapU && field(0, 'Across')}
      {sheet.wrapV && field(1, 'Down')}
    </Popup>
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
        aria-label="1:1, one texel per pixel"
      >
        1:1
      </button>
      {isModel && (
        <Popup
          label="UV wireframe"
          className="w-56 p-2"
          trigger={
            <PaneButton>
              <Grid3x3 size={14} /> Wire
            </PaneButton>
          }
        >
          <PercentField
            label="Opacity"
            value={wire}
            reset={0.25}
            onPreview={(v) => useBench.setState({ wireOpacity: v })}
            onCommit={(v) => useBench.setState({ wireOpacity: v })}
          />
        </Popup>
      )}
      {sheet && (sheet.wrapU || sheet.wrapV) && <FlatRepeats sheet={sheet} />}
      <GuidesMenu />
      <Turned />
      {sheet && (
        <span className="figures px-1.5 text-ink-soft">
          {sheet.width} × {sheet.height}
        </span>
      )}
    </div>
  );
}
