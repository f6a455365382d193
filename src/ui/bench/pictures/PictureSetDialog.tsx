'use client';
/** What each picture of a choice is for: guessed from its name, confirmed here. */
import { useEffect, useState } from 'react';
import { mapInfo, mapKind, type MapId } from '@/core/kinds/maps';
import { GREY_LABELS, GREYS, type Grey } from '@/core/kinds/grey';
import { Button } from '../../kit/Button';
import { Segments } from '../../kit/Segments';
import { Switch } from '../../kit/Switch';
import { DialogBox } from '../../kit/DialogBox';
import { layChannel, layDown } from './pictureSet';
import type { PictureSet, SetRow } from '../top/openThings';
import { modelBox } from '../sources/presets';
import { currentSheet, useBench } from '../store';

export function PictureSetDialog() {
  const set = useBench((s) => s.pictureSet);
  return set && <Asking key={set.rows.map((r) => r.file.name).join()} set={set} />;
}

function Asking({ set }: { set: PictureSet }) {
  const [rows, setRows] = useState(set.rows);
  const [as, setAs] = useState<'maps' | 'alpha'>('maps');
  const [decal, setDecal] = useState(set.decal);
  const [take, setTake] = useState<Grey>('luminance');
  const [busy, setBusy] = useState(false);
  const close = () => useBench.setState({ pictureSet: null });
  const files = new Set(rows.map((r) => r.file)).size;
  const used = rows.filter((r) => r.map !== null);
  const twice = used.find((r, n) => used.some((q, m) => m < n && q.map === r.map));
  const accept = async () => {
    setBusy(true);
    const done = as === 'alpha' ? await layChannel(rows[0].file, take) : await layDown({ ...set, rows, decal });
    setBusy(false);
    if (done) close();
  };
  return (
    <DialogBox title={files === 1 ? rows[0].file.name : `${files} pictures as one material`} onClose={close}>
      {files === 1 && (
        <div className="mb-3">
          <Segments
            label="What the picture does"
            value={as}
            options={[
              { value: 'maps', label: 'Lays down its values' },
              {
                value: 'alpha',
                label: 'One channel as alpha',
                hint: 'A coat that shows where the channel is light: highlights, folds',
              },
            ]}
            onChange={setAs}
          />
        </div>
      )}
      {as === 'maps' ? (
        <>
          <ul className="max-h-[50vh] space-y-1.5 overflow-y-auto">
            {rows.map((row, n) => (
              <Row key={n} row={row} onChange={(next) => setRows(rows.with(n, next))} />
            ))}
          </ul>
          {set.layerId === null && modelBox() && (
            <div className="mt-3">
              <Switch label="As a decal: once, on the surface in the middle of the view" checked={decal} onChange={setDecal} />
            </div>
          )}
        </>
      ) : (
        <label className="flex items-center gap-2">
          <span className="w-20 text-ink-soft">Channel</span>
          <select
            aria-label="Channel"
            value={take}
            onChange={(e) => setTake(e.target.value as Grey)}
            className="h-7 rounded border border-line bg-raised px-1"
          >
            {GREYS.map((g) => (
              <option key={g} value={g}>
                {GREY_LABELS[g]}
              </option>
            ))}
          </select>
        </label>
      )}
      <div className="mt-4 flex items-center justify-end gap-2">
        <p role="alert" className="min-w-0 flex-1 text-fault">
          {as === 'maps' && twice && `Two pictures are for ${mapInfo(twice.map!).label.toLowerCase()}: leave one out.`}
        </p>
        <Button onClick={close}>Cancel</Button>
        <Button kind="main" disabled={busy || (as === 'maps' && (used.length === 0 || !!twice))} onClick={() => void accept()}>
          {busy ? 'Reading …' : 'Lay down'}
        </Button>
      </div>
    </DialogBox>
  );
}

function Row({ row, onChange }: { row: SetRow; onChange: (row: SetRow) => void }) {
  const sheet = currentSheet();
  const [url, setUrl] = useState('');
  useEffect(() => {
    const made = URL.createObjectURL(row.file);
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [row.file]);
  return (
    <li className="flex items-center gap-2">
      <span className="h-9 w-9 shrink-0 overflow-hidden rounded border border-line bg-field">
        {url && (
          <img
            src={url}
            alt=""
            className="h-full w-full object-cover"
            onError={(e) => (e.currentTarget.style.display = 'none')}
          />
        )}
      </span>
      <span className="min-w-0 flex-1 truncate" title={row.file.name}>
        {row.file.name}
      </span>
      {row.map && mapKind(row.map) === 'value' && (
        <select
          aria-label={`Channel of ${row.file.name}`}
          value={row.take}
          onChange={(e) => onChange({ ...row, take: e.target.value as Grey })}
          className="h-7 rounded border border-line bg-raised px-1"
        >
          {GREYS.map((g) => (
            <option key={g} value={g}>
              {GREY_LABELS[g]}
            </option>
          ))}
        </select>
      )}
      <select
        aria-label={`Map of ${row.file.name}`}
        value={row.map ?? ''}
        onChange={(e) => onChange({ ...row, map: (e.target.value || null) as MapId | null })}
        className={`h-7 w-36 rounded border border-line bg-raised px-1 ${row.map ? '' : 'text-ink-soft'}`}
      >
        <option value="">Leave out</option>
        {sheet.maps.map((m) => (
          <option key={m} value={m}>
            {mapInfo(m, sheet.ownMaps).label}
          </option>
        ))}
      </select>
    </li>
  );
}
