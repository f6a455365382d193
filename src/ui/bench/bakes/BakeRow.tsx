'use client';
/** One bake: its picture, how far it is, and, opened, how it is set. */
import { ChevronDown, ChevronRight, Eye, Layers, Play, Square, Trash2 } from 'lucide-react';
import { bakeState, specOf } from '@/core/document/bake';
import type { Picture, Sheet } from '@/core/document/schema';
import { BAKES, type BakeSettings } from '@/core/kinds/bakes';
import { specText } from '@/core/kinds/bakes/spec';
import { SUPERSAMPLES, type Supersample } from '@/core/rays/points';
import { secondsLeft, type BakeStatus } from '@/core/kinds/bakes/status';
import { Choice } from '../../kit/Choice';
import { IconButton } from '../../kit/Button';
import { Controls } from '../Controls';
import { SmallPictureView } from '../pictures/SmallPictureView';
import { useBench, work } from '../store';
import { useSmallPicture } from '../pictures/thumbnails';
import { cancelBake, choose, layBake, lookAt, removeBake, runBake, setBake, tryBake } from './commands';
import { useModelSize } from './modelSize';
import { TwinSection } from './TwinSection';
import { useBakes } from './watch';

const SIDES = [128, 256, 512, 1024, 2048, 4096] as const;

