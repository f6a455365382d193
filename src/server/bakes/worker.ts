/**
 * A worker that bakes, as many tiles at once as there are cores. Several, on one machine or on many, share the work: the queue
 * hands out tiles, and each tile stands once whoever made it. What a worker that died held is given back by the others.
 */
import { randomUUID } from 'node:crypto';
import { EventEmitter } from 'node:events';
import { hostname } from 'node:os';
import { eq, sql, type SQL } from 'drizzle-orm';
import { makeWorkerUtils, run, type Runner, type WorkerEvents } from 'graphile-worker';
import { Client } from 'pg';
import { storeBlobs } from '../commit';
import { database, pool, type Executor } from '../db';
import { addJob, type Tasks } from '../enqueue';
import { SILENT } from '../queue';
import { bakes, bakeTiles, bakeWorkers, blobs } from '../schema';
import { BakePool, Cancelled, FinalFault, type ModelFile } from './pool';
import { CANCELLED_CHANNEL, WORKER_DEAD_S } from './requests';
import { twinBytes, twinCard } from './twins';

/** Tiles a job: few, so that several machines have something to do; not one, or the queue would be half of the work. */
const TILES_A_JOB = 4;
const HEARTBEAT_MS = 2000;
const POLL_MS = 500;
const TRIED_TOO_OFTEN =
  'It was begun again and again without coming to an end: bake it once more, at a smaller size if it stops again.';

export class BakeWorker {
  readonly id = `${hostname()}-${process.pid}-${randomUUID().slice(0, 4)}`;
  private readonly threads: BakePool;
  private runner: Runner | null = null;
  /** Names under which the queue knows what is held here. */
  private holds = new Set<string>();
  private listener: Client | null = null;
  private timer: NodeJS.Timeout | null = null;
  private stopping = false;
  /** By bake: what stops its tiles. */
  private stops = new Map<string, AbortController>();
  /** The database was away: what was held then may be held for ever. */
  private cutOff = false;
  /** Jobs that were stopped before they were done, with how often they had been tried before. */
  private handedBack: { id: string; attempts: number }[] = [];

  constructor(
    private readonly say: (line: string) => void = () => undefined,
    cores?: number,
  ) {
    this.threads = new BakePool(fetchModel, cores);
  }

  async start(): Promise<void> {
    await this.begin();
    await this.heartbeat().catch(() => (this.cutOff = true));
    this.beat();
  }

  /**
   * Something failed that nobody waited for: the queue drops its own word that a job failed where the database does not take it
   * (graphile-worker, batchFailJobs). At the next heartbeat all work is taken up anew.
   */
  onStrayFault(error: unknown): void {
    this.say(`The worker goes on after a fault: ${error instanceof Error ? error.message : String(error)}`);
    this.cutOff = true;
  }

  async stop(): Promise<void> {
    this.stopping = true;
    if (this.timer) clearTimeout(this.timer);
    for (const stop of this.stops.values()) stop.abort();
    await this.runner?.stop().catch(() => undefined);
    await this.returnJobs().catch(() => undefined);
    await this.listener?.end().catch(() => undefined);
    await this.threads.close();
    await database()
      .delete(bakeWorkers)
      .where(eq(bakeWorkers.id, this.id))
      .catch(() => undefined);
  }

  /**
   * Reschedules the jobs that this worker stopped: the queue counts them as failed and would wait before retrying. If the database does not
   * answer, other workers release them later, as they do for a worker that died.
   */
  private async returnJobs(): Promise<void> {
    for (const { id, attempts } of this.handedBack.splice(0))
      await database().execute(
        sql`select graphile_worker.reschedule_jobs(array[${id}]::bigint[], run_at => now(), attempts => ${attempts}::int)`,
      );
  }

  private async begin(): Promise<void> {
    await this.listen();
    const events = new EventEmitter() as WorkerEvents;
    events.on('worker:create', ({ worker }) => this.holds.add(worker.workerId));
    events.on('job:failed', ({ job, error }) => void this.giveUp((job.payload as Tasks['bake']).key, error));
    const runner = await run({
      events,
      pgPool: pool(),
      logger: SILENT,
      concurrency: this.threads.size,
      pollInterval: POLL_MS,
      noHandleSignals: true,
      taskList: {
        bake: (told, { job }) => this.orHandBack(job, () => this.plan(told as Tasks['bake'])),
        'bake-tiles': (told, { job }) => this.orHandBack(job, () => this.bake(told as Tasks['bake-tiles'])),
      },
    });
    this.runner = runner;
    // It ends by itself only when something is broken: then it is begun anew, at the next heartbeat.
    runner.promise
      .catch(() => undefined)
      .finally(() => {
        if (this.runner === runner) this.cutOff = !this.stopping;
      });
  }

