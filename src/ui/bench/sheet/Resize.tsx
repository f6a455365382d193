'use client';
/** Another size, the picture resampled. */
import { useState, type CSSProperties } from 'react';
import { Button } from '../../kit/Button';
import { type PartProps, BOX, usePicture, Number_ } from './parts';

export function Resize({ sheet, apply }: PartProps) {
  const [width, setWidth] = useState(sheet.width);
  const [height, setHeight] = useState(sheet.height);
  const picture = usePicture(sheet.id);
  const keep = (w: number) => {
    setWidth(w);
    setHeight(Math.round((w * sheet.height) / sheet.width));
  };
  const scale = BOX / Math.max(width || 1, height || 1, sheet.width, sheet.height);
  const frame = (w: number, h: number): CSSProperties => ({ width: w * scale, height: h * scale });
  return (
    <div className="flex gap-5">
      <div className="flex w-[214px] items-center justify-center bg-work" style={{ height: BOX + 4 }}>
        <div className="relative flex items-center justify-center">
          {picture && <img src={picture} alt="The sheet at its new size beside the old" style={frame(width || 1, height || 1)} />}
          <span className="absolute border border-dashed border-white" style={frame(sheet.width, sheet.height)} />
        </div>
      </div>
      <div className="flex-1 space-y-2">
        <Number_ label="Width" value={width} onChange={keep} />
        <Number_ label="Height" value={height} onChange={setHeight} />
        <div className="flex flex-wrap gap-1">
          {[0.5, 2].map((f) => (
            <Button key={f} className="h-7" onClick={() => keep(Math.round(sheet.width * f))}>
              {f === 2 ? 'Twice' : 'Half'}
            </Button>
          ))}
          {[512, 1024, 2048, 4096].map((n) => (
            <Button key={n} className="h-7" onClick={() => keep(n)}>
              {n}
            </Button>
          ))}
        </div>
        <p className="text-ink-soft">
          Paint is filtered: colours with Lanczos in linear light, values, normals and masks with Mitchell–Netravali, each by its
          coverage. Coats and adjustments stay exact.
        </p>
        <Button
          kind="main"
          disabled={width === sheet.width && height === sheet.height}
          onClick={() => apply({ kind: 'resize', width, height })}
        >
          Resize
        </Button>
      </div>
    </div>
  );
}
