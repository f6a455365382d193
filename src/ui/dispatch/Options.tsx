'use client';
/** What goes out and how: sheets, maps, size, depth, margin, names. */
import { PATTERN_FIELDS, type DispatchOptions } from '@/core/deliver/options';
import { offersOf } from '@/core/deliver/outputs';
import { COLOUR_MAP } from '@/core/kinds/maps';
import { alphaOf } from '@/core/kinds/shown';
import type { Piece } from '@/core/document/schema';
import { Segments } from '../kit/Segments';
import { Switch } from '../kit/Switch';
import { NumberField } from '../kit/NumberField';

interface OptionsProps {
  piece: Piece;
  options: DispatchOptions;
  change: (next: Partial<DispatchOptions>) => void;
}

/** In or out, in the order of all. */
const toggle = <T,>(list: readonly T[], item: T, order: readonly T[]) =>
  order.filter((x) => (x === item ? !list.includes(x) : list.includes(x)));

export function Options({ piece, options, change }: OptionsProps) {
  const [perSheet, perPiece] = [offersOf(piece, 'sheet'), offersOf(piece, 'piece')];
  const order = [...perSheet, ...perPiece].map((o) => o.id);
  const toggled = (id: string) => change({ maps: toggle(options.maps, id, order) });
  return (
    <div className="space-y-6">
      <Section title="Sheets">
        {piece.sheets.map((s) => (
          <Check
            key={s.id}
            label={s.name}
            note={`${s.width} × ${s.height}`}
            checked={options.sheets.includes(s.id)}
            onChange={() =>
              change({
                sheets: toggle(
                  options.sheets,
                  s.id,
                  piece.sheets.map((x) => x.id),
                ),
              })
            }
          />
        ))}
      </Section>
      <Section title="Maps, as PNG">
        <div className="grid grid-cols-2 gap-x-6">
          {perSheet.map(({ id, label }) => (
            <Check key={id} label={label} checked={options.maps.includes(id)} onChange={() => toggled(id)} />
          ))}
        </div>
      </Section>
      <Section title="How">
        <Row label="Size">
          <Segments
            label="Size"
            value={String(options.divide)}
            options={['1', '2', '4', '8'].map((d) => ({
              value: d,
              label: d === '1' ? 'Full' : `1/${d}`,
              hint: `${Math.round(piece.sheets[0].width / Number(d))} × ${Math.round(piece.sheets[0].height / Number(d))}`,
            }))}
            onChange={(d) => change({ divide: Number(d) as DispatchOptions['divide'] })}
          />
        </Row>
        {options.divide > 1 && (
          <p className="mb-1 pl-31 text-ink-soft">
            Colours are filtered with Lanczos in linear light, values and normals with Mitchell–Netravali; neither goes beyond
            what lies around.
            {piece.sheets.some((s) => s.maps.includes(alphaOf(COLOUR_MAP)!)) && ' Base colour counts as much as its opacity.'}
          </p>
        )}
        <Row label="Depth">
          <Segments
            label="Depth"
            value={String(options.bits)}
            options={[
              { value: '8', label: '8 bit' },
              { value: '16', label: '16 bit' },
            ]}
            onChange={(b) => change({ bits: Number(b) as 8 | 16 })}
          />
        </Row>
        {options.bits === 8 && (
          <Row label="Between steps">
            <Switch
              label="Dither"
              checked={options.dither}
              onChange={(dither) => change({ dither })}
              hint="Slow gradients become a fine pattern of two neighbouring codes instead of bands; whole codes stay"
            />
          </Row>
        )}
        <Row label="Normal’s green">
          <Segments
            label="Normal’s green"
            value={options.normalY}
            options={[
              { value: 'up', label: 'Y up', hint: 'As in glTF and OpenGL' },
              { value: 'down', label: 'Y down', hint: 'As in Direct3D' },
            ]}
            onChange={(normalY) => change({ normalY })}
          />
        </Row>
        {piece.kind === 'model' && (
          <Row label="Margin">
            <div className="w-72">
              <NumberField
                label=""
                name="Margin"
                unit="tx"
                value={options.margin}
                min={0}
                max={64}
                reset={16}
                hint="How far the colour of each island goes on around it, against bleeding"
                onCommit={(v) => change({ margin: Math.round(v) })}
              />
            </div>
          </Row>
        )}
        {perPiece.map(({ id, label, hint }) => (
          <Row key={id} label="Model">
            <Switch label={label} checked={options.maps.includes(id)} onChange={() => toggled(id)} hint={hint} />
          </Row>
        ))}
      </Section>
      <Section title="Names">
        <input
          aria-label="Naming pattern"
          value={options.pattern}
          onChange={(e) => change({ pattern: e.target.value })}
          onBlur={() => options.pattern.trim() === '' && change({ pattern: '{piece}_{sheet}_{map}' })}
          className="figures h-8 w-full rounded border border-line bg-raised px-2"
        />
        <p className="mt-1.5 text-ink-soft">
          {PATTERN_FIELDS.map((f) => (
            <button
              key={f}
              type="button"
              className="figures mr-2 rounded bg-field px-1.5 py-0.5 hover:text-accent-ink"
              onClick={() => change({ pattern: `${options.pattern}{${f}}` })}
            >{`{${f}}`}</button>
          ))}
        </p>
      </Section>
    </div>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section>
      <h2 className="mb-2 border-b border-line pb-1 font-semibold">{title}</h2>
      {children}
    </section>
  );
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="flex h-9 items-center gap-3">
      <span className="w-28 text-ink-soft">{label}</span>
      {children}
    </div>
  );
}

function Check({ label, note, checked, onChange }: { label: string; note?: string; checked: boolean; onChange: () => void }) {
  return (
    <label className="flex h-7 cursor-pointer items-center gap-2">
      <input type="checkbox" checked={checked} onChange={onChange} className="h-4 w-4 accent-(--accent)" />
      {label}
      {note && <span className="figures text-ink-soft">{note}</span>}
    </label>
  );
}
