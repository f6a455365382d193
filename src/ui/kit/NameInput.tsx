'use client';
/** Renaming in place: Enter or leaving accepts, Escape lets go, a name that cannot be says why. */
import { useRef, useState } from 'react';
import { nameSchema } from '@/core/document/schema';

export function NameInput({
  name,
  label,
  className,
  onAccept,
  onRefuse,
  done,
}: {
  name: string;
  label: string;
  className: string;
  onAccept: (name: string) => void;
  onRefuse: (message: string) => void;
  done: () => void;
}) {
  const [text, setText] = useState(name);
  const letGo = useRef(false);
  const accept = () => {
    const parsed = nameSchema.safeParse(text);
    if (letGo.current) return;
    if (!parsed.success) onRefuse(parsed.error.issues[0].message);
    else if (parsed.data !== name) onAccept(parsed.data);
    done();
  };
  return (
    <input
      autoFocus
      aria-label={label}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onFocus={(e) => e.currentTarget.select()}
      onBlur={accept}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Enter') e.currentTarget.blur();
        if (e.key === 'Escape') {
          letGo.current = true;
          done();
        }
      }}
      className={`rounded border border-line bg-raised ${className}`}
    />
  );
}
