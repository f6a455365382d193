'use client';
/** Where files are dropped or chosen. */
import { useRef } from 'react';
import { Button } from '../kit/Button';
import { chosenFiles, type NamedFile } from './droppedFiles';

export function DropArea({
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
            GLB, glTF with its .bin and pictures, OBJ with its MTL, COLLADA, PLY or STL. A whole folder is fine. The files stay on
            this machine.
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
