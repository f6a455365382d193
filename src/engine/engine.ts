/**
 * The engine: one open piece, its pixels, its strokes. Runs in a worker of the page, and in Node for tests; it speaks only through
 * `post`, `remote` and `journal`. This file connects its parts and has one handler for each request.
 */
import { WorkError } from '../core/document/work/work';
import { copyOfStore } from '../core/strata/surfaceUnder';
import { Caching } from './cache/caching';
import { Changes } from './changes/changes';
import { Custody } from './keeping/custody';
import { InOrder } from './inOrder';
import { runJob } from './answers/jobs';
import { Moves } from './changes/moves';
import { openPiece } from './opening/opening';
import { Painting } from './stroke/painting';
import type { EngineOptions } from './options';
import type { Question, Request } from './protocol';
import { answerTo } from './answers/questions';
import { ServerAnswer } from './remote';
import { Renewal } from './changes/renewal';
import { Show } from './show/show';
import { OpenPiece } from './state';
import { Strokes } from './stroke/strokes';
import { TILES_HERE, type TilePool } from './tiles/tilePool';
import { Tips } from './stroke/tips';

type Handlers = { [T in Request['type']]: (request: Extract<Request, { type: T }>) => void | Promise<void> };

/** These are carried out at once, and do not wait for what was asked before. */
const AT_ONCE: ReadonlySet<Request['type']> = new Set(['cancel', 'retry']);

/** Questions that take long, or wait for the server: other requests are not held up. */
const BESIDE: ReadonlySet<Question['ask']> = new Set(['histogram', 'thumbnails', 'fetch-bake']);

/** After these, a change of the page has been carried out, or came to nothing. */
const ENDS_A_CHANGE: ReadonlySet<Request['type']> = new Set(['edit', 'layers', 'undo', 'redo', 'stroke-end', 'stroke-cancel']);

export class Engine {
  readonly open = new OpenPiece();
  readonly show: Show;
  readonly custody: Custody;
  private requests = new InOrder();
  private tips: Tips;
  private changes: Changes;
  private painting: Painting;
  private moves: Moves;
  private caching: Caching;
  private tiles: TilePool;
  private cancelled = new Set<number>();
  private options: EngineOptions;

  constructor(given: EngineOptions) {
    const post: EngineOptions['post'] = (event, transfer) => {
      given.post(event, transfer);
      caching.noticed(event);
    };
    const options = (this.options = { ...given, post });
    const { remote, journal, lease, retryMs } = options;
    const { open, requests } = this;
    const tiles = (this.tiles = options.tiles ?? TILES_HERE);
    const { pack, decode } = tiles;
    const custody = (this.custody = new Custody({ remote, journal, lease, post, retryMs, pack, requests }));
    const tips = (this.tips = new Tips(remote));
    const strokes = new Strokes(open, tips);
    const show = (this.show = new Show({ ...options, store: open.store, pen: strokes }));
    const caching = (this.caching = new Caching(open, show, custody, options));
    const changes = (this.changes = new Changes(open, show, custody, { remote, decode, post }));
    const painting = (this.painting = new Painting(open, strokes, tips, changes, show, custody, post));
    const moves = (this.moves = new Moves(open, changes, requests, {
      post,
      nothing: (id) => custody.nothing(id),
      failed: ({ direction, id, serial }, error) => this.fail({ type: direction, id, serial }, error),
    }));
    custody.engine = new Renewal({ open, changes, painting, decode }, moves, { remote, post });
  }

  receive(request: Request): Promise<void> {
    const handler = this.handlers[request.type] as (request: Request) => void | Promise<void>;
    if (AT_ONCE.has(request.type)) return Promise.resolve(handler(request));
    return this.requests.add(async () => {
      try {
        await handler(request);
      } catch (error) {
        this.fail(request, error);
      }
      if (ENDS_A_CHANGE.has(request.type)) this.custody.cameTo();
    });
  }

