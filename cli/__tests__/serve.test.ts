/** A start beside what an earlier one left behind. */
import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { endOrphan, freePort, portIsFree, runFile } from '../serve';

const children: ChildProcess[] = [];
/** A process that does nothing, with these words in its command line. */
const idle = (words: string[], cwd = process.cwd()) => {
  const child = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)', '--', ...words], { cwd, stdio: 'ignore' });
  children.push(child);
  return child;
};
const ended = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null ? true : new Promise((resolve) => child.once('exit', () => resolve(true)));
const record = (port: number, pid: number, startedBy: number) => {
  mkdirSync('.brindle', { recursive: true });
  writeFileSync(runFile(port), JSON.stringify({ port, pid, startedBy }));
};
/** No process has this number: Linux gives out up to 4,194,304. */
const NOBODY = 4_999_999;

let port: number;
beforeEach(async () => void (port = await freePort()));
afterEach(() => {
  rmSync(runFile(port), { force: true });
  for (const child of children.splice(0)) child.kill('SIGKILL');
});

test('an application whose start was killed is ended', async () => {
  const web = idle(['cli/web.ts', 'start', String(port)]);
  record(port, web.pid!, NOBODY);
  expect(await endOrphan(port)).toBe('ended');
  expect(await ended(web)).toBe(true);
});

test('one whose start is alive is left alone, and said to run', async () => {
  const [web, start] = [idle(['cli/web.ts', 'start', String(port)]), idle(['cli/main.ts', 'start'])];
  record(port, web.pid!, start.pid!);
  expect(await endOrphan(port)).toBe('running');
  expect(existsSync(`/proc/${web.pid}`)).toBe(true);
});

test('what is none of ours is never ended: another program, another checkout, a number that was given away anew', async () => {
  const foreign = idle(['something else']);
  record(port, foreign.pid!, NOBODY);
  expect(await endOrphan(port)).toBe('none');
  const elsewhere = idle(['cli/web.ts', 'start'], tmpdir());
  record(port, elsewhere.pid!, NOBODY);
  expect(await endOrphan(port)).toBe('none');
  record(port, NOBODY, NOBODY);
  expect(await endOrphan(port)).toBe('none');
  writeFileSync(runFile(port), 'not JSON');
  expect(await endOrphan(port)).toBe('none');
  expect([existsSync(`/proc/${foreign.pid}`), existsSync(`/proc/${elsewhere.pid}`), await portIsFree(port)]).toEqual([
    true,
    true,
    true,
  ]);
});
