'use client';
/** Another frame, the picture as it is. */
import { useState } from 'react';
import { Button } from '../../kit/Button';
import { type PartProps, BOX, usePicture, Number_ } from './parts';

export function Frame({ sheet, apply }: PartProps) {
  const [sides, setSides] = useState({ left: 0, top: 0, right: 0, bottom: 0 });
  const picture = usePicture(sheet.id);
  const width = sheet.width + sides.left + sides.right;
  const height = sheet.height + sides.top + sides.bottom;
  const extent = Math.max(
    sheet.width + Math.abs(sides.left) + Math.abs(sides.right),
    sheet.height + Math.abs(sides.top) + Math.abs(sides.bottom),
    1,
  );
  const scale = BOX / extent;
  const side = (key: keyof typeof sides, label: string) => (
    <Number_ label={label} value={sides[key]} onChange={(v) => setSides({ ...sides, [key]: v })} />
  );
  return (
    <div className="flex gap-5">
      <div className="flex w-[214px] items-center justify-center bg-work" style={{ height: BOX + 4 }}>
        <div className="relative" style={{ width: sheet.width * scale, height: sheet.height * scale }}>
          {picture && <img src={picture} alt="The sheet with its new frame" className="h-full w-full" />}
          <span
            className="absolute border-2 border-white"
            style={{
              left: -sides.left * scale,
              top: -sides.top * scale,
              width: Math.max(0, width * scale),
              height: Math.max(0, height * scale),
            }}
          />
        </div>
      </div>
      <div className="flex-1 space-y-2">
        <p className="text-ink-soft">Texels more on a side, or less with a minus.</p>
        {side('left', 'Left')}
        {side('top', 'Top')}
        {side('right', 'Right')}
        {side('bottom', 'Bottom')}
        <p>
          Becomes{' '}
          <span className="figures">
            {width} × {height}
          </span>
        </p>
        <Button
          kind="main"
          disabled={Object.values(sides).every((v) => v === 0)}
          onClick={() => apply({ kind: 'frame', x: -sides.left, y: -sides.top, width, height })}
        >
          Set the frame
        </Button>
      </div>
    </div>
  );
}
