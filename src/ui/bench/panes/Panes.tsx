'use client';
/** The model and the flat sheet, side by side over one canvas. */
import { Maximize2, Minimize2 } from 'lucide-react';
import { useEffect, useRef, useState, type RefObject } from 'react';
import type { LastLook } from '@/core/piece/look';
import { Group, Panel, Separator } from 'react-resizable-panels';
import { BenchViewport, type PaneRect } from '@/viewport/benchViewport';
import { IconButton } from '../../kit/Button';
import { Tip } from '../../kit/Tip';
import { AreaBox } from './AreaBox';
import { CaptureBox } from './CaptureBox';
import { GuideLines } from './GuideLines';
import { Handles } from '../handles/Handles';
import { camerasLeft, keepLook, stateLeft } from './look';
import { Panes as LookPanes, Thumbnail } from './LookPicture';
import { MirrorPlanes } from './MirrorPlanes';
import { FlatTools, ModelTools } from './PaneTools';
import { Squint } from './Squint';
import { StencilGhost } from '../stencil/StencilGhost';
import { pixels, sendViewing, seenNow, useBench } from '../store';
import type { PaneName } from '../pointer/pane';
import { usePanePointer } from '../pointer/usePanePointer';
import { holder } from './viewportHolder';

export function Panes({ pieceId, look }: { pieceId: string; look: LastLook | null }) {
  const area = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const model = useRef<HTMLDivElement>(null);
  const flat = useRef<HTMLDivElement>(null);
  const filled = useBench((s) => s.filled);
  const covered = useViewport({ area, canvas, model, flat }, filled, pieceId, look);
  return (
    <div ref={area} className="relative min-h-0 flex-1 bg-work" data-testid="panes">
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" aria-hidden="true" />
      {covered && look?.left && <LookPanes pieceId={pieceId} at={look.at} />}
      {covered && look && !look.left && <Thumbnail pieceId={pieceId} />}
      <Group orientation="horizontal" className="absolute inset-0" id="panes">
        {filled !== 'flat' && (
          <Panel id="model" minSize="15%" defaultSize={filled === 'both' ? '60%' : '100%'}>
            <Pane name="model" box={model} />
          </Panel>
        )}
        {filled === 'both' && (
          <Separator
            aria-label="Divider between the panes"
            className="w-1 bg-panel transition-colors hover:bg-accent data-[separator=active]:bg-accent"
          />
        )}
        {filled !== 'model' && (
          <Panel id="flat" minSize="15%" defaultSize={filled === 'both' ? '40%' : '100%'}>
            <Pane name="flat" box={flat} />
          </Panel>
        )}
      </Group>
      <Squint canvas={canvas} />
    </div>
  );
}

function Pane({ name, box }: { name: PaneName; box: RefObject<HTMLDivElement | null> }) {
  const ring = useRef<SVGGElement>(null);
  usePanePointer(name, box, ring);
  const filled = useBench((s) => s.filled);
  const isFull = filled === name;
  return (
    <div className="relative h-full w-full overflow-hidden">
      <div
        ref={box}
        tabIndex={0}
        role="application"
        aria-label={
          name === 'model'
            ? 'Model. Drag to paint, right drag to turn, wheel to zoom.'
            : 'Flat sheet. Drag to paint, right drag to slide, wheel to zoom.'
        }
        data-testid={`pane-${name}`}
        className="absolute inset-0 cursor-none touch-none outline-none"
      />
      <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
        <g ref={ring} style={{ display: 'none' }} fill="none">
          <path stroke="black" strokeOpacity="0.55" strokeWidth="2.5" />
          <path stroke="white" strokeWidth="1" />
        </g>
      </svg>
      {name === 'flat' && <GuideLines />}
      <StencilGhost pane={name} />
      <MirrorPlanes pane={name} />
      <CaptureBox pane={name} />
      <AreaBox pane={name} />
      <Handles pane={name} />
      <div className="pointer-events-none absolute inset-x-0 top-0 flex items-start justify-between p-1.5">
        <div className="pointer-events-auto">{name === 'model' ? <ModelTools /> : <FlatTools />}</div>
        <Tip label={isFull ? 'Show both panes' : `Fill the bench with the ${name === 'model' ? 'model' : 'flat sheet'}`}>
          <span className="pointer-events-auto rounded bg-panel/85">
            <IconButton
              label={isFull ? 'Show both panes' : `Fill with ${name}`}
              onClick={() => useBench.setState({ filled: isFull ? 'both' : name })}
            >
              {isFull ? <Minimize2 size={14} /> : <Maximize2 size={14} />}
            </IconButton>
          </span>
        </Tip>
      </div>
    </div>
  );
}

type BoxRef = RefObject<HTMLDivElement | null>;

