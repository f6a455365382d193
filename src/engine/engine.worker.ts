/** The engine in a worker of the page. Its first message is its way to the journal. */
import { wrap } from 'comlink';
import { shareMemory } from '../core/compute';
import { browserKeeping } from './cache/browserShelf';
import { drawnOnServer } from './cache/drawnOnServer';
import { Engine } from './engine';
import type { Journal } from './keeping/journal/journal';
import { browserLease } from './keeping/lease';
import type { Event, Request, TriedBake, TriesPort } from './protocol';
import { browserHelpers } from './show/sources/helpers';
import { fetchRemote } from './remote';
import { tilePool } from './tiles/tilePool';

const scope = self as unknown as {
  postMessage(message: unknown, transfer?: Transferable[]): void;
  onmessage: ((event: MessageEvent<Request | TriesPort | MessagePort>) => void) | null;
  location: Location;
};

// A message to oneself comes after the messages that wait already, and without setTimeout's 4 ms.
const waiting: (() => void)[] = [];
const channel = new MessageChannel();
channel.port1.onmessage = () => waiting.shift()?.();

const memoryFor = shareMemory(() => performance.now());

let engine: Engine | null = null;
const start = (port: MessagePort) =>
  new Engine({
    remote: fetchRemote(scope.location.origin),
    journal: wrap<Journal>(port),
    lease: browserLease(),
    tiles: tilePool(),
    helpers: () => browserHelpers(memoryFor),
    keeping: browserKeeping,
    elsewhere: drawnOnServer(scope.location.origin),
    post: (event: Event, transfer) => scope.postMessage(event, transfer),
    now: () => performance.now(),
    later: (callback) => {
      waiting.push(callback);
      channel.port2.postMessage(0);
    },
  });

scope.onmessage = ({ data }) => {
  if (data instanceof MessagePort) engine = start(data);
  else if (data.type === 'tries')
    data.port.onmessage = (message: MessageEvent<TriedBake>) => void engine!.receive({ ...message.data, type: 'try-bake' });
  else void engine!.receive(data);
};
