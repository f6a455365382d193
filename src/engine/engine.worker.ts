/** The engine in a worker of the page. */
import { decodePool } from './decodePool';
import { shareTexels } from '../core/raster/tiles';
import { Engine } from './engine';
import { browserJournal } from './journal';
import type { Event, Request } from './protocol';
import { browserHelpers } from './pool';
import { fetchRemote } from './remote';

const scope = self as unknown as {
  postMessage(message: unknown, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<Request>) => void) | null;
  location: Location;
};

// A message to oneself comes after the messages that wait already, and without setTimeout's 4 ms.
const waiting: (() => void)[] = [];
const channel = new MessageChannel();
channel.port1.onmessage = () => waiting.shift()?.();

shareTexels();

const engine = new Engine({
  remote: fetchRemote(scope.location.origin),
  journal: browserJournal(),
  decodePool,
  helpers: browserHelpers,
  post: (event: Event, transfer) => scope.postMessage(event, transfer),
  newId: () => crypto.randomUUID(),
  now: () => performance.now(),
  later: (callback) => {
    waiting.push(callback);
    channel.port2.postMessage(0);
  },
});

scope.onmessage = (event) => void engine.receive(event.data);
