/** What start, dev, test and bench share: the build, the database and the web server. */
import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, realpathSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { BadInput } from './badInput';

const NEXT = 'node_modules/next/dist/bin/next';
const STAMP = '.next/brindle-stamp';

/** Changes whenever something that goes into the build changes. */
function sourceHash(): string {
  const hash = createHash('sha256');
  const add = (path: string) => {
    if (statSync(path).isDirectory()) {
      for (const name of readdirSync(path).sort()) add(join(path, name));
    } else if (!path.endsWith('.test.ts') && !path.endsWith('.test.tsx')) hash.update(path).update(readFileSync(path));
  };
  for (const path of ['src', 'package-lock.json', 'next.config.ts', 'tsconfig.json', 'postcss.config.mjs']) add(path);
  return hash.digest('hex');
}

/** What a build of the sources as they are goes by. */
export const buildId = (hash = sourceHash()): string => hash.slice(0, 12);

/** Builds when the sources changed since the last build. */
export async function ensureBuild(say: (line: string) => void): Promise<void> {
  const now = sourceHash();
  if (existsSync(STAMP) && readFileSync(STAMP, 'utf8') === now) return;
  say('Building the application …');
  const env = { ...process.env, BRINDLE_BUILD: buildId(now) };
  await runToEnd([NEXT, 'build'], 'The application could not be built.', env);
  writeFileSync(STAMP, now);
}

export function runToEnd(args: string[], failure: string, env: NodeJS.ProcessEnv = process.env): Promise<void> {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'pipe'], env });
    let output = '';
    child.stdout.on('data', (c: Buffer) => (output += c.toString()));
    child.stderr.on('data', (c: Buffer) => (output += c.toString()));
    child.on('close', (code) => (code === 0 ? resolve() : reject(new BadInput(`${output.slice(-6000)}\n${failure}`))));
  });
}

export function portIsFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

export function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
}

export function chosenPort(): number {
  const port = Number(process.env.PORT ?? 3000);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new BadInput(`PORT is "${process.env.PORT}", but has to be a number from 1 to 65535.`);
  return port;
}

/** Who serves a port: written by the web server itself. */
export interface RunRecord {
  pid: number;
  /** The process that started it; when that one is gone, it is an orphan. */
  startedBy: number;
  port: number;
}
export const runFile = (port: number) => `.brindle/web-${port}.json`;

/** Starts the web server on loopback. `watch`: the home and the port of a database that it is to watch. */
export function startNext(
  mode: 'start' | 'dev',
  port: number,
  databaseUrl: string,
  { watch, quiet = false }: { watch?: { home: string; port: number }; quiet?: boolean } = {},
): ChildProcess {
  const env: NodeJS.ProcessEnv = {
    ...process.env,
    NODE_ENV: mode === 'dev' ? 'development' : 'production',
    DATABASE_URL: databaseUrl,
  };
  if (watch) Object.assign(env, { BRINDLE_WATCH_POSTGRES: watch.home, BRINDLE_POSTGRES_PORT: String(watch.port) });
  return spawn(process.execPath, ['--disable-warning=ExperimentalWarning', '--import', 'tsx', 'cli/web.ts', mode, String(port)], {
    stdio: ['ignore', 'ignore', quiet ? 'ignore' : 'inherit'],
    env,
  });
}

const alive = (pid: number) => existsSync(`/proc/${pid}`);

/** A web server of this checkout that lost the process that started it: it is ended, and its port is free again. */
export async function endOrphan(port: number): Promise<'none' | 'ended' | 'running'> {
  let record: RunRecord;
  try {
    record = JSON.parse(readFileSync(runFile(port), 'utf8')) as RunRecord;
    const command = readFileSync(`/proc/${record.pid}/cmdline`, 'utf8');
    if (!command.includes('cli/web.ts') || realpathSync(`/proc/${record.pid}/cwd`) !== realpathSync('.')) return 'none';
  } catch {
    return 'none';
  }
  const parent = existsSync(`/proc/${record.startedBy}/cmdline`) ? readFileSync(`/proc/${record.startedBy}/cmdline`, 'utf8') : '';
  if (parent.includes('cli/main.ts')) return 'running';
  process.kill(record.pid, 'SIGTERM');
  for (let n = 0; n < 100 && alive(record.pid); n++) {
    if (n === 60) process.kill(record.pid, 'SIGKILL');
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  return 'ended';
}

/** Waits until the server and its database answer. */
export async function untilHealthy(port: number, child: ChildProcess, seconds = 60): Promise<void> {
  const end = Date.now() + seconds * 1000;
  while (Date.now() < end) {
    if (child.exitCode !== null) throw new BadInput('The web server stopped while starting: its message is above.');
    const ok = await fetch(`http://127.0.0.1:${port}/api/health`).then(
      (r) => r.ok,
      () => false,
    );
    if (ok) return;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new BadInput(`The web server did not answer within ${seconds} seconds.`);
}
