'use client';
/**
 * Choosing a colour by how it looks: a plane of lightness and chroma at one hue, or a wheel of hues at one lightness, in OKLCH.
 * What sRGB does not have is hatched; its edge is drawn.
 */
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { fromLch, inGamut, MOST_CHROMA, mostChroma, toLch, turnedHue, type Lch } from '@/core/colour/oklch';
import { hexToSrgb, srgbToHex } from '@/core/colour/transfer';
import { PLAUSIBLE_ALBEDO } from '@/core/kinds/filters/more';
import { Segments } from './Segments';
import { NumberField } from './NumberField';

const WIDTH = 208;
const HEIGHT = 132;
/** Chroma at the right side of the plane and the rim of the wheel. */
const SCALE = 0.34;

type Shape = 'plane' | 'wheel';
let lastShape: Shape = 'plane';

/** Where a colour lies in the picker, and what lies at a place. */
function placeOf(shape: Shape, { l, c, h }: Lch): [number, number] {
  if (shape === 'plane') return [(c / SCALE) * WIDTH, (1 - l) * HEIGHT];
  const a = (h * Math.PI) / 180;
  const r = (c / SCALE) * (HEIGHT / 2);
  return [WIDTH / 2 + r * Math.cos(a), HEIGHT / 2 - r * Math.sin(a)];
}

function colourAt(shape: Shape, x: number, y: number, now: Lch): Lch {
  if (shape === 'plane') return { l: Math.min(1, Math.max(0, 1 - y / HEIGHT)), c: Math.max(0, (x / WIDTH) * SCALE), h: now.h };
  const [dx, dy] = [x - WIDTH / 2, HEIGHT / 2 - y];
  return { l: now.l, c: (Math.hypot(dx, dy) / (HEIGHT / 2)) * SCALE, h: turnedHue((Math.atan2(dy, dx) * 180) / Math.PI) };
}

/** Within sRGB: by less chroma. */
const kept = (lch: Lch): Lch => (inGamut(lch) ? lch : { ...lch, c: mostChroma(lch.l, lch.h) });

function draw(canvas: HTMLCanvasElement, shape: Shape, l: number, h: number): void {
  const pen = canvas.getContext('2d')!;
  const image = pen.createImageData(WIDTH, HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const o = (y * WIDTH + x) * 4;
      const lch = colourAt(shape, x + 0.5, y + 0.5, { l, c: 0, h });
      if (lch.c > MOST_CHROMA || !inGamut(lch)) {
        // Hatched: there is no such colour.
        const stripe = (x + y) % 8 < 1;
        image.data.set(stripe ? [128, 128, 128, 110] : [0, 0, 0, 0], o);
        continue;
      }
      const [r, g, b] = fromLch(lch);
      image.data.set([r * 255 + 0.5, g * 255 + 0.5, b * 255 + 0.5, 255], o);
    }
  pen.putImageData(image, 0, 0);
  // The edge of sRGB.
  pen.beginPath();
  const steps = 96;
  for (let n = 0; n <= steps; n++) {
    const t = n / steps;
    const at = shape === 'plane' ? { l: t, c: mostChroma(t, h), h } : { l, c: mostChroma(l, t * 360), h: t * 360 };
    const [x, y] = placeOf(shape, at);
    if (n === 0) pen.moveTo(x, y);
    else pen.lineTo(x, y);
  }
  pen.strokeStyle = 'rgba(0,0,0,0.55)';
  pen.lineWidth = 1;
  pen.stroke();
}

/** Light of a colour as filters weigh it (kinds/filters/more.ts). */
const light = ([r, g, b]: readonly number[]) => 0.3 * r + 0.59 * g + 0.11 * b;

/** What no real surface that is not metal has; null: it is plausible. */
export function albedoWarning(hex: string): string | null {
  const l = light(hexToSrgb(hex));
  if (l < PLAUSIBLE_ALBEDO.low) return 'Darker than any real surface but metal.';
  return l > PLAUSIBLE_ALBEDO.high ? 'Lighter than any real surface.' : null;
}

