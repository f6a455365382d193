'use client';
/** Guides over the flat sheet: grids, thirds, a picture of one's own; with their menu. */
import { Ruler } from 'lucide-react';
import { PaneButton } from '../../kit/Button';
import { Popup } from '../../kit/Popup';
import { Choice } from '../../kit/Choice';
import { NumberField } from '../../kit/NumberField';
import { PercentField } from '../../kit/PercentField';
import { guideLines, type Guides } from './guides';
import { chooseFiles } from '../pictures/pictureSet';
import { currentSheet, say, useBench } from '../store';
import { useView } from './useView';

const KINDS = [
  { value: 'none', label: 'None' },
  { value: 'square', label: 'Square grid' },
  { value: 'isometric', label: 'Isometric grid' },
  { value: 'thirds', label: 'Thirds' },
  { value: 'picture', label: 'A picture' },
] as const;
/** Pictures are kept this large at most, so that the browser's store holds them. */
const MOST_SIDE = 768;

export function GuideLines() {
  const guides = useBench((s) => s.guides);
  const sheet = useBench((s) => currentSheet(s));
  const on = guides.kind !== 'none';
  const { viewport } = useView(on);
  if (!on || !viewport) return null;
  const { flatCamera } = viewport;
  const origin = flatCamera.pixelAt(0, 0);
  const { zoom } = flatCamera;
  const [width, height] = [sheet.width * zoom, sheet.height * zoom];
  const { angle, flipped } = flatCamera;
  // Around the sheet's upper left corner, as the camera has it.
  const turn = `${flipped ? 'scale(-1, 1) ' : ''}rotate(${angle}rad)`;
  const place = { left: origin.x, top: origin.y, width, height, transform: turn, transformOrigin: '0 0' };
  if (guides.kind === 'picture')
    return guides.picture ? (
      <img
        src={guides.picture}
        alt=""
        className="pointer-events-none absolute max-w-none"
        style={{ ...place, opacity: guides.opacity }}
      />
    ) : null;
  const lines = guideLines(guides.kind, guides.count, sheet.width, sheet.height);
  const d = lines
    .map(([a, b, c, e]) => [flatCamera.pixelAt(a, b), flatCamera.pixelAt(c, e)])
    .map(([p, q]) => `M${p.x} ${p.y}L${q.x} ${q.y}`)
    .join('');
  return (
    <svg
      className="pointer-events-none absolute inset-0 h-full w-full"
      style={{ opacity: guides.opacity }}
      aria-hidden="true"
      data-testid="guides"
    >
      <path d={d} stroke="black" strokeOpacity="0.5" strokeWidth="2" fill="none" />
      <path d={d} stroke="white" strokeWidth="0.8" fill="none" />
    </svg>
  );
}

export function GuidesMenu() {
  const guides = useBench((s) => s.guides);
  const set = (change: Partial<Guides>) => useBench.setState((s) => ({ guides: { ...s.guides, ...change } }));
  const choosePicture = () =>
    chooseFiles(false, ([file]) => {
      void shrunk(file).then((picture) =>
        picture
          ? set({ picture, kind: 'picture' })
          : say(`"${file.name}" is not a picture that the browser shows: choose PNG, JPEG or WebP.`),
      );
    });
  return (
    <Popup
      label="Guides"
      className="w-60 space-y-0.5 p-2"
      trigger={
        <PaneButton active={guides.kind !== 'none'}>
          <Ruler size={14} /> Guides
        </PaneButton>
      }
    >
      <Choice
        label="Show"
        value={guides.kind}
        options={KINDS}
        onChange={(kind) => (kind === 'picture' && !guides.picture ? choosePicture() : set({ kind }))}
      />
      <PercentField
        label="Opacity"
        labelWidth="68px"
        min={0.05}
        reset={0.5}
        value={guides.opacity}
        onPreview={(v) => set({ opacity: v })}
        onCommit={(v) => set({ opacity: v })}
      />
      {(guides.kind === 'square' || guides.kind === 'isometric') && (
        <NumberField
          label="Cells"
          labelWidth="68px"
          min={2}
          max={64}
          reset={8}
          value={guides.count}
          onPreview={(v) => set({ count: Math.round(v) })}
          onCommit={(v) => set({ count: Math.round(v) })}
        />
      )}
      {guides.kind === 'picture' && (
        <button type="button" className="h-7 rounded px-1 hover:bg-field" onClick={choosePicture}>
          Another picture …
        </button>
      )}
    </Popup>
  );
}

async function shrunk(file: File): Promise<string | null> {
  const bitmap = await createImageBitmap(file).catch(() => null);
  if (!bitmap) return null;
  const k = Math.min(1, MOST_SIDE / Math.max(bitmap.width, bitmap.height));
  const canvas = document.createElement('canvas');
  canvas.width = Math.max(1, Math.round(bitmap.width * k));
  canvas.height = Math.max(1, Math.round(bitmap.height * k));
  canvas.getContext('2d')!.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  return canvas.toDataURL('image/webp', 0.85);
}
