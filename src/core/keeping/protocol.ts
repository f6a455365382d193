/**
 * How work is kept: the protocol between the page, its journal and the server. All three, and the tests' stand-in of a
 * server, go by this folder.
 *
 *   page ──(1) intent──▶ journal (IndexedDB)          what was asked: a stroke's samples, an edit, an undo
 *     └───(2) intent──▶ engine ──(3) pixels──▶ journal   what came of it: an operation with its tiles
 *                          └─────(4) operation──▶ server ──▶ out of the journal
 *
 * **Records.** An *entry* is one intent under one id (entry.ts). The operation that comes of it (operation.ts) goes by
 * the same id, all the way to the server. A *head* says which revision of a piece this browser's entries build on.
 *
 * **States of an entry**
 *   under the pen   a stroke whose pen is down; its samples are written every 50 ms
 *   recorded        the intent is whole. From here on it is not lost
 *   packed          its operation and its tiles lie beside it: can be sent without computing anything
 *   taken           the server has said yes: the entry is gone, and the head is the revision it said, in one write
 *   aside           refused, with the reason. Leaves only by the artist's hand: dropped by name, or tried again
 *
 * **What each side promises**
 *   page      Asks the journal first, then the engine. Counts what the journal has not yet written, and asks before it
 *             is left meanwhile; at `pagehide` the rest goes to the local store.
 *   journal   One write is all or nothing. A stroke that was under the pen is whole up to what was written. What could not
 *             be written stays in memory, is said (red), and is written once there is room or a new database.
 *   engine    Carries intents out in order. What a crash left packed is sent; what it left recorded is carried out
 *             again upon the newest state: the same intents, the same bytes. One engine has a piece at a time (lease).
 *   keeper    Sends in order, one at a time. Counts a revision and takes a tile for known only once the server said yes.
 *   server    One transaction or nothing. An id that was carried out before is answered as it was then. It checks what it
 *             takes (rules.ts). Blobs may come before the operation that names them.
 *
 * **Answers** are of four kinds beside yes: see `answerOf`. Every answer carries the server's identity in a header: without it, whatever its
 * status, something else answers at that address, which is no answer at all. A yes to an operation names the server, the operation and its
 * revision.
 *
 * **Behind.** Revisions only rise. A server whose revision is lower than one that it has said yes to was set back, from a dump perhaps. The
 * page tells that from a server that has moved on by the operations that made its revisions, and can give back what it still has.
 */

/** Header of every answer of the server: the identity of its database, made once with it. */
export const SERVER_HEADER = 'x-brindle-server';

export const KEEPING = {
  /** While the pen is down its samples are written at least so often: half of the 100 ms that a stroke may lose. */
  penJournalMs: 50,
  /** Blobs go in requests of at most so much, and with the operation where all of them fit into one. */
  partBytes: 4 * 1024 * 1024,
  /** An operation without its blobs: 200,000 tile rows of some 200 bytes, or an hour of samples. */
  operationBytes: 64 * 1024 * 1024,
  /** Pauses between tries: they double from the first to the last. */
  firstPauseMs: 500,
  longestPauseMs: 30_000,
  /** Steps of the trail that are kept; older ones are squashed: their paint stays, they can't be undone any more. */
  trailSteps: 1000,
  /** The server lets the trail grow by so many more before it squashes, so that a page at work is never ahead of it. */
  trailSlack: 200,
  /** An opened piece lists the operations of its last so many revisions. */
  recentRevisions: 200,
  /** What the page can give back to a server that was set back: so many operations, with tiles of so many bytes. */
  givenBackOperations: 200,
  givenBackBytes: 64 * 1024 * 1024,
  /** An operation that fails so often with the same server error, while the server can write, is set aside. */
  mostFailures: 5,
  /** Blobs that nothing names stay so long: an operation that needs them may be on its way. */
  blobGraceHours: 24,
  /** Ids of operations are remembered so long; a browser that was away for longer meets a conflict, and loses nothing. */
  operationDays: 90,
  /** Deleted pieces can be brought back for so long. */
  deletedDays: 30,
  /** What was baked, and the files of dense models, stay for so long after somebody asked for them. */
  bakeDays: 30,
} as const;

/**
 * again     unreachable, busy, starting: the same operation, later
 * conflict  the piece has moved on without this browser
 * refused   this operation can never be taken: it is kept aside, what does not hang on it goes on
 * gone      the piece is not there: it may have been deleted
 */
export type Answer = 'taken' | 'again' | 'conflict' | 'refused' | 'gone';

export function answerOf(status: number): Answer {
  if (status >= 200 && status < 300) return 'taken';
  if (status === 409) return 'conflict';
  if (status === 404 || status === 410) return 'gone';
  // 408: the connection was too slow; 425 and 429: too early, too often.
  if (status === 408 || status === 425 || status === 429 || status >= 500 || status < 200) return 'again';
  return 'refused';
}

/** Milliseconds before the nth try, n = 1 for the first repetition. */
export const pauseMs = (n: number, first: number = KEEPING.firstPauseMs): number =>
  Math.min(KEEPING.longestPauseMs, first * 2 ** Math.min(16, n - 1));

/** Parts of what was drawn of a sheet (engine/cache/drawnParts.ts): enough for all tiles that a browser caches of a sheet. */
export const MOST_DRAWN_PARTS = 160;