export function BakeRow({ sheet, picture }: { sheet: Sheet; picture: Picture }) {
  const piece = useBench((s) => s.document!);
  const chosen = useBench((s) => s.bakes.chosen === picture.id);
  const looked = useBench((s) => s.bakeLook === picture.id);
  const spec = specOf(piece, sheet, picture);
  const status = useBakes((s) => (spec ? s.states[specText(spec)] : undefined));
  const state = bakeState(piece, sheet, picture);
  const busy = status?.state === 'waiting' || status?.state === 'running';
  return (
    <div className={`border-b border-line ${chosen ? 'bg-raised' : ''}`}>
      <div className="flex h-9 items-center gap-1.5 pr-1 pl-1">
        <button
          type="button"
          aria-expanded={chosen}
          aria-label={`${picture.name}: settings`}
          onClick={() => {
            choose(chosen ? null : picture.id);
            if (!chosen && state !== 'file') void tryBake();
          }}
          className="flex min-w-0 flex-1 items-center gap-1.5 rounded text-left hover:bg-field"
        >
          {chosen ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
          <Thumb id={picture.id} />
          <span className="min-w-0 flex-1 truncate leading-tight">
            {picture.name}
            <span className="block truncate text-[11.5px]">
              <StateLine state={state} status={status} missed={picture.bake!.missed} />
            </span>
          </span>
        </button>
        <IconButton
          label={looked ? 'Back to the work' : 'Look at it in both panes'}
          active={looked}
          className="h-6 w-6"
          disabled={state === 'none'}
          onClick={() => lookAt(picture.id)}
        >
          <Eye size={14} />
        </IconButton>
        <IconButton
          label="Lay it down as a layer: paint goes over it"
          className="h-6 w-6"
          disabled={state === 'none'}
          onClick={() => layBake(picture.id)}
        >
          <Layers size={13} />
        </IconButton>
        {busy ? (
          <IconButton label={`Cancel baking ${picture.name}`} className="h-6 w-6" onClick={() => void cancelBake(status.key)}>
            <Square size={12} />
          </IconButton>
        ) : (
          <IconButton
            label={state === 'baked' ? 'It is up to date' : `Bake ${picture.name}`}
            className="h-6 w-6"
            disabled={state === 'baked' || state === 'file'}
            onClick={() => void runBake(picture.id)}
          >
            <Play size={13} />
          </IconButton>
        )}
      </div>
      {busy && (
        <div className="mx-2 mb-1 h-1 overflow-hidden rounded bg-line">
          <div
            className="h-full bg-accent"
            style={{ width: `${status.tiles ? Math.max(2, (100 * status.done) / status.tiles) : 1}%` }}
          />
        </div>
      )}
      {chosen && <BakeFields sheet={sheet} picture={picture} />}
    </div>
  );
}

function Thumb({ id }: { id: string }) {
  const small = useSmallPicture({ of: 'picture', pictureId: id });
  return small ? (
    <SmallPictureView picture={small} className="h-6 w-6 shrink-0 rounded-sm border border-line" />
  ) : (
    <span aria-hidden className="h-6 w-6 shrink-0 rounded-sm border border-dashed border-line" />
  );
}

function StateLine({ state, status, missed }: { state: string; status: BakeStatus | undefined; missed: number }) {
  if (status?.state === 'waiting') return <span className="text-ink-soft">waits for a worker</span>;
  if (status?.state === 'running') {
    const share = status.tiles ? Math.round((100 * status.done) / status.tiles) : 0;
    const left = secondsLeft(status);
    return (
      <span className="figures text-ink-soft">
        {share} %{left !== null && `, about ${left} s left`}
      </span>
    );
  }
  if (status?.state === 'failed')
    return (
      <span className="text-fault" title={status.message ?? ''}>
        {status.message}
      </span>
    );
  if (status?.state === 'cancelled' && state !== 'baked') return <span className="text-ink-soft">cancelled</span>;
  if (state === 'file') return <span className="text-ink-soft">baked elsewhere</span>;
  if (state === 'none') return <span className="text-ink-soft">not baked yet</span>;
  if (state === 'stale') return <span className="text-fault">out of date: bake it anew</span>;
  if (missed > 0) return <span className="figures text-fault">{missed.toLocaleString('en')} texels missed the dense model</span>;
  return <span className="text-kept">up to date</span>;
}

/** How it is set: the controls of its kind, then what all bakes have. */
export function BakeFields({ sheet, picture }: { sheet: Sheet; picture: Picture }) {
  const bake = picture.bake!;
  const { settings, supersample } = bake;
  const def = BAKES[settings.type];
  const size = useModelSize();
  if (bake.made === 'file')
    return (
      <div className="flex items-center justify-between px-3 pb-2 text-ink-soft">
        <span className="figures">
          {picture.width} × {picture.height}
        </span>
        {def.tangentSpace && (
          <button
            type="button"
            title="Y up becomes Y down, and the other way round; glTF has it up"
            className="h-6 rounded border border-line px-1.5 text-ink hover:bg-field"
            onClick={() => work({ do: 'turn-normal-y', sheetId: sheet.id, pictureId: picture.id })}
          >
            Turn Y
          </button>
        )}
        <DeleteBake id={picture.id} />
      </div>
    );
  const long = Math.max(picture.width, picture.height);
  return (
    <div className="space-y-0.5 px-3 pb-2" data-testid="bake-settings">
      <p className="pb-0.5 text-ink-soft">{def.hint}</p>
      <Controls<BakeSettings>
        controls={def.controls}
        settings={settings}
        start={def.start}
        labelWidth="84px"
        onPreview={(next) => void tryBake(next)}
        onCommit={(next, { label }) => setBake(picture.id, { settings: next }, label.toLowerCase())}
      />
      <LengthHint settings={settings} size={size} />
      <Choice
        label="Size"
        labelWidth="84px"
        value={String(long)}
        options={[...new Set([...SIDES, long])].sort((a, b) => a - b).map((n) => ({ value: String(n), label: `${n}` }))}
        onChange={(v) => {
          const scale = Number(v) / Math.max(sheet.width, sheet.height);
          const [width, height] = [sheet.width, sheet.height].map((n) => Math.max(16, Math.round(n * scale)));
          setBake(picture.id, { width, height }, `${width} × ${height}`);
        }}
      />
      <Choice
        label="Supersample"
        labelWidth="84px"
        value={String(supersample)}
        options={SUPERSAMPLES.map((n) => ({ value: String(n), label: n === 1 ? 'Off' : `${n} × ${n}` }))}
        onChange={(v) => setBake(picture.id, { supersample: Number(v) as Supersample }, 'supersampling')}
      />
      {def.from.twin && <TwinSection picture={picture} />}
      <div className="flex items-center justify-between pt-0.5">
        <span className="text-[11.5px] text-ink-soft">Both panes show a first try, small and rough.</span>
        <DeleteBake id={picture.id} />
      </div>
    </div>
  );
}

const DeleteBake = ({ id }: { id: string }) => (
  <IconButton label="Delete this bake" className="h-6 w-6" onClick={() => removeBake(id)}>
    <Trash2 size={13} />
  </IconButton>
);

/** What a share of the model is in its own units. */
function LengthHint({ settings, size }: { settings: BakeSettings; size: number }) {
  const key = ['reach', 'radius', 'width', 'span'].find((k) => k in settings);
  if (!key) return null;
  const length = (settings as unknown as Record<string, number>)[key] * size;
  return (
    <p className="figures pl-[92px] text-[11.5px] text-ink-soft">
      {length.toPrecision(3)} model units of {size.toPrecision(3)}
    </p>
  );
}