interface Boxes {
  area: BoxRef;
  canvas: RefObject<HTMLCanvasElement | null>;
  model: BoxRef;
  flat: BoxRef;
}

/**
 * Whether a picture still covers the panes: the one that the bench was left with until they are drawn exactly, a thumbnail until
 * anything is drawn; or until something is done in them.
 */
function useViewport({ area, canvas, model, flat }: Boxes, filled: string, pieceId: string, look: LastLook | null): boolean {
  const left = look?.left ?? null;
  const [covered, setCovered] = useState(left !== null || !!look?.hasThumbnail);
  const viewport = useRef<BenchViewport | null>(null);
  const place = useRef(() => {});
  useEffect(() => {
    const v = new BenchViewport(canvas.current!);
    viewport.current = holder.viewport = v;
    if (left) stateLeft(left);
    const state = useBench.getState();
    place.current = () => {
      const outer = area.current!.getBoundingClientRect();
      const rect = (el: HTMLDivElement | null): PaneRect | null => {
        if (!el?.isConnected) return null;
        const b = el.getBoundingClientRect();
        return { x: b.left - outer.left, y: b.top - outer.top, width: b.width, height: b.height };
      };
      v.setPanes(outer.width, outer.height, rect(model.current), rect(flat.current));
    };
    place.current();
    v.setView(seenNow(state));
    v.setMaskMode(state.maskMode);
    v.open(state.document!, state.geometry);
    v.setSheet(state.sheetId);
    v.setWireOpacity(state.wireOpacity);
    v.setFlatRepeats(state.flatRepeats);
    v.setForm(state.form);
    v.setLight(state.light);
    place.current();
    if (left) camerasLeft(v, left);
    sendViewing();
    const uncover = () => setCovered(false);
    const areaNow = area.current!;
    for (const what of ['pointerdown', 'wheel'] as const) areaNow.addEventListener(what, uncover, { once: true });
    let shown = false;
    let strokeSeen: number | null = null;
    const seen = v.drawn.listen(() => {
      if (shown) uncover();
      if (strokeSeen !== null) markPointerToPixel(strokeSeen);
      strokeSeen = null;
    });
    const kept = keepLook(pieceId, v, () => area.current?.getBoundingClientRect());
    const deaf = pixels.listen(({ patches, strokeAt, exact }) => {
      shown ||= exact || (!left && patches.length > 0);
      v.applyPatches(patches, exact || strokeAt !== null);
      if (exact) performance.mark('brindle:exact');
      performance.mark('brindle:pixels');
      if (performance.getEntriesByName('brindle:pixels').length > 5000) performance.clearMarks('brindle:pixels');
      strokeSeen = strokeAt ?? strokeSeen;
    });
    const unsubscribe = useBench.subscribe((now, before) => {
      if (now.document && now.document !== before.document) v.setPiece(now.document);
      if (seenNow(now) !== seenNow(before)) v.setView(seenNow(now));
      if (now.maskMode !== before.maskMode) v.setMaskMode(now.maskMode);
      if (now.sheetId !== before.sheetId) v.setSheet(now.sheetId);
      if (now.wireOpacity !== before.wireOpacity) v.setWireOpacity(now.wireOpacity);
      if (now.flatRepeats !== before.flatRepeats) v.setFlatRepeats(now.flatRepeats);
      if (now.light !== before.light) v.setLight(now.light);
      if (now.form !== before.form) v.setForm(now.form);
      if (now.albedoMarks !== before.albedoMarks) v.setAlbedoMarks(now.albedoMarks);
    });
    // The grey around the work belongs to the scheme.
    const scheme = new MutationObserver(() => v.invalidate());
    scheme.observe(document.documentElement, { attributeFilter: ['data-scheme'] });
    return () => {
      scheme.disconnect();
      unsubscribe();
      deaf();
      seen();
      kept();
      for (const what of ['pointerdown', 'wheel'] as const) areaNow.removeEventListener(what, uncover);
      holder.viewport = null;
      v.dispose();
    };
    // How it was left is taken up once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [area, canvas, model, flat, pieceId]);
  useEffect(() => {
    const observer = new ResizeObserver(() => place.current());
    for (const el of [area.current, model.current, flat.current]) if (el) observer.observe(el);
    place.current();
    return () => observer.disconnect();
  }, [area, model, flat, filled]);
  return covered;
}

/** From the newest pointer event in a batch of texels to the frame that shows them; read by `brindle bench`. */
function markPointerToPixel(start: number): void {
  performance.measure('brindle:pointer-to-pixel', { start, end: performance.now() });
  if (performance.getEntriesByName('brindle:pointer-to-pixel').length > 5000)
    performance.clearMeasures('brindle:pointer-to-pixel');
}
