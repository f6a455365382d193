/** What the badge says, from what the engine and the journal report. */
import type { KeptState } from '@/engine/protocol';

export interface KeptLook {
  text: string;
  hint: string;
  tone: string;
  dot: string;
}

const SOFT = { tone: 'text-ink-soft', dot: 'bg-ink-soft' };
const FAULT = { tone: 'text-fault', dot: 'bg-fault' };
const changes = (n: number) => `${n} change${n === 1 ? '' : 's'}`;
const wait = (n: number) => `${changes(n)} ${n === 1 ? 'waits' : 'wait'}`;
const are = (n: number) => `${changes(n)} ${n === 1 ? 'is' : 'are'}`;

/** What the engine has not come to yet waits too. */
export function keptNow(
  { state, waiting, reached }: Pick<KeptState, 'state' | 'waiting' | 'reached'>,
  asked: number,
): Pick<KeptState, 'state' | 'waiting'> {
  const unreached = Math.max(0, asked - reached);
  return { state: state === 'kept' && unreached > 0 ? 'keeping' : state, waiting: waiting + unreached };
}

/** `when`: how long ago, in words. Red is for what is not safe, or needs the artist. */
export function keptLook(
  kept: Pick<KeptState, 'state' | 'waiting' | 'reached' | 'why' | 'forGood'> & { aside: readonly unknown[] },
  journal: { pending: number; asked: number; failing: string | null },
  when: string,
): KeptLook {
  const { aside } = kept;
  const { state, waiting } = keptNow(kept, journal.asked);
  if (state === 'conflict') return { text: 'Changed elsewhere', hint: 'Choose what happens to your changes.', ...FAULT };
  if (state === 'behind')
    return { text: 'Server set back', hint: 'The server has lost what it had kept: give it back.', ...FAULT };
  if (state === 'gone')
    return {
      text: 'Deleted elsewhere',
      hint: kept.forGood
        ? 'The piece was deleted for good while you painted. This page still has all of it: keep it as a new piece, or download it.'
        : `The piece was deleted while you painted. ${wait(waiting)} in this browser: bring it back to keep what you did.`,
      ...FAULT,
    };
  if (journal.failing && waiting > 0)
    return {
      text: `Not kept here: ${waiting}`,
      hint: `This browser cannot keep its journal (${journal.failing}). ${are(waiting)} in this tab’s memory only until the server has taken all: leave it open.`,
      ...FAULT,
    };
  if (state === 'offline')
    return {
      text: `Offline, ${waiting} waiting`,
      hint: `${kept.why ?? 'The server does not answer.'} ${wait(waiting)} in this browser’s journal until it is back; closing the tab loses nothing.`,
      ...FAULT,
    };
  if (aside.length > 0)
    return {
      text: `${changes(aside.length)} set aside`,
      hint: 'The server refused what is listed here. It stays in this browser until you drop it; everything else goes on.',
      ...FAULT,
    };
  if (state === 'keeping') return { text: 'Keeping …', hint: `${changes(waiting)} on the way to the database.`, ...SOFT };
  if (journal.failing)
    return {
      text: 'Kept by the server only',
      hint: `All is in the server’s database, but this browser cannot keep its journal (${journal.failing}): a crash could cost what is on its way.`,
      ...FAULT,
    };
  return {
    text: `Kept ${when}`,
    hint: 'Everything is in the server’s database. There is nothing to save.',
    tone: 'text-kept',
    dot: 'bg-kept',
  };
}
