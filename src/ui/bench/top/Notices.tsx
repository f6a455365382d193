'use client';
/** Messages about changes that the application made to the piece, until the artist dismisses them. */
import { Info } from 'lucide-react';
import { setPieceEdit } from '@/core/document/edits';
import { Button } from '../../kit/Button';
import { edit, useBench } from '../store';

const NONE: string[] = [];

export function Notices() {
  const notices = useBench((s) => s.document?.notices ?? NONE);
  if (!notices.length) return null;
  return (
    <div role="status" className="flex items-start gap-3 border-b border-line bg-field px-3 py-2">
      <Info aria-hidden size={16} className="mt-0.5 shrink-0 text-ink-soft" />
      <div className="min-w-0 flex-1">
        {notices.map((notice) => (
          <p key={notice}>{notice}</p>
        ))}
      </div>
      <Button onClick={() => edit(setPieceEdit(useBench.getState().document!, { notices: [] }), 'Notice read')}>
        Understood
      </Button>
    </div>
  );
}