  private async listen(): Promise<void> {
    await this.listener?.end().catch(() => undefined);
    const client = new Client({ connectionString: process.env.DATABASE_URL });
    client.on('error', () => (this.cutOff = true));
    client.on('notification', ({ payload }) => payload && this.stops.get(payload)?.abort());
    await client.connect();
    await client.query(`listen ${CANCELLED_CHANNEL}`);
    this.listener = client;
  }

  // ── Heartbeat ────────────────────────────────────────────────────────────────────────────────────────

  private beat(): void {
    this.timer = setTimeout(() => {
      void this.heartbeat()
        .catch(() => (this.cutOff = true))
        .finally(() => !this.stopping && this.beat());
    }, HEARTBEAT_MS);
  }

  private async heartbeat(): Promise<void> {
    const row = { id: this.id, host: hostname(), cores: this.threads.size, holds: [...this.holds] };
    await database()
      .insert(bakeWorkers)
      .values(row)
      .onConflictDoUpdate({ target: bakeWorkers.id, set: { ...row, seenAt: sql`now()` } });
    if (this.cutOff) await this.again();
    await this.releaseWorkOfTheDead();
    await this.planAbandoned();
  }

  /** After the database was away: what was held is given back, and work is taken under new names. */
  private async again(): Promise<void> {
    this.say('The database was away: taking up work again.');
    const old = [...this.holds];
    this.holds.clear();
    await this.runner?.stop().catch(() => undefined);
    await unlock(old);
    await this.begin();
    this.cutOff = false;
  }

  private async releaseWorkOfTheDead(): Promise<void> {
    const dead = await database()
      .delete(bakeWorkers)
      .where(sql`seen_at < now() - make_interval(secs => ${WORKER_DEAD_S})`)
      .returning();
    // Also what is held by somebody that was never seen: killed before its first word.
    const lost = await database().execute(sql`
      select distinct locked_by from graphile_worker.jobs
      where locked_at < now() - make_interval(secs => ${WORKER_DEAD_S})
        and not exists (select 1 from bake_workers w where w.holds ? locked_by)`);
    await unlock([...dead.flatMap((d) => d.holds), ...lost.rows.map((r) => r.locked_by as string)]);
    if (dead.length === 0) return;
    this.say(`${dead.map((d) => d.id).join(', ')} is gone: its work is taken up again.`);
  }

  /**
   * Enqueues bakes that are waiting or running but have no job in the queue, whatever the cause. Marks bakes as failed whose job has used
   * up its attempts.
   */
  private async planAbandoned(): Promise<void> {
    const hasJob = (which: SQL) => sql`exists (
      select 1 from graphile_worker.jobs j
      where (j.key = 'bake ' || b.key or j.key like 'bake ' || b.key || ' %') and ${which})`;
    await database().execute(sql`
      update bakes b set state = 'failed', message = ${TRIED_TOO_OFTEN}, finished_at = now()
      where state in ('waiting', 'running') and ${hasJob(sql`j.attempts >= j.max_attempts and j.locked_at is null`)}`);
    const abandoned = await database().execute(sql`
      select key from bakes b where state in ('waiting', 'running') and not ${hasJob(sql`true`)}`);
    for (const { key } of abandoned.rows as { key: string }[]) await addJob(database(), 'bake', { key }, `bake ${key}`);
    if (abandoned.rows.length) this.say(`${abandoned.rows.length} abandoned: taken up again.`);
  }

  // ── Tasks ────────────────────────────────────────────────────────────────────────────────────────────

  /** A job that is stopped because this worker stops is for others to finish. */
  private async orHandBack({ id, attempts }: { id: string; attempts: number }, work: () => Promise<void>): Promise<void> {
    try {
      // The worker is stopping: it starts no new job.
      if (this.stopping) throw new Cancelled();
      await work();
    } catch (error) {
      if (this.stopping) this.handedBack.push({ id, attempts: attempts - 1 });
      throw error;
    }
  }

