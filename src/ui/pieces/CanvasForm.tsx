'use client';
import { useState } from 'react';
import { LIMITS } from '@/core/document/schema';
import { Button } from '../kit/Button';
import { Switch } from '../kit/Switch';

export interface CanvasChoice {
  name: string;
  width: number;
  height: number;
  wrapU: boolean;
  wrapV: boolean;
}

const SHAPES = [
  { label: 'Tile 1024', width: 1024, height: 1024, wrapU: true, wrapV: true },
  { label: 'Tile 2048', width: 2048, height: 2048, wrapU: true, wrapV: true },
  { label: 'Strip 1024 × 256', width: 1024, height: 256, wrapU: true, wrapV: false },
  { label: 'Pixel tile 64', width: 64, height: 64, wrapU: true, wrapV: true },
] as const;

export function CanvasForm({ busy, onMake }: { busy: boolean; onMake: (canvas: CanvasChoice) => void }) {
  const [canvas, setCanvas] = useState<CanvasChoice>({ name: 'Tile', width: 1024, height: 1024, wrapU: true, wrapV: true });
  const change = (next: Partial<CanvasChoice>) => setCanvas({ ...canvas, ...next });
  const side = (key: 'width' | 'height', label: string) => (
    <label className="flex items-center gap-3">
      <span className="w-20 text-ink-soft">{label}</span>
      <input
        type="number"
        aria-label={label}
        value={Number.isNaN(canvas[key]) ? '' : canvas[key]}
        onChange={(e) => change({ [key]: e.target.valueAsNumber })}
        className="figures h-8 w-28 rounded border border-line bg-raised px-2"
      />
      <span className="text-ink-soft">
        texels, {LIMITS.minSize} to {LIMITS.maxSize.toLocaleString('en')}
      </span>
    </label>
  );
  // The picture keeps the canvas's shape inside a square of 280.
  const scale = 280 / Math.max(canvas.width || 1, canvas.height || 1);
  return (
    <form
      noValidate
      className="grid grid-cols-[minmax(0,1fr)_360px] gap-8"
      onSubmit={(e) => {
        e.preventDefault();
        onMake(canvas);
      }}
    >
      <div className="space-y-4">
        <div className="flex flex-wrap gap-2" role="group" aria-label="Usual shapes">
          {SHAPES.map(({ label, ...shape }) => (
            <Button
              key={label}
              onClick={() => change(shape)}
              className={shape.width === canvas.width && shape.height === canvas.height ? 'border-accent' : ''}
            >
              {label}
            </Button>
          ))}
        </div>
        <label className="flex items-center gap-3">
          <span className="w-20 text-ink-soft">Name</span>
          <input
            aria-label="Name"
            maxLength={120}
            value={canvas.name}
            onChange={(e) => change({ name: e.target.value })}
            className="h-8 w-72 rounded border border-line bg-raised px-2"
          />
        </label>
        {side('width', 'Width')}
        {side('height', 'Height')}
        <div className="flex items-center gap-3">
          <span className="w-20 text-ink-soft">Repeats</span>
          <Switch
            label="Across (U)"
            checked={canvas.wrapU}
            onChange={(wrapU) => change({ wrapU })}
            hint="The left border meets the right one; strokes go on across it"
          />
          <Switch
            label="Down (V)"
            checked={canvas.wrapV}
            onChange={(wrapV) => change({ wrapV })}
            hint="The top border meets the bottom one; strokes go on across it"
          />
        </div>
        <p className="text-ink-soft">Carries base colour, height, roughness and metallic, 16 bit.</p>
        <Button kind="main" type="submit" disabled={busy}>
          {busy ? 'Making the canvas …' : 'Make the canvas'}
        </Button>
      </div>
      <figure className="flex h-80 items-center justify-center overflow-hidden rounded-lg bg-work" aria-hidden="true">
        <div
          className="relative border-2 border-white bg-white/25"
          style={{
            width: Math.max(2, (canvas.width || 1) * scale * 0.5),
            height: Math.max(2, (canvas.height || 1) * scale * 0.5),
          }}
        >
          {canvas.wrapU && <div className="absolute inset-y-0 -right-full w-full border border-dashed border-white/60" />}
          {canvas.wrapU && <div className="absolute inset-y-0 right-full w-full border border-dashed border-white/60" />}
          {canvas.wrapV && <div className="absolute inset-x-0 -bottom-full h-full border border-dashed border-white/60" />}
          {canvas.wrapV && <div className="absolute inset-x-0 bottom-full h-full border border-dashed border-white/60" />}
        </div>
      </figure>
    </form>
  );
}