  private handlers: Handlers = {
    open: (request) => {
      const { open, show, changes, custody, moves, caching, tiles, options } = this;
      return openPiece({ open, show, changes, custody, moves, caching, tiles, options }, request);
    },
    focus: ({ sheetId }) => {
      this.show.focusOn(sheetId);
      this.changes.redraw();
    },
    viewing: ({ viewing }) => {
      if (this.show.view(viewing)) this.changes.redraw();
    },
    preview: ({ edit }) => {
      this.open.previewed = edit;
      this.changes.redraw();
    },
    'expect-try': ({ id }) => this.changes.expectTry(id),
    'try-bake': (tried) => this.changes.tryArrived(tried),
    edit: ({ id, edit, label, serial }) => {
      this.painting.finish();
      this.changes.carryOutEdit(this.changes.record(id, { type: 'edit', edit, label }, label));
      this.changes.report(serial);
    },
    layers: async ({ id, what, serial }) => {
      this.painting.finish();
      this.changes.report(serial, await this.changes.carryOutLayers(this.changes.record(id, { type: 'layers', what }, '')));
    },
    undo: ({ id, serial }) => {
      this.painting.finish();
      this.moves.ask({ direction: 'undo', id, serial });
    },
    redo: ({ id, serial }) => {
      this.painting.finish();
      this.moves.ask({ direction: 'redo', id, serial });
    },
    'stroke-begin': (request) => this.painting.begin(request),
    'stroke-add': ({ samples, at }) => this.painting.add(samples, at),
    'stroke-end': ({ samples, at }) => {
      this.painting.add(samples, at);
      this.painting.finish();
    },
    'stroke-cancel': () => this.painting.cancel(),
    question: (request) => this.answer(request),
    // Not awaited: long work goes on in slices on a snapshot, while painting continues.
    dispatch: (request) => void this.job(request),
    'export-piece': (request) => void this.job(request),
    cancel: ({ id }) => void this.cancelled.add(id),
    retry: () => this.custody.retry(),
    'resolve-conflict': (request) => {
      this.painting.finish();
      return this.custody.resolveConflict(request);
    },
    aside: (request) => {
      this.painting.finish();
      return this.custody.asideAction(request.id, request.do);
    },
    restore: () => this.custody.restore(),
  };

  /** For tests: everything that was asked for is done, shown and kept. */
  async settled(): Promise<void> {
    await this.requests.done;
    while (this.moves.moving) await this.moves.moving;
    await this.custody.settled();
    await this.requests.done;
    while (this.show.busy) await new Promise((resolve) => setTimeout(resolve, 1));
  }

  private fail(request: Request, error: unknown): void {
    const { post, journal } = this.options;
    const message = error instanceof Error ? error.message : String(error);
    if (request.type === 'open') {
      const deleted = error instanceof ServerAnswer && error.more.deleted;
      void journal.list(request.pieceId).then(
        (left) => post({ type: 'failed', message, deleted, waiting: left.length }),
        () => post({ type: 'failed', message, deleted, waiting: 0 }),
      );
    } else if (request.type === 'dispatch' || request.type === 'export-piece')
      post({ type: 'job-failed', id: request.id, message, cancelled: false });
    else if (request.type === 'question') post({ type: 'no-answer', id: request.id, message });
    else {
      // A stroke over which the engine failed is set aside; any other change did not happen, and the artist is told.
      const aside = request.type.startsWith('stroke') && this.painting.failed(message);
      if (!aside && 'id' in request && typeof request.id === 'string') this.custody.nothing(request.id);
      if ('serial' in request) this.changes.report(request.serial);
      const away = error instanceof ServerAnswer && error.answer === 'again';
      post({
        type: 'notice',
        message: away
          ? `${message} Try again when it is back.`
          : error instanceof WorkError
            ? `${message}.`
            : `That did not work: ${message}.`,
      });
    }
  }

  private async answer(request: Extract<Request, { type: 'question' }>): Promise<void> {
    const { open, tips, show, changes } = this;
    const { post } = this.options;
    const { id, question } = request;
    const answer = async () =>
      post({ type: 'answer', id, answer: await answerTo({ open, tips, changes, planes: show.renderer.planes }, question) });
    if (!BESIDE.has(question.ask)) return answer();
    // Not awaited: they work between other things, after what is under the pen has been seen.
    void show
      .penSeen()
      .then(answer)
      .catch((error: unknown) => this.fail(request, error));
  }

  private async job(request: Extract<Request, { type: 'dispatch' | 'export-piece' }>): Promise<void> {
    const { open, options } = this;
    const { piece, store, surfaces, modelGlb, pieceId } = open;
    try {
      await runJob(request, {
        context: {
          piece,
          store: copyOfStore(store),
          model: surfaces?.model ?? null,
          surfaces: surfaces?.mapsBySheet(piece),
        },
        modelGlb,
        strokes: () => options.remote.strokes(pieceId),
        pinned: (hash) => options.remote.pinned(hash),
        post: options.post,
        isCancelled: () => this.cancelled.has(request.id),
        breathe: () => new Promise((resolve) => options.later(resolve)),
      });
    } catch (error) {
      this.fail(request, error);
    }
  }
}
