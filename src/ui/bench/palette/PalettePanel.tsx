'use client';
/** Palettes: the colours at hand, those that are kept with the piece, where they come from and go to. */
import { ArrowDownUp, MoreHorizontal, Palette as PaletteIcon, Plus, X } from 'lucide-react';
import { useState } from 'react';
import { PALETTE_FORMATS, type Swatch } from '@/core/colour/palette';
import type { KeptPalette } from '@/core/document/schema';
import { FootPopup } from '../../kit/Popup';
import { Menu, MenuItem, MenuNote } from '../../kit/Menu';
import { IconButton } from '../../kit/Button';
import { Switch } from '../../kit/Switch';
import { NameInput } from '../../kit/NameInput';
import { NumberField } from '../../kit/NumberField';
import { chooseFiles } from '../pictures/pictureSet';
import { say, setWell, useBench } from '../store';
import {
  addToPalette,
  deletePalette,
  exportPalette,
  importPalette,
  keepToPalette,
  isLight,
  keepPalette,
  otherPieces,
  paletteOfPicture,
  paletteOfWork,
  palettesFrom,
  removeFromPalette,
  renamePalette,
  sortPalette,
  takePalette,
  type OtherPiece,
} from './commands';

const told = (done: Promise<void>) => void done.catch((error: unknown) => say((error as Error).message));

export function PaletteButton() {
  const only = useBench((s) => s.document?.onlyPalette && s.document.palette.length > 0);
  return (
    <FootPopup
      label="Palettes"
      tip={only ? 'Palettes: paint keeps to the colours at hand' : 'Palettes: colours out of pictures, kept, sorted, shared'}
      width="w-80"
      trigger={
        <button
          type="button"
          aria-label="Palettes"
          className={`inline-flex h-6 w-6 shrink-0 items-center justify-center rounded-sm border hover:bg-field data-[state=open]:border-accent ${only ? 'border-accent text-accent-ink' : 'border-line'}`}
        >
          <PaletteIcon size={11} />
        </button>
      }
    >
      <PaletteBox />
    </FootPopup>
  );
}

function PaletteBox() {
  const palette = useBench((s) => s.document!.palette);
  const kept = useBench((s) => s.document!.palettes);
  const only = useBench((s) => s.document!.onlyPalette);
  const well = useBench((s) => s.wells[0]);
  const swatches = palette.map((colour): Swatch => ({ colour }));
  return (
    <>
      <div className="flex items-center gap-0.5">
        <span className="flex-1 font-semibold">At hand</span>
        <IconButton
          label="Add the active well"
          className="h-6 w-6"
          disabled={palette.includes(well)}
          onClick={() => addToPalette(well)}
        >
          <Plus size={14} />
        </IconButton>
        <Menu
          align="end"
          trigger={
            <IconButton label="Sort the colours" className="h-6 w-6">
              <ArrowDownUp size={13} />
            </IconButton>
          }
        >
          {(['lightness', 'hue'] as const).map((by) => (
            <MenuItem key={by} onSelect={() => sortPalette(by)}>
              By {by}
            </MenuItem>
          ))}
        </Menu>
        <ExportMenu name="Palette" swatches={swatches} />
        <button type="button" className="h-6 rounded px-1.5 hover:bg-field" onClick={() => keepPalette('Palette', swatches)}>
          Keep
        </button>
      </div>
      {palette.length === 0 ? (
        <p className="text-ink-soft">No colours yet. Add the well, or take colours out of a picture.</p>
      ) : (
        <div className="flex flex-wrap gap-1" role="group" aria-label="Colours at hand">
          {palette.map((colour) => (
            <span key={colour} className="group relative h-7 w-7">
              <button
                type="button"
                aria-label={`Take ${colour}`}
                title={colour}
                onClick={() => setWell(colour)}
                className={`h-full w-full rounded-sm border ${colour === well ? 'border-ink' : 'border-line'}`}
                style={{ background: colour }}
              />
              <button
                type="button"
                aria-label={`Remove ${colour}`}
                onClick={() => removeFromPalette(colour)}
                className={`absolute -top-1 -right-1 hidden h-4 w-4 items-center justify-center rounded-full border border-line bg-panel group-focus-within:flex group-hover:flex ${isLight(colour) ? '' : 'shadow'}`}
              >
                <X size={10} />
              </button>
            </span>
          ))}
        </div>
      )}
      <Switch
        label="Only these colours"
        checked={only}
        onChange={keepToPalette}
        hint="Whatever is painted comes out as the nearest of them, in full or not at all: for small sheets"
      />
      <Sources />
      {kept.length > 0 && (
        <div role="group" aria-label="Kept palettes" className="space-y-1 border-t border-line pt-2">
          {kept.map((p) => (
            <Kept key={p.id} kept={p} />
          ))}
        </div>
      )}
    </>
  );
}

