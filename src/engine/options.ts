/** Everything an engine is given. */
import type { CustodyJournal } from './keeping/custody';
import type { DrawnElsewhere } from './cache/drawnParts';
import type { Lease } from './keeping/lease';
import type { Event } from './protocol';
import type { Remote } from './remote';
import type { BrowserShelves } from './cache/shelf';
import type { HelperPort } from './show/helper';
import type { TilePool } from './tiles/tilePool';

export interface EngineOptions {
  remote: Remote;
  journal: CustodyJournal;
  lease?: Lease;
  post: (event: Event, transfer?: Transferable[]) => void;
  now: () => number;
  /** Runs a callback after the messages that are queued now. */
  later: (callback: () => void) => void;
  retryMs?: number;
  /** How long nothing happens before anything is cached. */
  restMs?: number;
  /** Workers that pack and unpack tiles beside the engine; without them it does so itself. */
  tiles?: TilePool;
  /** Threads that render beside the engine; without them it renders alone. */
  helpers?: () => HelperPort[];
  /** Where this browser caches what can be made again. */
  keeping?: BrowserShelves;
  /** Where other browsers put what they have rendered. */
  elsewhere?: DrawnElsewhere;
}
