'use client';
/** A model that was read: a look at it and its UVs, and what the piece is to be. */
import { useState } from 'react';
import type { ReadResult } from '@/engine/reading/import.worker';
import { Button } from '../kit/Button';
import { ModelPreview, UvPreview } from './ModelPreview';
import { UvReportView } from './UvReportView';
import type { Reported } from './useNewPiece';

interface ReviewProps {
  model: ReadResult;
  reported: Reported;
  name: string;
  busy: boolean;
  onName: (name: string) => void;
  onUvSet: (uvSet: number) => void;
  onMake: (of: { name: string; uvSet: number; size: number }) => void;
  onAgain: () => void;
  /** New UVs for the model, padded for sheets of this size. */
  onUnwrap: (size: number) => void;
}

export function ModelReview(props: ReviewProps) {
  const { model, reported, onAgain } = props;
  const stopped = reported.report.problems.some((p) => p.weight === 'stop');
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,420px)] gap-6">
      <div className="overflow-hidden rounded-lg border border-line">
        <div className="h-[420px]">
          <ModelPreview model={model} />
        </div>
        <dl className="flex flex-wrap gap-x-6 gap-y-1 bg-raised px-4 py-2.5 text-ink-soft">
          <Fact label="triangles" value={model.triangles} />
          <Fact label="vertices" value={model.fileVertices} />
          <Fact label="parts" value={model.parts.length} />
          <Fact label="materials" value={model.materials.length} />
          <Fact label="UV sets" value={model.uvSets} />
        </dl>
      </div>
      <div className="flex flex-col gap-4">
        <UvReportView report={reported.report} wires={reported.wires} Preview={UvPreview} />
        {stopped ? (
          <div className="space-y-2">
            <p className="text-ink-soft">
              Brindle can lay the model out by itself: charts along its edges, with room between them, one square a material.
            </p>
            <div className="flex gap-2">
              <Button kind="main" onClick={() => props.onUnwrap(1024)}>
                Unwrap it
              </Button>
              <Button onClick={onAgain}>Choose another file</Button>
            </div>
          </div>
        ) : (
          <ModelForm {...props} />
        )}
      </div>
    </div>
  );
}

function ModelForm({ model, reported, name, busy, onName, onUvSet, onMake, onAgain, onUnwrap }: ReviewProps) {
  const [size, setSize] = useState(1024);
  return (
    <form
      className="space-y-3"
      onSubmit={(e) => {
        e.preventDefault();

        onMake({ name, uvSet: reported.uvSet, size });
      }}
    >
      <label className="flex items-center gap-3">
        <span className="w-24 text-ink-soft">Name</span>
        <input
          required
          maxLength={120}
          value={name}
          onChange={(e) => onName(e.target.value)}
          className="h-8 flex-1 rounded border border-line bg-raised px-2"
        />
      </label>
      {model.uvSets > 1 && (
        <label className="flex items-center gap-3">
          <span className="w-24 text-ink-soft">UV set</span>
          <select
            value={reported.uvSet}
            onChange={(e) => onUvSet(Number(e.target.value))}
            className="h-8 rounded border border-line bg-raised px-2"
          >
            {Array.from({ length: model.uvSets }, (_, i) => (
              <option key={i} value={i}>
                Set {i + 1}
              </option>
            ))}
          </select>
        </label>
      )}
      <label className="flex items-center gap-3">
        <span className="w-24 text-ink-soft">Sheet size</span>
        <select
          value={size}
          onChange={(e) => setSize(Number(e.target.value))}
          className="figures h-8 rounded border border-line bg-raised px-2"
        >
          {[64, 128, 256, 512, 1024, 2048, 4096].map((s) => (
            <option key={s} value={s}>
              {s} × {s}
            </option>
          ))}
        </select>
        <span className="text-[12px] text-ink-soft">1024 suits a prop, 2048 a character</span>
      </label>
      <p className="text-[12px] text-ink-soft">
        One sheet per material: {model.materials.slice(0, 4).join(', ')}
        {model.materials.length > 4 && ` and ${model.materials.length - 4} more`}. Each carries base colour, height, roughness and
        metallic.
      </p>
      <div className="flex gap-2">
        <Button kind="main" type="submit" disabled={busy}>
          {busy ? 'Making the piece …' : 'Make the piece'}
        </Button>
        <Button onClick={onAgain}>Choose another file</Button>
        <Button kind="quiet" disabled={busy} onClick={() => onUnwrap(size)}>
          Unwrap anew
        </Button>
      </div>
    </form>
  );
}

function Fact({ label, value }: { label: string; value: number }) {
  return (
    <div className="flex items-baseline gap-1.5">
      <dd className="figures text-ink">{value.toLocaleString('en')}</dd>
      <dt>{label}</dt>
    </div>
  );
}
