'use client';
/** One of a list of things that are kept under names: a click takes it, and it is renamed and deleted in place. */
import { useState } from 'react';
import { NameInput } from '../../kit/NameInput';
import { say } from '../store';

interface Props {
  name: string;
  /** What it is, in a word. */
  what: string;
  /** What a click does. */
  title: string;
  /** It is a switch, on or off; left out: it is merely taken. */
  on?: boolean;
  /** It is the one at hand. */
  chosen?: boolean;
  onTake: () => void;
  onRename: (name: string) => void;
  onDelete: () => void;
}

export function KeptRow({ name, what, title, on, chosen = false, onTake, onRename, onDelete }: Props) {
  const [naming, setNaming] = useState(false);
  if (naming)
    return (
      <NameInput
        name={name}
        label={`Name of the ${what}`}
        className="h-6 w-full px-1"
        onAccept={onRename}
        onRefuse={say}
        done={() => setNaming(false)}
      />
    );
  return (
    <div className={`flex h-7 items-center rounded ${chosen ? 'bg-field' : 'hover:bg-field'}`}>
      <button
        type="button"
        {...(on !== undefined && { role: 'switch', 'aria-checked': on })}
        title={`${title}; double click to rename`}
        className={`min-w-0 flex-1 truncate px-1.5 text-left ${on ? 'text-accent-ink' : ''}`}
        onClick={onTake}
        onDoubleClick={() => setNaming(true)}
      >
        {name}
      </button>
      {(['Rename', 'Delete'] as const).map((act) => (
        <button
          key={act}
          type="button"
          aria-label={`${act} ${name}`}
          className="h-6 rounded px-1.5 text-[12px] text-ink-soft hover:text-ink"
          onClick={() => (act === 'Rename' ? setNaming(true) : onDelete())}
        >
          {act}
        </button>
      ))}
    </div>
  );
}
