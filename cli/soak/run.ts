/**
 * ./brindle soak [--minutes N] [--rounds N] [--seed S] [--fault NAME] [--out FILE]: a hand works at the real application with all tools, areas
 * and edits while browser, application and database are killed: half of the time within 150 ms of an action, a quarter while the pen is down.
 * After each kill journal, database, history, document and pixels are compared with what must be there.
 */
import { writeFileSync } from 'node:fs';
import { BadInput, callerPath, parseCommand } from '../badInput';
import { seededRandom } from '../../src/core/testing/models';
import { FAULTS, type Fault } from './faults';
import { Server } from './server';
import { SoakReport } from './report';
import { Soak } from './soak';

export async function run(args: string[]): Promise<void> {
  const text = { type: 'string' } as const;
  const { values } = parseCommand(args, { minutes: text, rounds: text, seed: text, out: text, fault: text }, []);
  const number = (name: 'minutes' | 'rounds' | 'seed', start: number) => {
    const n = Number(values[name] ?? start);
    if (!(n > 0)) throw new BadInput(`--${name} is "${values[name]}", but has to be a number above 0.`);
    return n;
  };
  if (values.fault !== undefined && !(FAULTS as readonly string[]).includes(values.fault))
    throw new BadInput(`There is no fault "${values.fault}": there are ${FAULTS.join(', ')}.`);
  const end = Date.now() + number('minutes', values.rounds ? 1e6 : 10) * 60_000;
  const rounds = number('rounds', 1e9);
  const server = await Server.start((line) => process.stdout.write(`${line}\n`));
  const { insertPiece } = await import('../../src/server/pieces');
  const soak = new Soak(server, {
    random: seededRandom(number('seed', 1)),
    fault: values.fault as Fault | undefined,
    insert: (bundle) => insertPiece({ ...bundle, thumbnailPng: null }),
  });
  const report = new SoakReport();
  try {
    for (let n = 1; n <= rounds && Date.now() < end; n++) {
      const started = Date.now();
      const result = await soak.round();
      report.add(result);
      const seconds = ((Date.now() - started) / 1000).toFixed(1);
      process.stdout.write(`${report.line(n)} (${result.told}, ${seconds} s)\n`);
      if (values.out) writeFileSync(callerPath(values.out), report.table());
    }
  } finally {
    await soak.stop();
    await server.stop();
  }
  process.stdout.write(`\n${report.table()}`);
  if (report.lost > 0) process.exitCode = 1;
}
