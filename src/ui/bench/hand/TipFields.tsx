'use client';
/** The tip: its outline or its picture, how it is turned, how its dabs follow each other. */
import { ImagePlus, Scan } from 'lucide-react';
import { MOST_DABS } from '@/core/hand/brush';
import { DRAWN, type DrawnPicture } from '@/core/hand/pictures/drawn';
import { DITHERS, DITHER_TYPES } from '@/core/hand/dither';
import { LEAST_ROUNDNESS } from '@/core/hand/tip';
import { Choice } from '../../kit/Choice';
import { IconButton } from '../../kit/Button';
import { Segments } from '../../kit/Segments';
import { Switch } from '../../kit/Switch';
import { CurveBox } from '../filters/CurveEditor';
import { FileButton } from '../../kit/FileButton';
import { NumberField, type NumberFieldProps } from '../../kit/NumberField';
import { useCapture } from '../pointer/capture';
import { importTip, setBrush, useBench } from '../store';
import { Percent } from './Percent';

const WIDTH = '72px';
const NO_DITHER = 'none';
const FIRST_PICTURE = 'made:bristle';

export function TipFields() {
  const tip = useBench((s) => s.brush.tip);
  const isModel = useBench((s) => s.geometry !== null);
  const sizeUnit = useBench((s) => s.brush.sizeUnit);
  const set = (change: Partial<typeof tip>) => setBrush({ tip: { ...useBench.getState().brush.tip, ...change } });
  return (
    <section aria-label="Tip" className="mb-2 space-y-0.5">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Segments
          label="Tip"
          value={tip.shape}
          options={[
            { value: 'round', label: 'Round' },
            { value: 'square', label: 'Square' },
            { value: 'picture', label: 'Picture' },
          ]}
          onChange={(shape) => set({ shape, ...(shape === 'picture' && { picture: tip.picture ?? FIRST_PICTURE, grid: false }) })}
        />
        {tip.shape !== 'picture' && (
          <Switch
            label="Texel grid"
            checked={tip.grid}
            onChange={(grid) => set({ grid })}
            hint="Whole texels without soft edges, for small sheets"
          />
        )}
      </div>
      {tip.shape === 'picture' && (
        <PictureChoice picture={tip.picture ?? FIRST_PICTURE} onChange={(picture) => set({ picture })} />
      )}
      {tip.shape !== 'picture' && !tip.grid && <Edge />}
      {tip.grid && (
        <Choice
          label="Dither"
          labelWidth={WIDTH}
          value={tip.dither ?? NO_DITHER}
          options={[
            { value: NO_DITHER, label: 'None' },
            ...DITHER_TYPES.map((value) => ({ value, label: DITHERS[value].label })),
          ]}
          onChange={(to) => set({ dither: to === NO_DITHER ? undefined : to })}
        />
      )}
      <Segments
        label="The size is kept"
        value={sizeUnit}
        options={[
          { value: 'screen', label: 'On screen', hint: 'The tip keeps its size on the screen, whatever the zoom' },
          {
            value: 'model',
            label: isModel ? 'On model' : 'On canvas',
            hint: 'The tip keeps its size in millimetres on the surface. A canvas counts as 1 m wide',
          },
          { value: 'texel', label: 'In texels', hint: 'The tip keeps its size in texels of the sheet' },
        ]}
        onChange={(v) => setBrush({ sizeUnit: v })}
      />
      <Percent
        label="Roundness"
        labelWidth={WIDTH}
        value={tip.roundness}
        min={LEAST_ROUNDNESS}
        reset={1}
        hint="Short side of the tip beside its long side."
        onChange={(roundness) => set({ roundness })}
      />
      <NumberField
        label="Angle"
        labelWidth={WIDTH}
        unit="°"
        value={tip.angle}
        min={-180}
        max={180}
        reset={0}
        hint="How the tip is turned, clockwise."
        onPreview={(angle) => set({ angle })}
        onCommit={(angle) => set({ angle })}
      />
      <StrokeFields />
    </section>
  );
}

