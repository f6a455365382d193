/** ./brindle test [FILTER]: everything that CI runs. With a filter: only the unit and browser tests whose file matches. */
import { spawn } from 'node:child_process';
import { BadInput } from './badInput';
import { ensureBuild } from './serve';

const BIN = 'node_modules/.bin';

export async function run(args: string[]): Promise<void> {
  const steps: [string, string, string[]][] = [
    ['format', 'prettier', ['--check', '--log-level', 'warn', '.']],
    ['lint', 'eslint', ['.']],
    ['folders and circles', 'depcruise', ['src', 'cli', 'demo', 'e2e']],
    ['types', 'tsc', ['--noEmit']],
    // As many side by side as there are processors.
    ['unit tests', 'jest', ['--testTimeout=120000', '--forceExit', '--maxWorkers=100%', ...args]],
  ];
  for (const [name, program, options] of steps) {
    if (args.length > 0 && name !== 'unit tests') continue;
    await step(name, program, args.length > 0 ? [...options, '--passWithNoTests'] : options);
  }
  process.stdout.write('— build\n');
  await ensureBuild(() => undefined);
  await step('browser tests', 'playwright', ['test', ...args]);
  process.stdout.write('All steps passed.\n');
}

function step(name: string, program: string, options: string[]): Promise<void> {
  process.stdout.write(`— ${name}\n`);
  const started = Date.now();
  return new Promise((resolve, reject) => {
    const child = spawn(`${BIN}/${program}`, options, { stdio: ['ignore', 'inherit', 'inherit'] });
    child.on('close', (code) => {
      process.stdout.write(`  ${name}: ${code === 0 ? 'passed' : 'FAILED'} in ${Math.round((Date.now() - started) / 1000)} s\n`);
      if (code === 0) resolve();
      else reject(new BadInput(`The step "${name}" failed.`));
    });
  });
}
