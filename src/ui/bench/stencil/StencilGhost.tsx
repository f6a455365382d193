'use client';
/** A stencil over a pane: its ghost, and the handles that move, turn and scale it. */
import { useEffect, useMemo, useState } from 'react';
import type { Answers } from '@/engine/protocol';
import { HandleDot } from '../handles/HandleDot';
import type { PaneName } from '../pointer/pane';
import { bench, currentSheet, keptStencil, useBench } from '../store';
import { useView } from '../panes/useView';
import { setStencil, showStencil } from './commands';
import { cornerAt, ghostPixels, middleAt, placeIn, unitIn } from './ghost';

type Shown = Answers['stencil'];

/** What the stencil shows, fetched once. `undefined`: on its way. */
function useShown(of: string | null): Shown | undefined {
  const [shown, setShown] = useState<{ of: string; picture: Shown }>();
  const stencil = useBench((s) => (of ? keptStencil(s)?.stencil : undefined));
  useEffect(() => {
    if (!of || !stencil) return;
    let gone = false;
    void bench()
      .ask({ ask: 'stencil', sheetId: currentSheet().id, stencil })
      .then((picture) => !gone && setShown({ of, picture }))
      .catch(() => undefined);
    return () => {
      gone = true;
    };
    // The picture hangs on what it is of alone.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [of]);
  return shown?.of === of ? shown?.picture : undefined;
}

export function StencilGhost({ pane }: { pane: PaneName }) {
  const on = useBench((s) => s.stencil?.on ?? false);
  const kept = useBench((s) => keptStencil(s));
  const well = useBench((s) => s.wells[0]);
  const width = useBench((s) => currentSheet(s).width);
  const stencil = on && kept ? kept.stencil : null;
  const shown = useShown(stencil && JSON.stringify(stencil.of));
  const here = stencil !== null && (stencil.over === 'view' ? pane === 'model' : pane === 'flat');
  const { viewport } = useView(here);
  const look = stencil && JSON.stringify([stencil.use, stencil.invert, stencil.cut]);
  const url = useMemo(() => {
    if (!shown || !stencil || !here) return null;
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [shown.width, shown.height];
    canvas.getContext('2d')!.putImageData(ghostPixels(shown, stencil, well), 0, 0);
    return canvas.toDataURL();
    // Where it lies does not change what it shows.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shown, look, well, here]);
  if (!here || !stencil || !viewport) return null;
  const unit = unitIn(viewport, pane, stencil, width);
  if (!unit) return null;
  if (shown === null)
    return (
      <p className="pointer-events-none absolute bottom-3 left-1/2 -translate-x-1/2 rounded bg-panel px-2.5 py-1.5 whitespace-nowrap shadow">
        The picture of “{kept!.name}” is gone: choose another stencil.
      </p>
    );
  if (!shown || !url) return null;
  const { x, y, height, angle, flip } = placeIn(stencil, unit);
  const aspect = shown.width / shown.height;
  const wide = height * aspect;
  const matrix = `translate(${x} ${y}) rotate(${angle}) scale(${flip ? -1 : 1} 1) translate(${-wide / 2} ${-height / 2})`;
  const a = (angle * Math.PI) / 180;
  const corner = {
    x: x + (Math.cos(a) * wide) / 2 + (Math.sin(a) * height) / 2,
    y: y + (Math.sin(a) * wide) / 2 - (Math.cos(a) * height) / 2,
  };
  const move = (px: number, py: number) => middleAt(unit, px, py);
  const scale = (px: number, py: number) => cornerAt(stencil, unit, aspect, px, py);
  const pattern = `stencil-${pane}`;
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full overflow-hidden" data-testid="stencil">
      {stencil.tiled ? (
        <>
          <defs>
            <pattern id={pattern} width={wide} height={height} patternUnits="userSpaceOnUse" patternTransform={matrix}>
              <image href={url} width={wide} height={height} preserveAspectRatio="none" />
            </pattern>
          </defs>
          <rect width="100%" height="100%" fill={`url(#${pattern})`} opacity={kept!.ghost} />
        </>
      ) : (
        <image
          href={url}
          width={wide}
          height={height}
          transform={matrix}
          preserveAspectRatio="none"
          opacity={kept!.ghost}
          style={{ imageRendering: height > shown.height * 2 ? 'pixelated' : 'auto' }}
        />
      )}
      <rect width={wide} height={height} transform={matrix} fill="none" stroke="black" strokeOpacity="0.5" strokeWidth="2.5" />
      <rect width={wide} height={height} transform={matrix} fill="none" stroke="white" strokeDasharray="5 4" />
      <HandleDot
        id="stencil-middle"
        label="Move the stencil"
        x={x}
        y={y}
        onDrag={(px, py) => showStencil(move(px, py))}
        onDrop={() => setStencil({}, 'moved')}
        onNudge={(px, py) => setStencil(move(px, py), 'moved')}
      />
      <HandleDot
        id="stencil-corner"
        label="Turn and scale the stencil"
        look="size"
        x={corner.x}
        y={corner.y}
        onDrag={(px, py) => showStencil(scale(px, py))}
        onDrop={() => setStencil({}, 'turned and scaled')}
        onNudge={(px, py) => setStencil(scale(px, py), 'turned and scaled')}
      />
    </svg>
  );
}
