'use client';
/** A new piece: a model with a look at it and its UVs, or a tileable canvas. */
import { ArrowLeft } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { Segments } from '../kit/Segments';
import { CanvasForm } from './CanvasForm';
import { DropArea } from './DropArea';
import { droppedFiles } from './droppedFiles';
import { ModelReview } from './ModelReview';
import { useNewPiece } from './useNewPiece';

/** The piece is there, but not all that its model has is in it. */
function Made({ name, id, notes }: { name: string; id: string; notes: readonly string[] }) {
  return (
    <section className="max-w-[640px] space-y-4">
      <h2 className="text-[15px] font-semibold">“{name}” is made, but not all of its model came in</h2>
      <ul className="list-disc space-y-1.5 pl-5">
        {notes.map((note) => (
          <li key={note}>{note}</li>
        ))}
      </ul>
      <Link
        href={`/pieces/${id}`}
        autoFocus
        className="inline-flex h-8 items-center rounded bg-ink px-3 font-medium text-panel hover:opacity-85"
      >
        Open the piece
      </Link>
    </section>
  );
}

export function NewPiece() {
  const [kind, setKind] = useState<'model' | 'canvas'>('model');
  const piece = useNewPiece();
  const { stage, failure, made, model, reported } = piece;

  return (
    <div
      className="min-h-dvh"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        setKind('model');
        void droppedFiles(e.dataTransfer).then(piece.take);
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
            piece.forgive();
          }}
        />
      </header>
      <main className="mx-auto max-w-[1180px] p-6">
        {failure && (
          <p role="alert" className="mb-4 rounded border border-fault/50 bg-raised px-3 py-2 text-fault">
            {failure}
          </p>
        )}
        {stage === 'made' && made ? (
          <Made name={piece.name} {...made} />
        ) : kind === 'canvas' ? (
          <CanvasForm busy={stage === 'making'} onMake={(canvas) => piece.make({ type: 'make-canvas', ...canvas })} />
        ) : stage === 'choose' || stage === 'reading' ? (
          <DropArea reading={stage === 'reading'} onFiles={(files) => void piece.take(files)} onCancel={piece.again} />
        ) : (
          model &&
          reported && (
            <ModelReview
              model={model}
              reported={reported}
              name={piece.name}
              busy={stage === 'making'}
              onName={piece.setName}
              onUvSet={piece.report}
              onMake={(of) => piece.make({ type: 'make-model', ...of })}
              onAgain={piece.again}
              onUnwrap={piece.unwrap}
            />
          )
        )}
      </main>
    </div>
  );
}
