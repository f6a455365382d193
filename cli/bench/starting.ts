/** How long `./brindle start` takes to its address: in a fresh clone with no npm packages, and once more in the same. */
import { execFileSync, spawn } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startPostgres } from '../postgres';
import { freePort } from '../serve';
import { result, type Result } from './result';

/** Seconds to the line with the address; then the application is ended. */
async function secondsToAddress(folder: string): Promise<number> {
  const port = await freePort();
  const began = performance.now();
  const child = spawn('./brindle', ['start'], {
    cwd: folder,
    env: { ...process.env, PORT: String(port), DATABASE_URL: '', NODE_OPTIONS: '' },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  const ended = new Promise<void>((resolve) => child.on('close', () => resolve()));
  try {
    return await new Promise<number>((resolve, reject) => {
      const take = (part: Buffer) => {
        said += part.toString();
        if (said.includes(`http://127.0.0.1:${port}`)) resolve((performance.now() - began) / 1000);
      };
      child.stdout.on('data', take);
      child.stderr.on('data', take);
      void ended.then(() => reject(new Error(`It ended before it gave its address: ${said}`)));
    });
  } finally {
    child.kill('SIGTERM');
    await ended;
  }
}

/** Seconds that npm takes alone for the same packages. */
function secondsOfPackages(folder: string): number {
  mkdirSync(folder);
  for (const file of ['package.json', 'package-lock.json']) copyFileSync(file, join(folder, file));
  const began = performance.now();
  execFileSync('npm', ['install', '--omit=dev', '--no-audit', '--no-fund'], { cwd: folder, stdio: 'ignore' });
  return (performance.now() - began) / 1000;
}

async function secondsOfDatabase(home: string): Promise<number> {
  const began = performance.now();
  const postgres = await startPostgres(home);
  const seconds = (performance.now() - began) / 1000;
  await postgres.stop();
  return seconds;
}

export async function starting(): Promise<Result[]> {
  const folder = mkdtempSync(join(tmpdir(), 'brindle-start-'));
  const clone = join(folder, 'clone');
  try {
    execFileSync('git', ['clone', '-q', '.', clone]);
    const fresh = await secondsToAddress(clone);
    const again = await secondsToAddress(clone);
    return [
      result('start-fresh', fresh, 's', 'npm alone, for the same packages', secondsOfPackages(join(folder, 'packages'))),
      result('start-again', again, 's', 'PostgreSQL alone', await secondsOfDatabase(join(clone, '.brindle/postgres'))),
    ];
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
