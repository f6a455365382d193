'use client';
/** The dense model that a bake is taken from: its file, how far it is looked for, which parts belong together. */
import { Upload, X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import type { Picture } from '@/core/document/schema';
import { BAKES } from '@/core/kinds/bakes';
import { twinUseSchema, type TwinUse } from '@/core/kinds/bakes/spec';
import { percent } from '@/core/kinds/control';
import { Choice } from '../../kit/Choice';
import { IconButton } from '../../kit/Button';
import { Switch } from '../../kit/Switch';
import { Controls } from '../Controls';
import { currentSheet, say, useBench } from '../store';
import { holder } from '../panes/viewportHolder';
import { sendTwin } from './api';
import { askFit, setBake, tryBake } from './commands';
import { Misses } from './Misses';
import { useModelSize } from './modelSize';
import { Pairs, pairsByName } from './Pairs';
import { sendMask, useShare } from './shares';

const REACHES = [
  { ...percent('outward', 'Outward', 0, 0.5), digits: 1, fine: true },
  { ...percent('inward', 'Inward', 0, 0.5), digits: 1, fine: true },
  percent('split', 'Hard edges'),
];
const MATCHES: { value: TwinUse['match']; label: string }[] = [
  { value: 'whole', label: 'Whole model' },
  { value: 'names', label: 'Parts by name' },
  { value: 'pairs', label: 'Pairs of parts, by hand' },
];

/** What can be painted: black is none of it, white all. */
const PAINTED = [
  { key: 'reachBy', label: 'Reach', none: 'The same everywhere', by: 'Painted by' },
  { key: 'splitBy', label: 'Directions', none: 'As “Hard edges” says', by: 'Hard by' },
] as const;

/** A dense model that lies elsewhere, at another scale or on another axis is noticed, and can be laid onto the model. */
function FitRow({ picture, twin, set }: { picture: Picture; twin: TwinUse; set: (next: TwinUse, label: string) => void }) {
  const [offer, setOffer] = useState<number[] | null>(null);
  const { file, place } = twin;
  useEffect(() => {
    let gone = false;
    setOffer(null);
    if (!place)
      askFit(picture.id)
        .then((fit) => !gone && setOffer(fit?.place ?? null))
        .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [picture.id, file, place]);
  if (!place && !offer) return null;
  return (
    <p className="flex items-center gap-2 py-0.5">
      <span className="flex-1 text-ink-soft">
        {place ? 'Laid onto the model.' : 'It lies elsewhere, at another scale or on another axis than the model.'}
      </span>
      <button
        type="button"
        className="h-6 shrink-0 rounded border border-line px-1.5 hover:bg-field"
        onClick={() => set({ ...twin, place: place ? null : offer }, place ? 'where it was' : 'laid onto the model')}
      >
        {place ? 'As it was' : 'Fit it'}
      </button>
    </p>
  );
}

/** The cage is shown over the model while it is on. */
function useCage(on: boolean, twin: TwinUse | null, size: number): void {
  const { outward = 0, split = 0, reachBy = null, splitBy = null } = twin ?? {};
  const reachShare = useShare(on ? reachBy : null);
  const splitShare = useShare(on ? splitBy : null);
  useEffect(() => {
    if (!on) return;
    holder.viewport?.setCage({ outward: outward * size, split, painted: { reach: reachShare, split: splitShare } });
    return () => holder.viewport?.setCage(null);
  }, [on, outward, split, size, reachShare, splitShare]);
}

export function TwinSection({ picture }: { picture: Picture }) {
  const [caged, setCaged] = useState(false);
  useCage(caged && picture.bake!.twin !== null, picture.bake!.twin, useModelSize());
  const { twin, settings } = picture.bake!;
  const input = useRef<HTMLInputElement>(null);
  const [sending, setSending] = useState<string | null>(null);
  const take = async (file: File) => {
    setSending(file.name);
    try {
      const { hash } = await sendTwin(file);
      const start = twin ?? {};
      setBake(picture.id, { twin: twinUseSchema.parse({ ...start, file: hash, name: file.name, place: null }) }, file.name);
    } catch (error) {
      say((error as Error).message);
    } finally {
      setSending(null);
    }
  };
  const set = (next: TwinUse, label: string) => setBake(picture.id, { twin: next }, label);
  /** Changes the use of the twin by something that has to be waited for. */
  const setLater = async (over: Promise<Partial<TwinUse>>, label: string) => {
    try {
      const change = await over;
      const now = currentSheet().pictures.find((p) => p.id === picture.id)?.bake?.twin;
      if (now) set({ ...now, ...change }, label);
    } catch (error) {
      say((error as Error).message);
    }
  };
  const masks = useBench((s) => currentSheet(s).masks);
  const paintedBy = (key: 'reachBy' | 'splitBy', mask: string) =>
    setLater(
      sendMask(mask).then((share) => ({ [key]: share })),
      mask ? 'painted by a mask' : 'the same everywhere',
    );
  const rematch = (match: TwinUse['match']) =>
    setLater(
      match === 'pairs' && twin?.pairs.length === 0
        ? pairsByName(picture.id).then((pairs) => ({ match, pairs }))
        : Promise.resolve({ match }),
      'another match',
    );
  return (
    <fieldset className="mt-1 min-w-0 space-y-0.5 border-t border-line pt-1">
      <div className="flex h-7 items-center gap-1">
        <span className="w-[84px] shrink-0 text-ink-soft">Dense model</span>
        <span className="min-w-0 flex-1 truncate" title={twin?.name}>
          {sending
            ? `Sending ${sending} …`
            : (twin?.name ?? (BAKES[settings.type].from.model ? 'none: from itself' : 'none yet'))}
        </span>
        <IconButton label="Choose its file: GLB, OBJ, PLY or STL" className="h-6 w-6" onClick={() => input.current?.click()}>
          <Upload size={13} />
        </IconButton>
        {twin && BAKES[settings.type].from.model && (
          <IconButton
            label="Bake from the model itself"
            className="h-6 w-6"
            onClick={() => setBake(picture.id, { twin: null }, 'from the model itself')}
          >
            <X size={13} />
          </IconButton>
        )}
        <input
          ref={input}
          type="file"
          hidden
          accept=".glb,.obj,.ply,.stl"
          aria-label="File of the dense model"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = '';
            if (file) void take(file);
          }}
        />
      </div>
      {twin && (
        <>
          <Controls
            controls={twin.splitBy ? REACHES.slice(0, 2) : REACHES}
            settings={twin}
            start={{ ...twin, outward: 0.02, inward: 0.02, split: 0 }}
            labelWidth="84px"
            onPreview={(next) => void tryBake(undefined, next)}
            onCommit={(next, { label }) => set(next, label.toLowerCase())}
          />
          {PAINTED.map(({ key, label, none, by }) => (
            <Choice
              key={key}
              label={label}
              labelWidth="84px"
              value={masks.some((m) => m.id === twin[key]?.mask) ? twin[key]!.mask : ''}
              options={[{ value: '', label: none }, ...masks.map((m) => ({ value: m.id, label: `${by} ${m.name}` }))]}
              onChange={(mask) => void paintedBy(key, mask)}
            />
          ))}
          <Choice
            label="Match"
            labelWidth="84px"
            value={twin.match}
            options={MATCHES}
            onChange={(match) => void rematch(match)}
          />
          {twin.match === 'pairs' && (
            <Pairs
              pictureId={picture.id}
              twin={twin}
              material={currentSheet().materialIndex}
              set={(pairs, label) => set({ ...twin, pairs }, label)}
            />
          )}
          <FitRow picture={picture} twin={twin} set={set} />
          <Switch label="Cage" checked={caged} onChange={setCaged} hint="Shows how far out it is looked for the dense model" />
          {picture.bake!.missed > 0 && <Misses picture={picture} />}
        </>
      )}
    </fieldset>
  );
}
