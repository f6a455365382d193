import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { parseArgs, type ParseArgsConfig } from 'node:util';

/** Ends the command with exit code 2; the message is one sentence for people. */
export class BadInput extends Error {}

/** A path as the caller meant it, from the folder the command was given in. */
export function callerPath(path: string): string {
  return resolve(process.env.BRINDLE_CWD ?? process.cwd(), path);
}

export async function readInput(path: string): Promise<Uint8Array> {
  try {
    return new Uint8Array(await readFile(callerPath(path)));
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    throw new BadInput(
      code === 'ENOENT'
        ? `There is no file ${path}: check the path.`
        : `${path} cannot be read (${code}): check that it is a file you may read.`,
    );
  }
}

export function parseCommand<T extends NonNullable<ParseArgsConfig['options']>>(
  args: string[],
  options: T,
  positionals: string[],
) {
  let parsed;
  try {
    parsed = parseArgs({ args, options, allowPositionals: true });
  } catch (error) {
    throw new BadInput(`${(error as Error).message.split('.')[0]}: ./brindle help lists the options.`);
  }
  if (parsed.positionals.length !== positionals.length)
    throw new BadInput(`This command takes ${positionals.join(' and ')}: ./brindle help shows how.`);
  return parsed;
}

/** Carries core errors that are meant for people over to the command line. */
export async function forPeople<T>(work: () => Promise<T> | T, kinds: readonly (new (...a: never[]) => Error)[]): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (kinds.some((k) => error instanceof k)) throw new BadInput((error as Error).message);
    throw error;
  }
}
