'use client';
/** Mirrored strokes: a switch with its sentence, and how they are mirrored. */
import { FlipHorizontal2 } from 'lucide-react';
import { MIRROR_AXES, MOST_RADIAL, type Mirror, type MirrorAxis } from '@/core/hand/mirror';
import { Chip } from '../../kit/Button';
import { FootPopup } from '../../kit/Popup';
import { Choice } from '../../kit/Choice';
import { Segments } from '../../kit/Segments';
import { Switch } from '../../kit/Switch';
import { NumberField } from '../../kit/NumberField';
import { keysFor } from '../keys/commands';
import { mirrorExtent, mirrorMiddle, setMirror, toggleMirror, useBench } from '../store';
import { mirrorSentence } from './sentences';

export function MirrorChip() {
  const mirror = useBench((s) => s.mirror);
  const on = useBench((s) => s.mirrored);
  const canvas = useBench((s) => s.geometry === null);
  const said = on ? mirrorSentence(mirror, canvas) : 'Off.';
  return (
    <FootPopup
      label="Mirror"
      tip={`Mirror strokes. ${said}`}
      keys={keysFor('mirror')}
      width="w-72"
      align="start"
      trigger={
        <Chip on={on} aria-label={`Mirror: ${said}`} className="shrink-0">
          <FlipHorizontal2 size={14} />
          {on ? short(mirror.axes, mirror.radial, canvas) : 'Mirror'}
        </Chip>
      }
    >
      <Switch label="Mirror strokes" checked={on} onChange={toggleMirror} hint="By place on the model: UVs need not be alike" />
      <p className="text-ink-soft">{mirrorSentence(mirror, canvas)}</p>
      <Planes axes={mirror.axes} canvas={canvas} />
      <NumberField
        label="Times around"
        labelWidth="84px"
        value={mirror.radial}
        min={1}
        max={MOST_RADIAL}
        reset={1}
        hint="So many images around an axis; 1: none."
        onCommit={(v) => setMirror({ radial: Math.round(v) })}
      />
      <Middle mirror={mirror} canvas={canvas} />
      {!canvas && mirror.radial > 1 && (
        <Choice
          label="Axis"
          labelWidth="84px"
          value={mirror.around}
          options={MIRROR_AXES.map((value) => ({ value, label: value.toUpperCase() }))}
          onChange={(around) => setMirror({ around })}
        />
      )}
    </FootPopup>
  );
}

const WORLD = [0, 0, 0] as const;

/** Where planes and axis meet. */
function Middle({ mirror, canvas }: { mirror: Mirror; canvas: boolean }) {
  const shown = useBench((s) => s.mirrorShown);
  const { at } = mirror;
  const kind = !at ? 'middle' : !canvas && at.every((v) => v === 0) ? 'world' : 'own';
  const unit = canvas ? 1 : 1000;
  const { min: low, max: high } = mirrorExtent();
  const size = Math.max(...high.map((v, k) => v - low[k]));
  const move = (k: number, v: number) => setMirror({ at: at!.map((old, n) => (n === k ? v / unit : old)) as typeof at });
  return (
    <div className="space-y-1">
      <div className="flex items-center gap-1">
        <span className="w-[84px] text-ink-soft">Through</span>
        <Segments
          label="Through"
          value={kind}
          options={[
            {
              value: 'middle',
              label: canvas ? 'Middle' : 'Model',
              hint: canvas ? 'The middle of the canvas' : 'The middle of the model',
            },
            ...(canvas
              ? []
              : [{ value: 'world' as const, label: 'World', hint: 'The origin of the space that the model stands in' }]),
            { value: 'own', label: 'Own', hint: 'A place of your own: drag the handle of a plane, or type it' },
          ]}
          onChange={(next: 'middle' | 'world' | 'own') =>
            setMirror({
              at: next === 'middle' ? undefined : next === 'world' ? [...WORLD] : ([...mirrorMiddle()] as Mirror['at']),
            })
          }
        />
      </div>
      {kind === 'own' &&
        MIRROR_AXES.slice(0, canvas ? 2 : 3).map((axis, k) => (
          <NumberField
            key={axis}
            label={axis.toUpperCase()}
            labelWidth="84px"
            unit={canvas ? 'tx' : 'mm'}
            value={at![k] * unit}
            min={(low[k] - size) * unit}
            max={(high[k] + size) * unit}
            reset={0}
            onPreview={(v) => move(k, v)}
            onCommit={(v) => move(k, v)}
          />
        ))}
      <Switch
        label="Show planes"
        checked={shown}
        onChange={(mirrorShown) => useBench.setState({ mirrorShown })}
        hint="Drawn over the work, each with a handle that moves it"
      />
    </div>
  );
}

const short = (axes: readonly MirrorAxis[], radial: number, canvas: boolean) =>
  [
    MIRROR_AXES.filter((a) => axes.includes(a) && !(canvas && a === 'z'))
      .join('')
      .toUpperCase(),
    radial > 1 ? `× ${radial}` : '',
  ]
    .filter(Boolean)
    .join(' ') || 'Mirror';

function Planes({ axes, canvas }: { axes: readonly MirrorAxis[]; canvas: boolean }) {
  const toggle = (axis: MirrorAxis) =>
    setMirror({ axes: axes.includes(axis) ? axes.filter((a) => a !== axis) : [...axes, axis] });
  return (
    <div role="group" aria-label="Across" className="flex items-center gap-1">
      <span className="w-[84px] text-ink-soft">Across</span>
      {(canvas ? MIRROR_AXES.slice(0, 2) : MIRROR_AXES).map((axis) => (
        <button
          key={axis}
          type="button"
          aria-pressed={axes.includes(axis)}
          onClick={() => toggle(axis)}
          className={`h-7 w-8 rounded border ${axes.includes(axis) ? 'border-accent bg-accent-wash text-accent-ink' : 'border-line bg-raised hover:bg-field'}`}
        >
          {axis.toUpperCase()}
        </button>
      ))}
    </div>
  );
}
