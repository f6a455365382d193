/**
 * ./brindle test [NAME…] [--changed]: everything that CI runs. With names: only the unit and browser tests whose files
 * match. With --changed: only those that what is not committed yet can reach.
 */
import { spawn } from 'node:child_process';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { BadInput, parseCommand } from './badInput';
import { ensureBuild } from './serve';
import { SLOWEST_FILE } from './testing/slowestTests.mjs';

const BIN = 'node_modules/.bin';
const NAMED = 5;

export async function run(args: string[]): Promise<void> {
  const names = args.filter((a) => !a.startsWith('-'));
  const { values } = parseCommand(
    args.filter((a) => a.startsWith('-')),
    { changed: { type: 'boolean' } },
    [],
  );
  const some = names.length > 0 || values.changed;
  // As many side by side as there are processors.
  const unit = ['--maxWorkers=100%'];
  rmSync(SLOWEST_FILE, { force: true });
  if (!some) {
    // Two side by side: each takes one processor.
    await Promise.all([
      step('format', 'prettier', ['--check', '--log-level', 'warn', '.'], 'held')
        .then(() => step('folders and circles', 'depcruise', ['src', 'cli', 'demo', 'e2e'], 'held'))
        .then(() => step('unused exports, files and packages', 'knip', ['--no-progress', '--no-config-hints'], 'held')),
      step('lint', 'eslint', ['.'], 'held').then(() => step('types', 'tsc', ['--noEmit'], 'held')),
    ]);
  }
  const chosen = [...(some ? ['--passWithNoTests'] : []), ...(values.changed ? ['--onlyChanged'] : []), ...names];
  await step('unit tests', 'jest', [...unit, ...chosen]);
  process.stdout.write('— build\n');
  await ensureBuild(() => undefined);
  const browser = [...(some ? ['--pass-with-no-tests'] : []), ...(values.changed ? ['--only-changed'] : []), ...names];
  await step('browser tests', 'playwright', ['test', ...browser]);
  process.stdout.write(slowest());
  process.stdout.write('All steps passed.\n');
}

/** The tests to look at first, should all of it become slow. */
function slowest(): string {
  // Where nothing had to run there is none.
  if (!existsSync(SLOWEST_FILE)) return '';
  const times = readFileSync(SLOWEST_FILE, 'utf8')
    .trim()
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as { file: string; title: string; ms: number })
    .toSorted((a, b) => b.ms - a.ms)
    .slice(0, NAMED);
  return times.map(({ file, title, ms }) => `  ${(ms / 1000).toFixed(1).padStart(6)} s  ${file}: ${title}\n`).join('');
}

/** Runs a program of the project's. `held`: what it prints comes in one piece at its end. */
function step(name: string, program: string, options: string[], held?: 'held'): Promise<void> {
  if (!held) process.stdout.write(`— ${name}\n`);
  const started = Date.now();
  return new Promise((resolve, reject) => {
    const child = spawn(`${BIN}/${program}`, options, {
      stdio: held ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, BRINDLE_TEST_TIMES: '1' },
    });
    const said: Buffer[] = [];
    child.stdout?.on('data', (part: Buffer) => said.push(part));
    child.stderr?.on('data', (part: Buffer) => said.push(part));
    child.on('close', (code) => {
      if (held) process.stdout.write(`— ${name}\n${Buffer.concat(said).toString()}`);
      process.stdout.write(`  ${name}: ${code === 0 ? 'passed' : 'FAILED'} in ${Math.round((Date.now() - started) / 1000)} s\n`);
      if (code === 0) resolve();
      else reject(new BadInput(`The step "${name}" failed.`));
    });
  });
}
