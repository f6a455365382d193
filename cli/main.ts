/** ./brindle hands over to this. */
import { runCommand } from './commands';

// A reader such as `head` may have closed the pipe: then nothing is left to be said.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit();
});

process.exitCode = await runCommand(process.argv.slice(2));
