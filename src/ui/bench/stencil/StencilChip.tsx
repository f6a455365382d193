'use client';
/** Stencils: the one in hand with its switch, those that are kept with the piece, and how they lie. */
import { FlipHorizontal2, Image as ImageIcon, Plus } from 'lucide-react';
import type { KeptStencil, StencilUse } from '@/core/document/stencil';
import { FootPopup } from '../../kit/Popup';
import { Choice } from '../../kit/Choice';
import { Chip, IconButton } from '../../kit/Button';
import { Segments } from '../../kit/Segments';
import { Switch } from '../../kit/Switch';
import { Tip } from '../../kit/Tip';
import { NumberField } from '../../kit/NumberField';
import { PercentField } from '../../kit/PercentField';
import { keysFor } from '../keys/commands';
import { KeptRow } from '../kept/KeptRow';
import { chooseFiles } from '../pictures/pictureSet';
import { SourcePicker } from '../sources/SourcePicker';
import { keptStencil, say, useBench } from '../store';
import {
  addPictureStencil,
  addRuleStencil,
  deleteStencil,
  renameStencil,
  resetStencil,
  setGhost,
  setStencil,
  showStencil,
  takeStencil,
} from './commands';

const USES: Record<StencilUse, string> = {
  colour: 'its own colours',
  alpha: 'paint, through its alpha',
  luminance: 'paint, through its light',
};

export function StencilChip() {
  const kept = useBench((s) => keptStencil(s));
  const on = useBench((s) => (s.stencil?.on ?? false) && keptStencil(s) !== null);
  const said = on ? `${kept!.name}, ${USES[kept!.stencil.use]}` : 'off';
  return (
    <FootPopup
      label="Stencils"
      tip={on ? `Stencil: ${said}` : 'Stencil: paint a picture, or through one'}
      keys={keysFor('stencil')}
      width="w-80"
      trigger={
        <Chip on={on} aria-label={`Stencil: ${said}`} className="min-w-0 max-w-40 shrink">
          <ImageIcon size={14} className="shrink-0" />
          <span className="truncate">{on ? kept!.name : 'Stencil'}</span>
        </Chip>
      }
    >
      <StencilBox />
    </FootPopup>
  );
}

function StencilBox() {
  const all = useBench((s) => s.document!.stencils);
  const inHand = useBench((s) => s.stencil);
  const kept = useBench((s) => keptStencil(s));
  return (
    <>
      <div className="flex items-center gap-1">
        <span className="flex-1 font-semibold">Stencils of this piece</span>
        <Tip label="A picture from a file">
          <button
            type="button"
            className="inline-flex h-6 items-center gap-1 rounded px-1.5 hover:bg-field"
            onClick={() =>
              chooseFiles(false, ([file]) => void addPictureStencil(file).catch((e: unknown) => say((e as Error).message)))
            }
          >
            <Plus size={13} /> Picture
          </button>
        </Tip>
        <SourcePicker onPick={addRuleStencil}>
          <button type="button" className="inline-flex h-6 items-center gap-1 rounded px-1.5 hover:bg-field">
            <Plus size={13} /> Rule
          </button>
        </SourcePicker>
      </div>
      {all.length === 0 && (
        <p className="text-ink-soft">None yet. A picture or a rule lies over the work, and paint goes through it.</p>
      )}
      {all.map((s) => (
        <KeptRow
          key={s.id}
          name={s.name}
          what="stencil"
          title="Put it on, or off"
          on={inHand?.id === s.id && inHand.on}
          chosen={inHand?.id === s.id}
          onTake={() => takeStencil(s.id)}
          onRename={(name) => renameStencil(s, name)}
          onDelete={() => deleteStencil(s)}
        />
      ))}
      {kept && <Settings kept={kept} />}
    </>
  );
}

function Settings({ kept: { stencil, ghost } }: { kept: KeptStencil }) {
  const onModel = useBench((s) => s.geometry !== null);
  return (
    <div className="space-y-1 border-t border-line pt-2">
      <Choice
        label="Paints"
        value={stencil.use}
        options={(Object.keys(USES) as StencilUse[]).map((value) => ({ value, label: USES[value] }))}
        onChange={(use) => setStencil({ use }, USES[use])}
      />
      <div className="flex items-center gap-2">
        <span className="w-[68px] text-ink-soft">Lies over</span>
        <Segments
          label="Lies over"
          value={stencil.over}
          options={[
            ...(onModel ? [{ value: 'view' as const, label: 'The view', hint: 'It stays while the model turns' }] : []),
            { value: 'sheet', label: 'The sheet', hint: 'It lies on the flat sheet' },
          ]}
          onChange={(over: 'view' | 'sheet') =>
            setStencil(
              over === 'view' ? { over, x: 0, y: 0, size: 0.5 } : { over, x: 0.5, y: 0.5, size: 0.4 },
              `over the ${over}`,
            )
          }
        />
      </div>
      <PercentField
        label="Height"
        labelWidth="68px"
        min={0.01}
        max={4}
        curve="fine"
        reset={0.5}
        value={stencil.size}
        onPreview={(v) => showStencil({ size: v })}
        onCommit={(v) => setStencil({ size: v }, 'scaled')}
      />
      <NumberField
        label="Angle"
        labelWidth="68px"
        unit="°"
        min={-180}
        max={180}
        reset={0}
        value={stencil.angle}
        onPreview={(v) => showStencil({ angle: v })}
        onCommit={(v) => setStencil({ angle: v }, 'turned')}
      />
      <PercentField
        label="Ghost"
        labelWidth="68px"
        reset={0.5}
        value={ghost}
        hint="How strongly it is seen; paint does not hang on it."
        onPreview={() => {}}
        onCommit={(v) => setGhost(v)}
      />
      {stencil.use !== 'colour' && (
        <PercentField
          label="Cut at"
          labelWidth="68px"
          reset={0}
          value={stencil.cut ?? 0}
          hint="Above 0 it is cut: what lets more through lets all through, the rest nothing. 0: soft."
          onPreview={(v) => showStencil({ cut: v > 0 ? v : null })}
          onCommit={(v) => setStencil({ cut: v > 0 ? v : null }, v > 0 ? 'cut' : 'soft')}
        />
      )}
      <div className="flex items-center gap-1">
        <Switch label="Tiled" checked={stencil.tiled} onChange={(tiled) => setStencil({ tiled }, tiled ? 'tiled' : 'once')} />
        {stencil.use !== 'colour' && (
          <Switch label="Invert" checked={stencil.invert} onChange={(invert) => setStencil({ invert }, 'turned round')} />
        )}
        <span className="flex-1" />
        <IconButton
          label="Flip left and right"
          active={stencil.flip}
          onClick={() => setStencil({ flip: !stencil.flip }, 'flipped')}
        >
          <FlipHorizontal2 size={14} />
        </IconButton>
        <button type="button" className="h-6 rounded px-1.5 hover:bg-field" onClick={resetStencil}>
          Put back
        </button>
      </div>
    </div>
  );
}
