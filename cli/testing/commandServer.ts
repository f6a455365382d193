/** Runs commands one after another for the tests of a file: what they load is loaded once (commandProcess.ts). */
import { runCommand } from '../commands';

export interface Ran {
  status: number;
  stdout: string;
  stderr: string;
}

async function ran(args: readonly string[]): Promise<Ran> {
  const said = { stdout: '', stderr: '' };
  const restore = (['stdout', 'stderr'] as const).map((name) => {
    const write = process[name].write;
    process[name].write = ((text: string | Uint8Array) => {
      said[name] += typeof text === 'string' ? text : new TextDecoder().decode(text);
      return true;
    }) as typeof write;
    return () => (process[name].write = write);
  });
  process.exitCode = 0;
  try {
    const status = await runCommand(args);
    return { status, stdout: said.stdout, stderr: said.stderr.trim() };
  } catch (error) {
    return { status: 1, stdout: said.stdout, stderr: (error as Error).stack ?? String(error) };
  } finally {
    for (const back of restore) back();
  }
}

let last = Promise.resolve();
process.on('message', ({ id, args }: { id: number; args: string[] }) => {
  last = last.then(async () => void process.send!({ id, ran: await ran(args) }));
});
