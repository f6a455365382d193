'use client';
/** The mirror's planes over a pane, with handles that move them. */
import { onCanvas } from '@/core/hand/mirror';
import { HandleDot } from '../handles/HandleDot';
import { mirrorFigures, movedMirror, type MirrorFigure, type Vec } from './mirrorPlanes';
import type { PaneName } from '../pointer/pane';
import { mirrorExtent, mirrorInHand, mirrorMiddle, setMirror, useBench } from '../store';
import { useView } from './useView';

export function MirrorPlanes({ pane }: { pane: PaneName }) {
  const hand = useBench(mirrorInHand);
  const shown = useBench((s) => s.mirrorShown);
  const canvas = useBench((s) => s.geometry === null);
  const on = shown && hand !== undefined && pane === (canvas ? 'flat' : 'model');
  const { viewport } = useView(on);
  if (!on || !hand || !viewport) return null;
  const at = mirrorMiddle();
  const extent = mirrorExtent();
  const mirror = canvas ? onCanvas(hand) : hand;
  const pixel = (p: Vec) => (canvas ? viewport.flatCamera.pixelAt(p[0], p[1]) : viewport.project(p));
  const place = ({ handle }: MirrorFigure, x: number, y: number): Vec => {
    if (!canvas) return viewport.unproject(handle, x, y);
    const t = viewport.flatCamera.texelAt(x, y);
    return [t.x, t.y, 0];
  };
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" data-testid="mirror-planes">
      {mirrorFigures(mirror, at, extent, canvas).map((figure) => {
        const points = figure.outline.map(pixel).filter((p) => p !== null);
        const handle = pixel(figure.handle);
        if (!handle) return null;
        const move = (x: number, y: number) => setMirror({ at: movedMirror(mirror, at, figure.id, place(figure, x, y), canvas) });
        const d = `M${points.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}${points.length > 2 ? 'Z' : ''}`;
        return (
          <g key={figure.id}>
            <path d={d} fill="none" stroke="black" strokeOpacity="0.35" strokeWidth="2.5" />
            <path d={d} fill="none" stroke="white" strokeOpacity="0.8" strokeDasharray="5 4" />
            <HandleDot id={figure.id} label={figure.label} {...handle} onDrag={move} onDrop={() => {}} onNudge={move} />
          </g>
        );
      })}
    </svg>
  );
}
