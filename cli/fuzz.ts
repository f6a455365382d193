/**
 * ./brindle fuzz [--minutes N] [--seed S] [--only NAME,…]: every reader of files from outside, with sound files spoilt by structure and by
 * bytes. Each input is decided by the seed and its number; time and memory are watched from outside. What fails is kept in .brindle/fuzz.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { BadInput, parseCommand } from './badInput';
import { inputOf } from './fuzzing/target';
import { ENTRY, fuzzAll, type Fault, type Tally } from './fuzzing/run';
import { TARGETS } from './fuzzing/targets';

const KEPT = '.brindle/fuzz';
const TELL_EVERY_MS = 60_000;

export async function run(args: string[]): Promise<void> {
  const text = { type: 'string' } as const;
  const { values } = parseCommand(args, { minutes: text, seed: text, only: text }, []);
  const minutes = Number(values.minutes ?? 5);
  const seed = Number(values.seed ?? 1);
  if (!(minutes > 0 && minutes <= 10_000))
    throw new BadInput(`--minutes is "${values.minutes}", but has to be a number above 0.`);
  if (!Number.isInteger(seed) || seed < 0) throw new BadInput(`--seed is "${values.seed}", but has to be a whole number from 0.`);
  const known = TARGETS.map(({ name }) => name);
  const names = values.only?.split(',') ?? known;
  const unknown = names.find((name) => !known.includes(name));
  if (unknown !== undefined) throw new BadInput(`There is no reader "${unknown}": there are ${known.join(', ')}.`);

  const begun = Date.now();
  const goOn = () => Date.now() - begun < minutes * 60_000;
  let told = begun;
  const faults: Fault[] = [];
  const onFault = (fault: Fault) => {
    faults.push(fault);
    void keep(fault).then((path) => process.stdout.write(`${fault.target} ${fault.n}: ${fault.what}\n  kept as ${path}\n`));
  };
  const tallies = await fuzzAll({
    names,
    seed,
    goOn: () => {
      if (Date.now() - told > TELL_EVERY_MS) {
        told = Date.now();
        process.stdout.write(`${Math.round((told - begun) / 60_000)} of ${minutes} minutes, ${faults.length} faults\n`);
      }
      return goOn();
    },
    atOnce: Math.max(1, Math.min(4, availableParallelism())),
    entry: ENTRY,
    onFault,
    mayTakeLong: TARGETS.filter((target) => target.mayTakeLong).map(({ name }) => name),
  });
  process.stdout.write(`\n${table(tallies)}`);
  if (faults.length) process.exitCode = 1;
}

async function keep({ target, seed, n }: Fault): Promise<string> {
  mkdirSync(KEPT, { recursive: true });
  const path = `${KEPT}/${target.replaceAll(' ', '-')}-${seed}-${n}`;
  writeFileSync(
    path,
    await inputOf(
      TARGETS.find(({ name }) => name === target)!,
      seed,
      n,
    ),
  );
  return path;
}

/** Markdown. */
function table(tallies: readonly Tally[]): string {
  const rows = tallies.map(
    ({ target, tried, refused, givenUp, faults }) => `| ${target} | ${tried} | ${refused} | ${givenUp} | ${faults.length} |`,
  );
  const sum = (of: (tally: Tally) => number) => tallies.reduce((total, tally) => total + of(tally), 0);
  const all = `| **all** | ${sum((t) => t.tried)} | ${sum((t) => t.refused)} | ${sum((t) => t.givenUp)} | ${sum((t) => t.faults.length)} |`;
  return ['| reader | files | refused | given up | faults |', '| --- | --- | --- | --- | --- |', ...rows, all, ''].join('\n');
}
