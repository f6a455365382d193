'use client';
/** A button that takes one file. */
import { useRef, type ReactNode } from 'react';
import { IconButton } from './Button';

interface FileButtonProps {
  label: string;
  /** What the file is, for who cannot see the button. */
  what: string;
  accept: string;
  onFile: (file: File) => void;
  children: ReactNode;
}

export function FileButton({ label, what, accept, onFile, children }: FileButtonProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <IconButton label={label} onClick={() => input.current?.click()}>
        {children}
      </IconButton>
      <input
        ref={input}
        type="file"
        accept={accept}
        hidden
        aria-label={what}
        onChange={(e) => {
          const file = e.target.files?.[0];
          // The same file can be chosen again.
          e.target.value = '';
          if (file) onFile(file);
        }}
      />
    </>
  );
}
