/** A worker as a process of its own beside the application: begun anew when it dies, ended with it. */
import { fork, type ChildProcess } from 'node:child_process';

const AGAIN_MS = 1000;

/** Gives what ends it. */
export function keepWorker(databaseUrl: string): () => Promise<void> {
  let child: ChildProcess | null = null;
  let ended = false;
  const begin = () => {
    if (ended) return;
    // Over the channel it notices when whoever started it is gone.
    child = fork('cli/main.ts', ['worker'], {
      execArgv: ['--import', 'tsx'],
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      env: { ...process.env, DATABASE_URL: databaseUrl },
    });
    child.on('exit', () => setTimeout(begin, AGAIN_MS));
  };
  begin();
  return () =>
    new Promise((resolve) => {
      ended = true;
      if (!child || child.exitCode !== null) return resolve();
      child.on('exit', () => resolve());
      child.kill('SIGTERM');
      setTimeout(() => child?.kill('SIGKILL'), 3000).unref();
    });
}
