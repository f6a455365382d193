'use client';
/** The sheet of keys: what there is for what is at hand, and each can be changed. */
import { Download, RotateCcw, Upload } from 'lucide-react';
import { useState } from 'react';
import { download } from '../../common/api';
import { Button, IconButton } from '../../kit/Button';
import { FileButton } from '../../kit/FileButton';
import { DialogBox } from '../../kit/DialogBox';
import { COMMANDS } from './commands';
import { clashes, keyFile, keyOfEvent, keysOf, put, readKeyFile, setKeys, useKeyMap } from './keymap';
import { shownKey } from './keys';
import { say } from '../store';

/** What pointer and keys do together. */
const HELD = [
  ['Drag', 'paint'],
  ['Right drag · Space drag', 'turn the model, slide the sheet'],
  ['Shift right drag · Middle drag', 'slide'],
  ['Wheel · two fingers', 'zoom'],
  ['Shift click', 'a straight line from where the last stroke ended'],
  ['Ctrl', 'a line at steps of 15°'],
  ['P click', 'strokes run to this point'],
  ['Z drag', 'size, and flow'],
  ['Alt click', 'pick; for clone and heal: where to take from'],
  ['L drag', 'turn the light'],
  ['A tool’s key, held', 'that tool until it is let go'],
  ['Escape', 'take the stroke back'],
] as const;

export function KeySheet({ onClose }: { onClose: () => void }) {
  const own = useKeyMap((s) => s.own);
  const [asked, setAsked] = useState('');
  const [waiting, setWaiting] = useState<string | null>(null);
  const shared = clashes(COMMANDS, own);
  const words = asked.trim().toLowerCase();
  const groups = [...new Set(COMMANDS.map((c) => c.group))];
  return (
    <DialogBox title="Keys" onClose={onClose}>
      <div className="mb-2 flex items-center gap-1">
        <input
          aria-label="Find a command"
          placeholder="Find a command"
          value={asked}
          onChange={(e) => setAsked(e.target.value)}
          onKeyDown={(e) => e.key !== 'Escape' && e.stopPropagation()}
          className="h-8 min-w-0 flex-1 rounded border border-line bg-raised px-2"
        />
        <FileButton
          label="Import keys from a file"
          what="File of keys"
          accept=".json"
          onFile={(file) => void file.text().then((text) => say(readKeyFile(text) ?? 'The keys are as in the file.'))}
        >
          <Upload size={14} />
        </FileButton>
        <IconButton label="Export the keys" onClick={() => download(new TextEncoder().encode(keyFile()), 'brindle-keys.json')}>
          <Download size={14} />
        </IconButton>
        <Button kind="quiet" disabled={Object.keys(own).length === 0} onClick={() => put({})}>
          All as they came
        </Button>
      </div>
      <div className="max-h-[60vh] overflow-y-auto pr-1">
        {!words && (
          <section aria-label="With the pointer" className="mb-3">
            <h3 className="mb-1 text-ink-soft">With the pointer</h3>
            <dl className="grid grid-cols-[190px_1fr] gap-y-0.5">
              {HELD.map(([keys, what]) => (
                <div key={keys} className="contents">
                  <dt className="figures">{keys}</dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        )}
        {groups.map((group) => {
          const commands = COMMANDS.filter((c) => c.group === group && `${c.label} ${c.group}`.toLowerCase().includes(words));
          if (commands.length === 0) return null;
          return (
            <section key={group} aria-label={group} className="mb-3">
              <h3 className="mb-1 text-ink-soft">{group}</h3>
              <ul>
                {commands.map((command) => {
                  const keys = keysOf(command, own);
                  const with_ = keys.flatMap((key) => shared.get(key) ?? []).filter((id) => id !== command.id);
                  return (
                    <li key={command.id} className="flex h-8 items-center gap-2 border-t border-line">
                      <span className="min-w-0 flex-1 truncate">{command.label}</span>
                      {with_.length > 0 && (
                        <span className="truncate text-fault">
                          also{' '}
                          {with_
                            .map((id) =>
                              COMMANDS.find((c) => c.id === id)!
                                .label.split(/[.:,]/)[0]
                                .toLowerCase(),
                            )
                            .join(', ')}
                        </span>
                      )}
                      <button
                        type="button"
                        aria-label={`Key of ${command.label}`}
                        onClick={() => setWaiting(command.id)}
                        onBlur={() => setWaiting(null)}
                        onKeyDown={(e) => {
                          if (waiting !== command.id) return;
                          e.preventDefault();
                          e.stopPropagation();
                          if (e.key === 'Escape') return setWaiting(null);
                          if (e.key === 'Backspace') setKeys(command.id, []);
                          else {
                            const key = keyOfEvent(e);
                            if (!key) return;
                            setKeys(command.id, [key]);
                          }
                          setWaiting(null);
                        }}
                        className={`figures h-6 min-w-20 rounded border px-2 ${waiting === command.id ? 'border-accent bg-accent-wash' : 'border-line bg-raised hover:bg-field'}`}
                      >
                        {waiting === command.id ? 'Press it …' : keys.map(shownKey).join(' or ') || '—'}
                      </button>
                      <IconButton
                        label={`As it came: ${command.label}`}
                        className={own[command.id] ? '' : 'invisible'}
                        onClick={() => setKeys(command.id, null)}
                      >
                        <RotateCcw size={13} />
                      </IconButton>
                    </li>
                  );
                })}
              </ul>
            </section>
          );
        })}
      </div>
      <p className="mt-2 text-ink-soft">Click a key, then press the new one. Backspace: none.</p>
    </DialogBox>
  );
}
