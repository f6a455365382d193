/** Commands of ./brindle for tests: one process for all of a file, started with the first. */
import { fork, type ChildProcess } from 'node:child_process';
import type { Ran } from './commandServer';

export interface Commands {
  run: (...args: string[]) => Promise<Ran>;
  end: () => void;
}

/** `folder`: where the commands are given, which their paths are relative to. */
export function commandsIn(folder: string): Commands {
  let child: ChildProcess | null = null;
  let serial = 0;
  const waiting = new Map<number, { resolve: (ran: Ran) => void; reject: (error: Error) => void }>();
  const start = (): ChildProcess => {
    const started = fork('cli/testing/commandServer.ts', {
      execArgv: ['--import', 'tsx'],
      env: { ...process.env, BRINDLE_CWD: folder, NODE_OPTIONS: '' },
    });
    started.on('message', ({ id, ran }: { id: number; ran: Ran }) => {
      waiting.get(id)?.resolve(ran);
      waiting.delete(id);
    });
    started.on('exit', (code) => {
      child = null;
      for (const { reject } of waiting.values()) reject(new Error(`The process of the commands ended with ${code}.`));
      waiting.clear();
    });
    return started;
  };
  return {
    run: (...args) =>
      new Promise((resolve, reject) => {
        child ??= start();
        const id = ++serial;
        waiting.set(id, { resolve, reject });
        child.send({ id, args });
      }),
    end: () => void child?.kill(),
  };
}
