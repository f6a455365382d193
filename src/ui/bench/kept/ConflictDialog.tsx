'use client';
/** The piece moved on without this browser, or the server was set back: the ways out, and what they concern. */
import { AskBox, KeepOrLose } from '../../kit/AskBox';
import { bench, useBench } from '../store';

export function ConflictDialog() {
  const state = useBench((s) => s.kept.state);
  if (state === 'behind') return <SetBackDialog />;
  return state === 'conflict' ? <ElsewhereDialog /> : null;
}

const choose = (choice: 'copy' | 'give-back') => bench().send({ type: 'resolve-conflict', choice });

/** Lets go of what waits in this browser, by name, and opens what the server has. */
function drop(): void {
  const entries = useBench.getState().kept.entries ?? [];
  bench().send({ type: 'resolve-conflict', choice: 'drop', ids: entries.map((e) => e.id) });
}

/** The server has lost what it had kept, and this page still shows it. */
function SetBackDialog() {
  const { lost = 0, waiting } = useBench((s) => s.kept);
  const more = waiting > 0 ? `; ${waiting} more ${waiting === 1 ? 'waits' : 'wait'} in this browser` : '';
  return (
    <AskBox
      open
      title="The server was set back to an older state"
      about={`Its database, restored from a backup perhaps, does not have ${lost === 1 ? 'one change' : `${lost} changes`} any more that it had kept${more}. This page still has all of it.`}
    >
      <KeepOrLose
        keep="Give it back"
        onKeep={() => choose('give-back')}
        lose="Open what the server has"
        sure="Lose what this page shows and the server does not have?"
        yes="Lose it"
        onLose={drop}
      />
    </AskBox>
  );
}

function ElsewhereDialog() {
  const kept = useBench((s) => s.kept);
  const entries = kept.entries ?? [];
  const others = entries.filter((e) => !e.own).length;
  const n = entries.length || kept.waiting;
  const whose = others > 0 && others < n ? `; ${others} of them from another tab or an earlier visit` : '';
  return (
    <AskBox
      open
      title="This piece was changed elsewhere"
      about={`Another browser kept changes that this one has not seen. ${n === 1 ? 'One change' : `${n} changes`} of yours ${n === 1 ? 'is' : 'are'} safe in this browser, but not in the piece${whose}:`}
      more={
        <ul className="mt-3 max-h-44 list-none overflow-auto border-y border-line py-1" data-testid="conflict-entries">
          {entries.map((e) => (
            <li key={e.id} className="flex justify-between gap-3 py-0.5">
              <span className="truncate">{e.label}</span>
              {!e.own && <span className="shrink-0 text-ink-soft">not of this tab</span>}
            </li>
          ))}
        </ul>
      }
    >
      <KeepOrLose
        keep="Keep mine in a copy"
        onKeep={() => choose('copy')}
        lose="Drop mine, open the other"
        sure={`Drop ${n === 1 ? 'this change' : `these ${n} changes`} for good?`}
        yes={`Drop ${n === 1 ? 'it' : 'them'}`}
        onLose={drop}
      />
    </AskBox>
  );
}
