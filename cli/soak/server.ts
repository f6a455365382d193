/** The application and its database, as they are started, killed and started again. */
import type { ChildProcess } from 'node:child_process';
import { rmSync } from 'node:fs';
import { ensureDatabase, startPostgres, type RunningPostgres } from '../postgres';
import { ensureBuild, freePort, startNext, untilHealthy } from '../serve';

const HOME = '.brindle/soak/postgres';

export class Server {
  private web!: ChildProcess;

  private constructor(
    private postgres: RunningPostgres,
    private readonly database: string,
    readonly port: number,
  ) {}

  static async start(say: (line: string) => void): Promise<Server> {
    await ensureBuild(say);
    const postgres = await startPostgres(HOME);
    const database = await ensureDatabase(postgres, `soak_${process.pid}`);
    process.env.DATABASE_URL = database;
    const { migrateDatabase } = await import('../../src/server/migrate');
    await migrateDatabase();
    const server = new Server(postgres, database, await freePort());
    await server.startApplication();
    return server;
  }

  get address(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  async killApplication(): Promise<void> {
    this.web.kill('SIGKILL');
    await new Promise((resolve) => this.web.once('exit', resolve));
  }

  async startApplication(): Promise<void> {
    this.web = startNext('start', this.port, this.database, { quiet: true });
    await untilHealthy(this.port, this.web);
  }

  async killDatabase(): Promise<void> {
    process.kill(await this.postgres.pid(), 'SIGKILL');
    // Its children notice, and let go of the memory that they share.
    await new Promise((resolve) => setTimeout(resolve, 400));
  }

  async startDatabase(): Promise<void> {
    this.postgres = await startPostgres(HOME, this.postgres.port);
  }

  async stop(): Promise<void> {
    this.web.kill('SIGKILL');
    const { closePool } = await import('../../src/server/db');
    await closePool();
    await this.postgres.stop();
    rmSync('.brindle/soak', { recursive: true, force: true });
  }
}