  /** Finds out which tiles a bake has, and hands them out. */
  private plan({ key }: Tasks['bake']): Promise<void> {
    return this.under(key, async (bake, signal) => {
      const tiles = await this.threads.tiles(bake.spec, signal);
      await database().transaction(async (tx) => {
        const rows = await tx
          .update(bakes)
          .set({ state: 'running', tiles: tiles.length, startedAt: sql`coalesce(started_at, now())` })
          .where(sql`key = ${key} and state in ('waiting', 'running')`)
          .returning({ key: bakes.key });
        if (rows.length === 0) return;
        const there = new Set(
          (await tx.select({ tile: bakeTiles.tile }).from(bakeTiles).where(eq(bakeTiles.key, key))).map((t) => t.tile),
        );
        const left = tiles.filter((t) => !there.has(t));
        for (let n = 0; n < left.length; n += TILES_A_JOB) {
          const part = left.slice(n, n + TILES_A_JOB);
          await addJob(tx, 'bake-tiles', { key, tiles: part }, `bake ${key} ${part[0]}`);
        }
      });
      await finish(database(), key);
    });
  }

  private bake({ key, tiles }: Tasks['bake-tiles']): Promise<void> {
    return this.under(key, async ({ spec }, signal) => {
      for (const tile of tiles) {
        const [known] = await database()
          .select({ tile: bakeTiles.tile })
          .from(bakeTiles)
          .where(sql`key = ${key} and tile = ${tile}`);
        if (known) continue;
        const baked = await this.threads.tile(spec, tile, { pack: true, signal });
        await database().transaction(async (tx) => {
          const packed = baked?.packed;
          if (packed) await storeBlobs(tx, new Map([[packed.hash, packed.blob]]));
          await tx
            .insert(bakeTiles)
            .values({ key, tile, hash: packed?.hash ?? null, missed: baked?.missed ?? 0, worker: this.id })
            .onConflictDoNothing();
        });
      }
      await finish(database(), key);
    });
  }

  /** A task that was tried as often as it may be: the bake is marked, and can be asked for again. */
  private async giveUp(key: string, error: unknown): Promise<void> {
    const message = `It could not be finished (${error instanceof Error ? error.message : String(error)}): bake it again.`;
    await database()
      .update(bakes)
      .set({ state: 'failed', message, finishedAt: sql`now()` })
      .where(sql`key = ${key} and state in ('waiting', 'running')`)
      .catch(() => undefined);
  }

  /** With the bake as it is; says nothing where it is not wanted any more, and marks it where it cannot be done. */
  private async under(key: string, work: (bake: typeof bakes.$inferSelect, signal: AbortSignal) => Promise<void>): Promise<void> {
    const [bake] = await database().select().from(bakes).where(eq(bakes.key, key));
    if (!bake || bake.state === 'cancelled' || bake.state === 'failed') return;
    let stop = this.stops.get(key);
    if (!stop || stop.signal.aborted) this.stops.set(key, (stop = new AbortController()));
    try {
      await work(bake, stop.signal);
    } catch (error) {
      // The bake was cancelled. If it was requested again since, it has new jobs.
      if (error instanceof Cancelled && !this.stopping) return;
      // What passes by itself is tried again by the queue.
      if (!(error instanceof FinalFault)) throw error;
      await database()
        .update(bakes)
        .set({ state: 'failed', message: error.message, finishedAt: sql`now()` })
        .where(sql`key = ${key} and state <> 'done'`);
    }
  }
}

/** Marks a bake as done once all of its tiles are there. */
async function finish(to: Executor, key: string): Promise<void> {
  await to.execute(sql`
    update bakes b set state = 'done', finished_at = now()
    where key = ${key} and state = 'running' and tiles > 0
      and (select count(*) from bake_tiles t where t.key = b.key) >= tiles`);
}

async function unlock(names: string[]): Promise<void> {
  if (names.length === 0) return;
  const utils = await makeWorkerUtils({ pgPool: pool(), logger: SILENT });
  try {
    await utils.forceUnlockWorkers(names);
  } finally {
    await utils.release();
  }
}

/** A piece's own model, or the file of a twin. */
async function fetchModel(address: string): Promise<ModelFile | null> {
  const [own] = await database().select({ bytes: blobs.bytes }).from(blobs).where(eq(blobs.hash, address));
  if (own) return { name: 'model.glb', bytes: own.bytes };
  const card = await twinCard(address);
  if (!card) return null;
  const bytes = new Uint8Array(card.size);
  let at = 0;
  for await (const part of twinBytes(address)) {
    bytes.set(part, at);
    at += part.length;
  }
  return at === card.size ? { name: card.name, bytes } : null;
}
