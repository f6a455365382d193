/**
 * What the server says has changed. Browsers open six connections to a server at most, whatever the number of tabs: one tab has the
 * stream and passes on what it hears; when it goes, another one takes over.
 */
import { isTopic, TOPICS, type Topic } from '../core/updates/topics';
import { Signal } from './signal';

const NAME = 'brindle-updates';
/** The stream is connected, again or for the first time. */
type Heard = Topic | 'connected';

const signals: Record<Heard, Signal> = {
  connected: new Signal(),
  bakes: new Signal(),
  workers: new Signal(),
  arriving: new Signal(),
};
let started = false;

/** Calls `listener` whenever the server says so, and when anything may have been missed. Returns what ends it. */
export function onUpdate(heard: Heard, listener: () => void): () => void {
  start();
  return signals[heard].listen(listener);
}

function start(): void {
  if (started || typeof EventSource === 'undefined') return;
  started = true;
  const channel = new BroadcastChannel(NAME);
  channel.onmessage = ({ data }: MessageEvent<Heard>) => signals[data].tell();
  const pass = (heard: Heard) => {
    signals[heard].tell();
    channel.postMessage(heard);
  };
  const open = () => {
    const source = new EventSource('/api/updates');
    source.onopen = () => {
      pass('connected');
      TOPICS.forEach(pass);
    };
    source.onmessage = ({ data }: MessageEvent<string>) => isTopic(data) && pass(data);
    source.onerror = () => {
      // Browsers reconnect by themselves, but not after an answer that is no stream, such as while the server starts.
      if (source.readyState !== EventSource.CLOSED) return;
      setTimeout(open, REOPEN_MS);
    };
  };
  const locks = navigator.locks as LockManager | undefined;
  if (!locks) return open();
  void locks.request(NAME, () => {
    open();
    // Held for as long as this tab lives.
    return new Promise<never>(() => undefined);
  });
}

const REOPEN_MS = 1500;
