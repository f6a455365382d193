'use client';
/** From files, or a canvas's settings, to a piece: read and made in a worker of its own, then handed to the server. */
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { MODEL_FILE } from '@/core/mesh/companions';
import type { UvReport } from '@/core/mesh/uvReport';
import type { ImportEvent, ImportRequest, ReadResult } from '@/engine/reading/import.worker';
import { ask } from '../common/api';
import { readFiles, type NamedFile } from './droppedFiles';

export interface Reported {
  uvSet: number;
  report: UvReport;
  wires: Float32Array[];
}

export function useNewPiece() {
  const router = useRouter();
  const [stage, setStage] = useState<'choose' | 'reading' | 'ready' | 'making' | 'made'>('choose');
  /** A piece that was made, and what of its model did not come in. */
  const [made, setMade] = useState<{ id: string; notes: string[] } | null>(null);
  const [failure, setFailure] = useState('');
  const [model, setModel] = useState<ReadResult | null>(null);
  const [reported, setReported] = useState<Reported | null>(null);
  const [name, setName] = useState('');
  const worker = useRef<Worker | null>(null);
  /** What is being made is made of the model that was read. */
  const ofModel = useRef(false);
  useEffect(() => () => worker.current?.terminate(), []);

  const send = (request: ImportRequest) => {
    if (!worker.current) {
      worker.current = new Worker(new URL('../../engine/reading/import.worker.ts', import.meta.url), { type: 'module' });
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
    } else if (event.type === 'made') void upload(event.file, event.notes);
    else fail(event.message);
  };
  const upload = async (file: Uint8Array<ArrayBuffer>, notes: string[]) => {
    try {
      const { id } = await ask<{ id: string }>('/api/pieces/import', { method: 'POST', body: file });
      if (notes.length === 0) return router.push(`/pieces/${id}`);
      setMade({ id, notes });
      setStage('made');
    } catch (error) {
      setFailure((error as Error).message);
      setStage(ofModel.current ? 'ready' : 'choose');
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
      const main = files.find(([p]) => MODEL_FILE.test(p))?.[0] ?? files[0][0];
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
  return {
    stage,
    failure,
    made,
    model,
    reported,
    name,
    setName,
    take,
    /** Back to choosing. */
    again: () => fail(''),
    /** Lays the model out anew, for sheets of a size. */
    unwrap: (size: number) => {
      setStage('reading');
      setFailure('');
      send({ type: 'unwrap', size });
    },
    report: (uvSet: number) => send({ type: 'report', uvSet }),
    make: (request: Extract<ImportRequest, { type: 'make-model' | 'make-canvas' }>) => {
      setStage('making');
      setFailure('');
      ofModel.current = request.type === 'make-model';
      send(request);
    },
    forgive: () => setFailure(''),
  };
}