export function ColourPicker({
  colour,
  label,
  onChange,
  onCommit,
}: {
  colour: string;
  label: string;
  onChange: (hex: string) => void;
  onCommit: () => void;
}) {
  const [shape, setShape] = useState<Shape>(lastShape);
  // Hue and chroma of greys are not in their numbers: what was chosen last stays.
  const [lch, setLch] = useState<Lch>(() => toLch(hexToSrgb(colour)));
  const shown = srgbToHex(fromLch(lch));
  useEffect(() => {
    if (colour !== shown) setLch(toLch(hexToSrgb(colour)));
    // Only what comes from outside.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [colour]);
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawn = shape === 'plane' ? lch.h : lch.l;
  useEffect(() => {
    if (canvas.current) draw(canvas.current, shape, lch.l, lch.h);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shape, drawn]);
  const take = (next: Lch) => {
    const inside = kept(next);
    setLch(inside);
    onChange(srgbToHex(fromLch(inside)));
  };
  const point = (e: PointerEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    take(colourAt(shape, ((e.clientX - box.left) / box.width) * WIDTH, ((e.clientY - box.top) / box.height) * HEIGHT, lch));
  };
  const keys = (e: KeyboardEvent) => {
    const by = e.shiftKey ? 5 : 1;
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (!step) return;
    e.preventDefault();
    e.stopPropagation();
    const [x, y] = step;
    take(
      shape === 'plane'
        ? { ...lch, c: Math.max(0, lch.c + x * by * 0.005), l: Math.min(1, Math.max(0, lch.l + y * by * 0.01)) }
        : { ...lch, h: turnedHue(lch.h + x * by * 2), c: Math.max(0, lch.c + y * by * 0.005) },
    );
    onCommit();
  };
  const [x, y] = placeOf(shape, lch);
  const warning = albedoWarning(shown);
  const number = (key: 'l' | 'c' | 'h', name: string, unit: string, scale: number, max: number) => (
    <NumberField
      label={name}
      labelWidth="60px"
      unit={unit}
      min={0}
      max={max}
      reset={key === 'l' ? 50 : 0}
      value={lch[key] * scale}
      onPreview={(v) => take({ ...lch, [key]: v / scale })}
      onCommit={(v) => {
        take({ ...lch, [key]: v / scale });
        onCommit();
      }}
    />
  );
  return (
    <div className="w-52 space-y-1.5">
      <Segments
        label="Picker"
        value={shape}
        options={[
          { value: 'plane', label: 'Plane', hint: 'Lightness and chroma at one hue' },
          { value: 'wheel', label: 'Wheel', hint: 'Hues at one lightness' },
        ]}
        onChange={(next: Shape) => setShape((lastShape = next))}
      />
      <div
        role="slider"
        tabIndex={0}
        aria-label={`${label}: ${shape === 'plane' ? 'chroma across, lightness up' : 'hue around, chroma outwards'}; arrow keys`}
        aria-valuenow={Math.round(lch.l * 100)}
        aria-valuetext={shown}
        data-testid="picker"
        className="relative touch-none overflow-hidden rounded border border-line outline-none focus-visible:ring-2 focus-visible:ring-accent"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          point(e);
        }}
        onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && point(e)}
        onPointerUp={onCommit}
        onKeyDown={keys}
      >
        <canvas ref={canvas} width={WIDTH} height={HEIGHT} className="block w-full" aria-hidden="true" />
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
          <circle cx={x} cy={y} r="6" fill={shown} stroke="black" strokeOpacity="0.6" strokeWidth="3" />
          <circle cx={x} cy={y} r="6" fill="none" stroke="white" strokeWidth="1.5" />
        </svg>
      </div>
      {number('l', 'Lightness', '%', 100, 100)}
      {number('c', 'Chroma', '', 100, 33)}
      {number('h', 'Hue', '°', 1, 360)}
      {warning && (
        <p role="status" className="text-[12px] leading-4 text-accent-ink">
          ⚠ {warning}
        </p>
      )}
    </div>
  );
}
