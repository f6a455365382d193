'use client';
/** A new piece: a model with a look at it and its UVs, or a tileable canvas. */
import { ArrowLeft } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import type { UvReport } from '@/core/mesh/uvReport';
import type { ImportEvent, ImportRequest, ReadResult } from '@/engine/import.worker';
import { ask } from '../common/api';
import { Button, Segments } from '../common/controls';
import { CanvasForm } from './CanvasForm';
import { chosenFiles, droppedFiles, readFiles, type NamedFile } from './droppedFiles';
import { ModelPreview, UvPreview } from './ModelPreview';
import { UvReportView } from './UvReportView';

type Stage = 'choose' | 'reading' | 'ready' | 'making';

export function NewPiece() {
  const router = useRouter();
  const [kind, setKind] = useState<'model' | 'canvas'>('model');
  const [stage, setStage] = useState<Stage>('choose');
  const [failure, setFailure] = useState('');
  const [model, setModel] = useState<ReadResult | null>(null);
  const [reported, setReported] = useState<{ uvSet: number; report: UvReport; wires: Float32Array[] } | null>(null);
  const [name, setName] = useState('');
  const [size, setSize] = useState(1024);
  const worker = useRef<Worker | null>(null);
  useEffect(() => () => worker.current?.terminate(), []);

  const send = (request: ImportRequest) => {
    if (!worker.current) {
      worker.current = new Worker(new URL('../../engine/import.worker.ts', import.meta.url), { type: 'module' });
      worker.current.onmessage = (message: MessageEvent<ImportEvent>) => receive(message.data);
      worker.current.onerror = worker.current.onmessageerror = () =>
        fail('The file made the reader stop: it is refused. Export it again, or as another format.');
    }
    worker.current.postMessage(request);
  };
  const fail = (message: string) => {
    worker.current?.terminate();
    worker.current = null;
    setFailure(message);
    setStage('choose');
    setModel(null);
    setReported(null);
  };
  const receive = (event: ImportEvent) => {
    if (event.type === 'read') setModel(event.result);
    else if (event.type === 'reported') {
      setReported(event);
      setStage('ready');
    } else if (event.type === 'made') void upload(event.file);
    else fail(event.message);
  };
  const upload = async (file: Uint8Array<ArrayBuffer>) => {
    try {
      const { id } = await ask<{ id: string }>('/api/pieces/import', { method: 'POST', body: file });
      router.push(`/pieces/${id}`);
    } catch (error) {
      setFailure((error as Error).message);
      setStage(kind === 'model' ? 'ready' : 'choose');
    }
  };
  const take = async (files: NamedFile[]) => {
    if (files.length === 0) return;
    setFailure('');
    setStage('reading');
    setModel(null);
    setReported(null);
    worker.current?.terminate();
    worker.current = null;
    try {
      const read = await readFiles(files);
      const main = files.find(([p]) => /\.(glb|gltf|obj)$/i.test(p))?.[0] ?? files[0][0];
      setName(
        main
          .split('/')
          .pop()!
          .replace(/\.\w+$/, '')
          .replace(/[_-]+/g, ' ')
          .trim()
          .slice(0, 100) || 'Untitled',
      );
      send({ type: 'read', files: read });
    } catch (error) {
      fail((error as Error).message);
    }
  };
  const stopped = reported?.report.problems.some((p) => p.weight === 'stop') ?? false;

  return (
    <div
      className="min-h-dvh"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        setKind('model');
        void droppedFiles(e.dataTransfer).then(take);
      }}
    >
      <header className="flex h-14 items-center gap-3 border-b border-line px-6">
        <Link href="/" aria-label="Back to the pieces" className="rounded p-1 hover:bg-field">
          <ArrowLeft size={18} />
        </Link>
        <h1 className="text-[17px] font-semibold">New piece</h1>
        <span className="w-4" />
        <Segments
          label="What it is painted on"
          value={kind}
          options={[
            { value: 'model', label: 'UV-mapped model' },
            { value: 'canvas', label: 'Tileable canvas' },
          ]}
          onChange={(k) => {
            setKind(k);
            setFailure('');
          }}
        />
      </header>
      <main className="mx-auto max-w-[1180px] p-6">
        {failure && (
          <p role="alert" className="mb-4 rounded border border-fault/50 bg-raised px-3 py-2 text-fault">
            {failure}
          </p>
        )}
        {kind === 'canvas' ? (
          <CanvasForm
            busy={stage === 'making'}
            onMake={(canvas) => {
              setStage('making');
              setFailure('');
              send({ type: 'make-canvas', ...canvas });
            }}
          />
        ) : stage === 'choose' || stage === 'reading' ? (
          <DropArea reading={stage === 'reading'} onFiles={(files) => void take(files)} onCancel={() => fail('')} />
        ) : (
          model &&
          reported && (
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
                {!stopped && (
                  <form
                    className="space-y-3"
                    onSubmit={(e) => {
                      e.preventDefault();
                      setStage('making');
                      setFailure('');
                      send({ type: 'make-model', name, uvSet: reported.uvSet, size });
                    }}
                  >
                    <label className="flex items-center gap-3">
                      <span className="w-24 text-ink-soft">Name</span>
                      <input
                        required
                        maxLength={120}
                        value={name}
                        onChange={(e) => setName(e.target.value)}
                        className="h-8 flex-1 rounded border border-line bg-raised px-2"
                      />
                    </label>
                    {model.uvSets > 1 && (
                      <label className="flex items-center gap-3">
                        <span className="w-24 text-ink-soft">UV set</span>
                        <select
                          value={reported.uvSet}
                          onChange={(e) => send({ type: 'report', uvSet: Number(e.target.value) })}
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
                      {model.materials.length > 4 && ` and ${model.materials.length - 4} more`}. Each carries base colour, height,
                      roughness and metallic.
                    </p>
                    <div className="flex gap-2">
                      <Button kind="main" type="submit" disabled={stage === 'making'}>
                        {stage === 'making' ? 'Making the piece …' : 'Make the piece'}
                      </Button>
                      <Button onClick={() => fail('')}>Choose another file</Button>
                    </div>
                  </form>
                )}
                {stopped && <Button onClick={() => fail('')}>Choose another file</Button>}
              </div>
            </div>
          )
        )}
      </main>
    </div>
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

function DropArea({
  reading,
  onFiles,
  onCancel,
}: {
  reading: boolean;
  onFiles: (files: NamedFile[]) => void;
  onCancel: () => void;
}) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  return (
    <div className="flex h-[420px] flex-col items-center justify-center gap-4 rounded-lg border border-dashed border-ink-soft/60 bg-raised text-center">
      {reading ? (
        <>
          <p className="text-[15px] font-semibold">Reading the model …</p>
          <Button onClick={onCancel}>Cancel</Button>
        </>
      ) : (
        <>
          <p className="text-[16px] font-semibold">Drop a model here, with its files</p>
          <p className="max-w-md text-ink-soft">
            GLB, glTF with its .bin and pictures, or OBJ with its MTL. A whole folder is fine. The files stay on this machine.
          </p>
          <div className="flex gap-2">
            <input
              ref={files}
              data-testid="model-files"
              type="file"
              multiple
              hidden
              onChange={(e) => e.target.files && onFiles(chosenFiles(e.target.files))}
            />
            <input
              ref={folder}
              type="file"
              hidden
              {...{ webkitdirectory: '' }}
              onChange={(e) => e.target.files && onFiles(chosenFiles(e.target.files))}
            />
            <Button kind="main" onClick={() => files.current?.click()}>
              Choose files
            </Button>
            <Button onClick={() => folder.current?.click()}>Choose a folder</Button>
          </div>
        </>
      )}
    </div>
  );
}
