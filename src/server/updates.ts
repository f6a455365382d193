/**
 * Changes in the database, as they happen: triggers notify a channel (drizzle/0012_updates.sql), whichever process made the change. One
 * connection per process listens while anybody wants to hear.
 */
import { Client } from 'pg';
import { isTopic, TOPICS, type Topic } from '../core/updates/topics';

const CHANNEL = 'brindle_changed';
/** Before the next attempt to connect. */
const RETRY_MS = 1000;

type Listener = (topic: Topic) => void;

class Updates {
  private listeners = new Set<Listener>();
  private client: Client | null = null;
  private connecting = false;
  private retry: NodeJS.Timeout | null = null;

  /** Returns what ends it. */
  listen(listener: Listener): () => void {
    this.listeners.add(listener);
    void this.connect();
    return () => {
      this.listeners.delete(listener);
      if (this.listeners.size === 0) void this.disconnect();
    };
  }

  private tell(topic: Topic): void {
    for (const listener of [...this.listeners]) listener(topic);
  }

  private async connect(): Promise<void> {
    if (this.client || this.connecting || this.listeners.size === 0) return;
    this.connecting = true;
    const client = new Client({ connectionString: process.env.DATABASE_URL, connectionTimeoutMillis: 5000 });
    client.on('notification', ({ payload }) => isTopic(payload) && this.tell(payload));
    const lost = () => {
      if (this.client === client) this.client = null;
      this.later();
    };
    client.on('error', lost);
    client.on('end', lost);
    try {
      await client.connect();
      await client.query(`listen ${CHANNEL}`);
      this.client = client;
      // Anything may have changed while nobody listened.
      for (const topic of TOPICS) this.tell(topic);
    } catch {
      await client.end().catch(() => undefined);
      this.later();
    } finally {
      this.connecting = false;
    }
    if (this.listeners.size === 0) await this.disconnect();
  }

  private later(): void {
    if (this.retry || this.listeners.size === 0) return;
    this.retry = setTimeout(() => {
      this.retry = null;
      void this.connect();
    }, RETRY_MS);
  }

  private async disconnect(): Promise<void> {
    if (this.retry) clearTimeout(this.retry);
    this.retry = null;
    const { client } = this;
    this.client = null;
    await client?.end().catch(() => undefined);
  }
}

const holder = globalThis as unknown as { brindleUpdates?: Updates };

/** Calls `listener` with what has changed, and once with each topic when listening begins anew. Returns what ends it. */
export const listenForUpdates = (listener: Listener): (() => void) => (holder.brindleUpdates ??= new Updates()).listen(listener);