/** How soft it is from its middle to its rim: by one number in the hand, or along a curve here. */
function Edge() {
  const tip = useBench((s) => s.brush.tip);
  const hardness = useBench((s) => s.brush.hardness);
  const set = (edge: typeof tip.edge) => setBrush({ tip: { ...useBench.getState().brush.tip, edge } });
  return (
    <>
      <Switch
        label="Hardness along a curve"
        checked={tip.edge !== undefined}
        onChange={(on) => set(on ? curveOf(hardness) : undefined)}
        hint="From the middle, on the left, to the rim: how much the tip gives there"
      />
      {tip.edge && <CurveBox given={tip.edge} className="h-24" onPreview={set} onCommit={set} />}
    </>
  );
}

/** A curve to begin with, about as hard as a number says. */
function curveOf(hardness: number): [number, number][] {
  const full = Math.min(0.95, hardness);
  return full > 0.05
    ? [
        [0, 1],
        [full, 1],
        [1, 0],
      ]
    : [
        [0, 1],
        [1, 0],
      ];
}

/** Pictures that Brindle draws, and one of one's own. */
function PictureChoice({ picture, onChange }: { picture: string; onChange: (picture: string) => void }) {
  const drawn = (Object.keys(DRAWN) as DrawnPicture[]).map((name) => ({ value: `made:${name}`, label: DRAWN[name].label }));
  const own = picture.startsWith('made:') ? [] : [{ value: picture, label: 'Your own' }];
  return (
    <div className="flex items-center gap-1">
      <div className="min-w-0 flex-1">
        <Choice label="Picture" labelWidth={WIDTH} value={picture} options={[...own, ...drawn]} onChange={onChange} />
      </div>
      <FileButton
        label="A picture of your own: its dark parts, or its alpha, paint"
        what="Picture of the tip"
        accept="image/*,.tga,.dds,.hdr,.exr"
        onFile={(file) => void importTip(file)}
      >
        <ImagePlus size={14} />
      </FileButton>
      <IconButton
        label="A tip out of what is seen: drag a rectangle over either pane"
        onClick={() => useCapture.setState({ on: true })}
      >
        <Scan size={14} />
      </IconButton>
    </div>
  );
}

/** How dabs follow each other, and the hand. */
function StrokeFields() {
  const { spacing, smoothing, string, dabs, rate, tip } = useBench((s) => s.brush);
  return (
    <>
      <Percent
        label="Spacing"
        labelWidth={WIDTH}
        value={spacing}
        min={0.02}
        max={2}
        reset={0.12}
        hint="Distance of the dabs, in diameters."
        onChange={(v) => setBrush({ spacing: v })}
      />
      <Whole
        label="Dabs a step"
        value={dabs}
        min={1}
        max={MOST_DABS}
        hint="Several at each place: scatter tells them apart."
        onChange={(dabs) => setBrush({ dabs })}
      />
      <Whole
        label="While at rest"
        value={rate}
        unit="/s"
        max={60}
        hint="Dabs a second while the pen is held still; 0: none."
        onChange={(rate) => setBrush({ rate })}
      />
      {/* On the grid the hand goes from texel to texel. */}
      {!tip.grid && (
        <>
          <Percent
            label="Smoothing"
            labelWidth={WIDTH}
            value={smoothing}
            reset={0.3}
            hint="Calms an unsteady hand; the end catches up."
            onChange={(v) => setBrush({ smoothing: v })}
          />
          <Whole
            label="String"
            value={string}
            unit="px"
            max={200}
            hint="The pen pulls the tip on a string of this length; 0: none."
            onChange={(string) => setBrush({ string })}
          />
        </>
      )}
    </>
  );
}

/** A whole number, from 0 or what is least. */
function Whole({
  min = 0,
  onChange,
  ...rest
}: Pick<NumberFieldProps, 'label' | 'value' | 'unit' | 'max' | 'hint'> & { min?: number; onChange: (v: number) => void }) {
  const set = (v: number) => onChange(Math.round(v));
  return <NumberField labelWidth={WIDTH} min={min} reset={min} onPreview={set} onCommit={set} {...rest} />;
}
