/** ./brindle bench [--only NAME] [--json]: speed and memory, each beside a reference measured in turn with it. */
import { BadInput, parseCommand } from './badInput';
import { MEASUREMENTS } from './bench/measurements';

export interface Result {
  name: string;
  value: number;
  unit: string;
  /** What the value is held against. */
  reference: string;
  referenceValue: number;
  ratio: number;
}

export async function run(args: string[]): Promise<void> {
  const { values } = parseCommand(args, { only: { type: 'string' }, json: { type: 'boolean' } }, []);
  const names = Object.keys(MEASUREMENTS);
  if (values.only && !names.includes(values.only))
    throw new BadInput(`There is no measurement "${values.only}": there are ${names.join(', ')}.`);
  const results: Result[] = [];
  for (const name of values.only ? [values.only] : names) {
    for (const result of await MEASUREMENTS[name]()) {
      results.push(result);
      if (!values.json) process.stdout.write(`${line(result)}\n`);
    }
  }
  if (values.json) process.stdout.write(`${JSON.stringify(results, null, 2)}\n`);
}

const figure = (v: number) => (Math.abs(v) >= 100 ? Math.round(v).toLocaleString('en') : v.toFixed(2));
const line = (r: Result) =>
  `${r.name}: ${figure(r.value)} ${r.unit}; ${r.reference}: ${figure(r.referenceValue)} ${r.unit}; ratio ${r.ratio.toFixed(2)}`;