/** Where new palettes come from. */
function Sources() {
  const [count, setCount] = useState(8);
  const [others, setOthers] = useState<OtherPiece[] | null>(null);
  return (
    <div className="space-y-1 border-t border-line pt-2">
      <NumberField
        label="Colours"
        labelWidth="60px"
        min={2}
        max={32}
        reset={8}
        value={count}
        onCommit={(v) => setCount(Math.round(v))}
        onPreview={(v) => setCount(Math.round(v))}
      />
      <div className="flex flex-wrap items-center gap-1">
        <span className="text-ink-soft">out of</span>
        {(
          [
            ['a picture …', () => chooseFiles(false, ([file]) => told(paletteOfPicture(file, count)), 'image/*')],
            ['what is seen', () => told(paletteOfWork('sheet', count))],
            ['the layer', () => told(paletteOfWork('layer', count))],
          ] as const
        ).map(([label, run]) => (
          <button key={label} type="button" className="h-6 rounded border border-line px-1.5 hover:bg-field" onClick={run}>
            {label}
          </button>
        ))}
      </div>
      <div className="flex items-center gap-1">
        <button
          type="button"
          className="h-6 rounded px-1.5 hover:bg-field"
          onClick={() => chooseFiles(false, ([file]) => told(importPalette(file)), '.json,.txt,.hex,.css,image/png,image/webp')}
        >
          Import …
        </button>
        <Menu
          onOpenChange={(open) => open && void otherPieces().then(setOthers, (error: unknown) => say((error as Error).message))}
          trigger={
            <button type="button" className="h-6 rounded px-1.5 hover:bg-field">
              From another piece …
            </button>
          }
        >
          {others === null && <MenuNote>Looking …</MenuNote>}
          {others?.length === 0 && <MenuNote>There is no other piece.</MenuNote>}
          {others?.map((other) => (
            <MenuItem key={other.id} onSelect={() => told(palettesFrom(other))}>
              {other.name}
            </MenuItem>
          ))}
        </Menu>
      </div>
    </div>
  );
}

function ExportMenu({ name, swatches }: { name: string; swatches: readonly Swatch[] }) {
  return (
    <Menu
      align="end"
      trigger={
        <IconButton label={`Export ${name}`} className="h-6 w-6">
          <MoreHorizontal size={13} />
        </IconButton>
      }
    >
      {[...PALETTE_FORMATS, 'png' as const].map((format) => (
        <MenuItem key={format} onSelect={() => told(exportPalette(name, swatches, format))}>
          {{ hex: 'A list of hex', json: 'JSON', css: 'CSS colours', png: 'A PNG strip' }[format]}
        </MenuItem>
      ))}
    </Menu>
  );
}

/** A kept palette: its colours as wide as there is of them. */
function Kept({ kept }: { kept: KeptPalette }) {
  const [naming, setNaming] = useState(false);
  return (
    <div>
      <div className="flex h-6 items-center">
        {naming ? (
          <NameInput
            name={kept.name}
            label="Name of the palette"
            className="h-6 min-w-0 flex-1 px-1"
            onAccept={(name) => renamePalette(kept, name)}
            onRefuse={say}
            done={() => setNaming(false)}
          />
        ) : (
          <button
            type="button"
            className="min-w-0 flex-1 truncate text-left hover:text-accent-ink"
            title="Put it at hand; double click to rename"
            onClick={() => takePalette(kept)}
            onDoubleClick={() => setNaming(true)}
          >
            {kept.name}
          </button>
        )}
        <ExportMenu name={kept.name} swatches={kept.swatches} />
        <button
          type="button"
          aria-label={`Delete ${kept.name}`}
          className="h-6 rounded px-1.5 text-[12px] text-ink-soft hover:text-ink"
          onClick={() => deletePalette(kept)}
        >
          Delete
        </button>
      </div>
      <div className="flex h-5 overflow-hidden rounded-sm border border-line">
        {kept.swatches.map(({ colour, weight }, n) => (
          <button
            key={n}
            type="button"
            aria-label={`Take ${colour}`}
            title={`${colour}${weight === undefined ? '' : ` · ${Math.round(weight * 100)} %`}`}
            onClick={() => setWell(colour)}
            className="h-full min-w-[6px]"
            style={{ background: colour, flexGrow: weight === undefined ? 1 : Math.max(0.02, weight) * 100, flexBasis: 0 }}
          />
        ))}
      </div>
    </div>
  );
}
