'use client';
/** Reference pictures on a board: slid and zoomed, moved, flipped, without colour, blurred, with notes; colours come off them by a click. */
import { Blend, FlipHorizontal2, Grid2x2, Maximize, Pipette, Plus, Trash2 } from 'lucide-react';
import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { LIMITS } from '@/core/document/schema';
import type { Pin } from '@/core/document/pin';
import { IconButton } from '../../kit/Button';
import { PercentField } from '../../kit/PercentField';
import { arranged, boundsOf, meanColour, pinFiles, type BoardOwner } from './board';

interface Eye {
  x: number;
  y: number;
  zoom: number;
}

const SIDES = [1, 3, 5, 11, 31] as const;
const urlOf = (pin: Pin) => `/api/pins/${pin.picture}`;

export function PinBoard({ owner }: { owner: BoardOwner }) {
  const { pins, change } = owner;
  const box = useRef<HTMLDivElement>(null);
  const [eye, setEye] = useState<Eye>({ x: 0, y: 0, zoom: 1 });
  const [chosen, setChosen] = useState<string | null>(null);
  const [picking, setPicking] = useState(false);
  const [side, setSide] = useState<number>(5);
  /** A pin on its way. */
  const [moved, setMoved] = useState<Pin | null>(null);
  const [lost, setLost] = useState<ReadonlySet<string>>(new Set());
  const drag = useRef<{ x: number; y: number; pin: Pin | null; eye: Eye; scale: boolean } | null>(null);
  const shown = moved ? pins.map((p) => (p.id === moved.id ? moved : p)) : pins;
  const now = shown.find((p) => p.id === chosen) ?? null;
  const count = pins.length;

  const fit = () => {
    const bounds = boundsOf(pins);
    const el = box.current;
    if (!bounds || !el) return;
    const zoom = Math.min(4, (el.clientWidth - 24) / bounds.width, (el.clientHeight - 24) / bounds.height);
    setEye({
      zoom,
      x: el.clientWidth / 2 - (bounds.x + bounds.width / 2) * zoom,
      y: el.clientHeight / 2 - (bounds.y + bounds.height / 2) * zoom,
    });
  };
  // What was hung up is seen.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  useEffect(fit, [count]);
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      const files = [...(e.clipboardData?.files ?? [])].filter((f) => f.type.startsWith('image/'));
      if (files.length === 0) return;
      e.preventDefault();
      void pinFiles(owner, files);
    };
    window.addEventListener('paste', paste);
    return () => window.removeEventListener('paste', paste);
  }, [owner]);
  useEffect(() => {
    const el = box.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const r = el.getBoundingClientRect();
      const [px, py] = [e.clientX - r.left, e.clientY - r.top];
      const by = Math.exp(-Math.sign(e.deltaY) * Math.min(60, Math.abs(e.deltaY)) * 0.0028);
      setEye((v) => {
        const zoom = Math.min(20, Math.max(0.02, v.zoom * by));
        const k = zoom / v.zoom;
        return { zoom, x: px - (px - v.x) * k, y: py - (py - v.y) * k };
      });
    };
    el.addEventListener('wheel', wheel, { passive: false });
    return () => el.removeEventListener('wheel', wheel);
  }, []);

  const set = (pin: Pin, after: Partial<Pin>, label: string) =>
    change(
      pins.map((p) => (p.id === pin.id ? { ...p, ...after } : p)),
      `${pin.name}: ${label}`,
    );
  const remove = (pin: Pin) =>
    change(
      pins.filter((p) => p.id !== pin.id),
      `Take ${pin.name} down`,
    );

  const pickFrom = (pin: Pin, e: PointerEvent<HTMLElement>) => {
    const img = e.currentTarget.querySelector('img');
    if (!img?.complete || img.naturalWidth === 0) return;
    const r = img.getBoundingClientRect();
    let u = (e.clientX - r.left) / r.width;
    if (pin.flip) u = 1 - u;
    const v = (e.clientY - r.top) / r.height;
    if (!picking && owner.source?.(pin, u * img.naturalWidth, v * img.naturalHeight)) return;
    const x = Math.floor(u * img.naturalWidth - (side - 1) / 2);
    const y = Math.floor(v * img.naturalHeight - (side - 1) / 2);
    const canvas = new OffscreenCanvas(side, side);
    const pen = canvas.getContext('2d')!;
    pen.drawImage(img, -x, -y);
    const hex = meanColour(pen.getImageData(0, 0, side, side).data);
    if (hex) owner.colour(hex);
  };

  const down = (e: PointerEvent<HTMLElement>, pin: Pin | null, scale = false) => {
    if (e.button !== 0 && e.button !== 1) return;
    e.stopPropagation();
    if (pin && e.button === 0 && (picking || e.altKey)) return pickFrom(pin, e);
    box.current!.setPointerCapture(e.pointerId);
    drag.current = { x: e.clientX, y: e.clientY, pin: e.button === 0 ? pin : null, eye, scale };
    if (e.button === 0) setChosen(pin?.id ?? null);
  };
  const move = (e: PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const [dx, dy] = [e.clientX - d.x, e.clientY - d.y];
    if (!d.pin) return setEye({ ...d.eye, x: d.eye.x + dx, y: d.eye.y + dy });
    if (Math.hypot(dx, dy) < 2 && !moved) return;
    setMoved(
      d.scale
        ? { ...d.pin, scale: Math.min(50, Math.max(0.005, d.pin.scale + dx / eye.zoom / d.pin.width)) }
        : { ...d.pin, x: d.pin.x + dx / eye.zoom, y: d.pin.y + dy / eye.zoom },
    );
  };
  const up = () => {
    const d = drag.current;
    drag.current = null;
    if (!moved || !d?.pin) return;
    // The one that was moved comes to the top.
    change([...pins.filter((p) => p.id !== moved.id), moved], `${moved.name}: moved`);
    setMoved(null);
  };

  return (
    <div className="flex h-full min-h-0 flex-col">
      <div className="flex h-8 shrink-0 items-center gap-0.5 border-b border-line px-1">
        <label className="inline-flex h-6 cursor-pointer items-center gap-1 rounded px-1.5 hover:bg-field focus-within:ring-2 focus-within:ring-accent">
          <Plus size={13} /> Pictures
          <input
            type="file"
            accept="image/*,.tga,.dds,.hdr,.exr"
            multiple
            className="sr-only"
            aria-label="Pictures to pin"
            onChange={(e) => {
              void pinFiles(owner, [...(e.target.files ?? [])]);
              e.target.value = '';
            }}
          />
        </label>
        <IconButton label="Fit all pictures" className="h-6 w-6" onClick={fit}>
          <Maximize size={13} />
        </IconButton>
        <IconButton
          label="Arrange them in rows"
          className="h-6 w-6"
          disabled={count < 2}
          onClick={() => change(arranged(pins), 'Arrange the pins')}
        >
          <Grid2x2 size={13} />
        </IconButton>
        <IconButton
          label="Pick colours by clicking; or hold Alt"
          className="h-6 w-6"
          active={picking}
          onClick={() => setPicking(!picking)}
        >
          <Pipette size={13} />
        </IconButton>
        <select
          aria-label="Pixels that a picked colour is the mean of"
          title="The mean of so many pixels a side"
          value={side}
          onChange={(e) => setSide(Number(e.target.value))}
          className="h-6 rounded border border-line bg-raised px-0.5"
        >
          {SIDES.map((s) => (
            <option key={s} value={s}>
              {s} px
            </option>
          ))}
        </select>
        <span className="flex-1" />
        {now && (
          <>
            <IconButton
              label="Flip left and right"
              className="h-6 w-6"
              active={now.flip}
              onClick={() => set(now, { flip: !now.flip }, 'flipped')}
            >
              <FlipHorizontal2 size={13} />
            </IconButton>
            <IconButton
              label="Without colour"
              className="h-6 w-6"
              active={now.grey}
              onClick={() => set(now, { grey: !now.grey }, 'grey')}
            >
              <Blend size={13} />
            </IconButton>
            <IconButton label={`Take ${now.name} down`} className="h-6 w-6" onClick={() => remove(now)}>
              <Trash2 size={13} />
            </IconButton>
          </>
        )}
      </div>
      <div
        ref={box}
        data-testid="pins"
        tabIndex={0}
        role="group"
        aria-label="Pinboard. Drag pictures, drag beside them to slide, wheel to zoom, drop or paste to pin."
        className={`relative min-h-0 flex-1 touch-none overflow-hidden bg-work outline-none ${picking ? 'cursor-crosshair' : ''}`}
        onPointerDown={(e) => down(e, null)}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => {
          drag.current = null;
          setMoved(null);
        }}
        onKeyDown={(e) => {
          if (e.key === 'Delete' && now) remove(now);
          else return;
          e.stopPropagation();
        }}
        onDragOver={(e) => e.dataTransfer.types.includes('Files') && e.preventDefault()}
        onDrop={(e) => {
          const files = [...e.dataTransfer.files];
          if (files.length === 0) return;
          e.preventDefault();
          e.stopPropagation();
          void pinFiles(owner, files);
        }}
      >
        {count === 0 && (
          <p className="absolute inset-0 m-auto h-fit w-48 text-center text-white [text-shadow:0_1px_2px_black]">
            Drop pictures here, paste them, or choose files.
          </p>
        )}
        {shown.map((pin) => (
          <div
            key={pin.id}
            data-pin={pin.name}
            className={`absolute ${pin.id === chosen ? 'outline-2 outline-accent' : ''}`}
            style={{
              left: eye.x + pin.x * eye.zoom,
              top: eye.y + pin.y * eye.zoom,
              width: pin.width * pin.scale * eye.zoom,
              height: pin.height * pin.scale * eye.zoom,
            }}
            onPointerDown={(e) => down(e, pin)}
          >
            {lost.has(pin.picture) ? (
              <p className="flex h-full w-full items-center justify-center bg-panel p-1 text-center text-[12px]">
                “{pin.name}” is gone from the server: pin it again.
              </p>
            ) : (
              <img
                src={urlOf(pin)}
                alt={pin.name}
                draggable={false}
                className="h-full w-full select-none"
                style={{
                  transform: pin.flip ? 'scaleX(-1)' : undefined,
                  filter:
                    `${pin.grey ? 'grayscale(1) ' : ''}${pin.blur > 0 ? `blur(${pin.blur * 0.06 * pin.width * pin.scale * eye.zoom}px)` : ''}` ||
                    undefined,
                }}
                onError={() => setLost((was) => new Set([...was, pin.picture]))}
              />
            )}
            {pin.note && (
              <p className="pointer-events-none absolute inset-x-0 bottom-0 line-clamp-3 bg-panel/85 px-1 text-[12px] leading-4">
                {pin.note}
              </p>
            )}
            {pin.id === chosen && (
              <span
                role="presentation"
                data-testid="pin-corner"
                className="absolute -right-1.5 -bottom-1.5 h-3 w-3 cursor-nwse-resize border border-black/70 bg-white"
                onPointerDown={(e) => down(e, pin, true)}
              />
            )}
          </div>
        ))}
      </div>
      {now && (
        <div className="flex shrink-0 items-center gap-2 border-t border-line px-2 py-1">
          <div className="w-32 shrink-0">
            <PercentField
              label="Blur"
              labelWidth="30px"
              reset={0}
              value={now.blur}
              onPreview={(v) => setMoved({ ...now, blur: v })}
              onCommit={(v) => {
                setMoved(null);
                set(now, { blur: v }, `blur ${Math.round(v * 100)} %`);
              }}
            />
          </div>
          <input
            key={now.id}
            aria-label={`Note on ${now.name}`}
            placeholder="A note"
            defaultValue={now.note}
            maxLength={LIMITS.maxNote}
            onBlur={(e) => e.target.value !== now.note && set(now, { note: e.target.value }, 'note')}
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
            className="h-6 min-w-0 flex-1 rounded border border-line bg-raised px-1"
          />
        </div>
      )}
    </div>
  );
}
